"""What is no playing at all: a constant level, a click, steady hiss, a tone nobody hears. Such files are read, but what
only notes have is refused.
"""

from __future__ import annotations

import numpy as np

from cata.core.measure.material import Material
from cata.core.measure.outcome import SILENT, too_short
from cata.core.measure.regions import HIGHEST_HZ, LOWEST_HZ
from cata.said import Said, said

HEARD_SHARE = 1e-4
CONSTANT_SHARE = 0.5
CLICK_S, CLICK_SHARE = 0.02, 0.9
FLAT_HZ, FLAT, STEADY_DB = (300.0, 3000.0), 0.5, 2.0
"""Bins of noise scatter as squares of normal draws: their geometric mean is 0.56 of the mean; of notes, a tenth."""
TINY = 1e-30


def no_tone(material: Material) -> Said | None:
    """Why a file holds nothing that has a tone: silence, a constant level, a click, what nobody hears; or None."""
    if material.silent:
        return SILENT
    total = material.clip.mean_square
    constant = float(np.mean(np.square(material.block_means.mean(axis=1)))) if len(material.blocks) else 0.0
    if constant > CONSTANT_SHARE * total:
        return said("constant", "a constant level: no sound")
    if material.whole.energy(LOWEST_HZ, HIGHEST_HZ) < HEARD_SHARE * total:
        return said("nothing_heard", "nothing between 60 Hz and 12 kHz")
    cells = material.cells
    if not len(cells):
        return too_short(0.005)
    width = max(1, round(CLICK_S / 0.005))
    loudest = float(np.convolve(cells, np.ones(width)).max(initial=0.0))
    if loudest > CLICK_SHARE * float(cells.sum()):
        return said("click", "a click: no notes")
    return None


def no_notes(material: Material) -> Said | None:
    """Why a file holds no notes: what has no tone, or steady hiss; None where it may hold some."""
    reason = material.shared(no_tone)
    if reason is not None:
        return reason
    first, last = (round(hz / material.whole.bin_hz) for hz in FLAT_HZ)
    bins = material.whole.power[first:last].astype(np.float64) + TINY
    levels = 10 * np.log10(material.blocks[1:-1] + TINY)
    steady = len(levels) > 2 and float(np.subtract(*np.percentile(levels, (95, 5)))) < STEADY_DB
    if steady and float(np.exp(np.mean(np.log(bins))) / np.mean(bins)) > FLAT:
        return said("steady_noise", "steady noise: no notes")
    return None
