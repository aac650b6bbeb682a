"""The strokes of a take: from where each is struck to where it has died away, is damped, or the next begins."""

from __future__ import annotations

import itertools
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from cata.core.measure.material import CELL_S, Material, db
from cata.core.measure.noise import Noise, find_noise
from cata.core.measure.onsets import onsets_of

Floats = npt.NDArray[np.float64]

SMOOTH_CELLS, TOP_S = 5, 0.15
HELD_DB, LEAST_S = 20.0, 0.04
OVER_FLOOR_DB = 6.0
PAUSE_PERCENT, EVEN_DB, PAUSE_DB = (2.0, 12.0), 2.0, 13.0
SILENT_DB = -120.0


@dataclass(frozen=True)
class Stroke:
    """A stroke: ``first`` and ``last`` of the 5 ms cells in which it is held."""

    first: int
    last: int


def floor_db(material: Material) -> float:
    """Level in dB of what sounds while nobody plays; -120 where no pause shows it."""
    noise = material.shared(find_noise)
    if isinstance(noise, Noise):
        return float(db(noise.power))
    if not len(material.blocks):
        return SILENT_DB
    low, middle, loud = (float(one) for one in np.percentile(db(material.blocks), (*PAUSE_PERCENT, 95)))
    # Hiss stays where it is; what dies away passes each level soon.
    return middle if middle - low < EVEN_DB and loud - middle > PAUSE_DB else SILENT_DB


def smoothed_db(material: Material) -> Floats:
    """Level in dB every 5 ms, over 25 ms."""
    cells = material.cells
    if len(cells) < SMOOTH_CELLS:
        return db(cells)
    return db(np.convolve(cells, np.full(SMOOTH_CELLS, 1 / SMOOTH_CELLS), mode="same"))


def strokes_of(material: Material) -> list[Stroke]:
    """The strokes clear of the noise, each as long as it is held: within 20 dB of its top, 6 dB over the noise."""
    levels, floor = material.shared(smoothed_db), material.shared(floor_db)
    times = [*material.shared(onsets_of).tolist(), material.work.duration_s]
    found = []
    for start, end in itertools.pairwise(times):
        first, last = int(start / CELL_S), min(int(end / CELL_S), len(levels))
        if last - first < LEAST_S / CELL_S:
            continue
        at = first + int(np.argmax(levels[first : min(last, first + int(TOP_S / CELL_S))]))
        top = float(levels[at])
        below = np.flatnonzero(levels[at:last] < max(top - HELD_DB, floor + OVER_FLOOR_DB))
        stop = at + int(below[0]) if len(below) else last
        if stop - at >= LEAST_S / CELL_S:
            found.append(Stroke(at, stop))
    return found
