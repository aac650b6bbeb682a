"""Drive as it can be heard in playing: density of the spectrum, and dirt between a fifth's partials.

Flatness, crest and entropy do not order drive. Density does, within one phrase and one speaker:
clipping fills the gaps between partials and lifts the weak ones. Dirt of a played fifth counts
the energy at frequencies that only intermodulation can make.
"""

from __future__ import annotations

import itertools
import math

import numpy as np
import numpy.typing as npt
import scipy

from cata.core.clip import Audio
from cata.core.measure import frames
from cata.core.measure.material import HALF_RATE_HZ, QUARTER_RATE_HZ, Material, db
from cata.core.measure.nonsense import no_notes
from cata.core.measure.onsets import onsets_of
from cata.core.measure.outcome import Outcome, low_rate, measured, refused, too_short
from cata.said import Said, said

# The length of 8192 points at 48 kHz; the cells end at 6 kHz, so the take at 24 kHz serves. Frames overlap by half:
# with three quarters the density of the bench's takes changes by less than 0.005, at twice the cost.
SIZE, HOP = 4096, 2048
LOW_HZ, HIGH_HZ, CELLS_PER_OCTAVE = 300.0, 6000.0, 12
CELL_RANGE_DB, FRAME_RANGE_DB = 25.0, 30.0
MIN_S = 1.0
SINGLE_NOTE_DB = -30.0

FIFTH_DELAY_S, FIFTH_S = 0.15, 0.8
ROOT_HZ = (60.0, 330.0)
LINES, LINE_HALF_WIDTH_HZ = 24, 8.0
MAX_BETWEEN_DB, MIN_PARTIAL_DB = -30.0, -30.0
MIN_EXPLAINED = 0.5
FIFTH_POINTS = 1 << 14
# Multiples of the unit that root and fifth make by themselves, and those that only both together make.
OWN_LINES = np.array([k for k in range(2, LINES) if math.gcd(k, 6) > 1], dtype=float)
OTHER_LINES = np.array([k for k in range(1, LINES) if math.gcd(k, 6) == 1], dtype=float)
Floats = npt.NDArray[np.float64]


def cell_edges(rate_hz: int) -> npt.NDArray[np.intp]:
    """Bin numbers at the edges of the 1/12-octave cells from 300 Hz to 6 kHz."""
    count = int(CELLS_PER_OCTAVE * math.log2(HIGH_HZ / LOW_HZ))
    hz = LOW_HZ * 2 ** (np.arange(count + 1) / CELLS_PER_OCTAVE)
    return np.round(hz * SIZE / rate_hz).astype(np.intp)


def _loud_frames(material: Material) -> npt.NDArray[np.intp]:
    """Numbers of the frames within 30 dB of the 95th percentile of frame levels."""
    count = frames.frame_count(material.reduced.half.shape[1], SIZE, HOP)
    hop_power = np.zeros(count + SIZE // HOP - 1)
    for plane in material.reduced.half:
        cells = plane[: len(hop_power) * HOP].reshape(-1, HOP)
        hop_power[: len(cells)] += np.einsum("ij,ij->i", cells, cells)
    levels = np.convolve(hop_power, np.ones(SIZE // HOP), mode="valid")[:count]
    return np.flatnonzero(levels > 10 ** (-FRAME_RANGE_DB / 10) * np.percentile(levels, 95))


WITHIN = said("within_phrase", "compare only within one phrase and one speaker")


def drive_density(material: Material) -> Outcome:
    """Share (0 to 1) of 1/12-octave cells, 300 Hz to 6 kHz, within 25 dB of a frame's strongest cell.

    Comparable only within one phrase and one speaker or equaliser; blind below about 9 dB of drive; a
    difference counts from 0.03. Refused under 1 s, for silence, and for single notes above 300 Hz.
    """
    if material.clip.duration_s < MIN_S and not material.silent:
        return refused(too_short(MIN_S))
    if reason := material.shared(no_notes):
        return refused(reason)
    if material.usable_hz < HIGH_HZ:
        return refused(low_rate(material.clip.rate_hz, "6 kHz was not recorded"))
    whole = material.whole
    if db(whole.energy(60.0, 290.0)) - db(whole.energy(60.0, HIGH_HZ)) < SINGLE_NOTE_DB:
        return refused(
            said("high_notes", "only notes above 300 Hz: their partials lie too far apart to tell drive from pitch")
        )
    edges, window = cell_edges(HALF_RATE_HZ), frames.blackman_harris(SIZE)
    first, widths = int(edges[0]), np.diff(edges).astype(np.float32)
    rows = _loud_frames(material)
    cells: list[Floats] = []
    for spectra in zip(*(frames.batches(plane, window, HOP, rows) for plane in material.reduced.half), strict=True):
        power = sum(frames.power(np.ascontiguousarray(one[:, first : edges[-1]])) for one in spectra)
        cells.append(np.add.reduceat(power, edges[:-1] - first, axis=1) / widths)
    psd = np.concatenate(cells)
    share = np.mean(psd > psd.max(axis=1, keepdims=True) * 10 ** (-CELL_RANGE_DB / 10), axis=1)
    return measured(float(share.mean()), WITHIN)


class _Lines:
    """Energies of narrow lines in the spectrum of one held chord."""

    def __init__(self, segment: Audio, rate_hz: int) -> None:
        power = frames.power(scipy.fft.rfft(segment * frames.hann(len(segment)), FIFTH_POINTS))
        self._running = np.concatenate(([0.0], np.cumsum(power, dtype=np.float64)))
        self._bin_hz = rate_hz / FIFTH_POINTS

    def energy(self, low_hz: Floats | float, high_hz: Floats | float) -> Floats:
        """Energy between frequencies, whole bins."""
        low = np.maximum(np.asarray(low_hz) / self._bin_hz, 0).astype(int)
        high = np.minimum(np.asarray(high_hz) / self._bin_hz + 1, len(self._running) - 1).astype(int)
        return np.asarray(self._running[high] - self._running[low])

    def at(self, hz: Floats) -> Floats:
        """Energy within 8 Hz of frequencies."""
        return self.energy(hz - LINE_HALF_WIDTH_HZ, hz + LINE_HALF_WIDTH_HZ)


def _unit_of_fifth(lines: _Lines) -> float | None:
    """Half the root of a fifth: its root is two such units and its fifth three, and both must be there."""
    units = np.arange(ROOT_HZ[0] / 2, ROOT_HZ[1] / 2, 0.25)
    reach = np.maximum(lines.energy(np.full_like(units, 40.0), LINES * units), 1e-30)
    both = np.minimum(lines.at(2 * units), lines.at(3 * units)) / reach
    own = OWN_LINES[:, None] * units
    explained = np.where(both > 10 ** (MIN_PARTIAL_DB / 10), lines.at(own).sum(axis=0) / reach, 0.0)
    best = int(np.argmax(explained))
    return float(units[best]) if explained[best] >= MIN_EXPLAINED else None


def _dirt(segment: Audio, rate_hz: int) -> float | Said:
    """Dirt in dB of one held fifth, or why it cannot be had."""
    lines = _Lines(segment, rate_hz)
    unit = _unit_of_fifth(lines)
    if unit is None:
        return said("no_fifth", "no fifth found")
    clean = float(lines.at(OWN_LINES * unit).sum())
    dirty = float(lines.at(OTHER_LINES * unit).sum())
    low, high = unit - LINE_HALF_WIDTH_HZ, (LINES - 1) * unit + LINE_HALF_WIDTH_HZ
    between = max(float(lines.energy(low, high)) - clean - dirty, 0.0)
    if 10 * math.log10(between / (clean + dirty) + 1e-30) > MAX_BETWEEN_DB:
        return said("between_partials", "too much energy between the partials: noise, or not a clean fifth")
    gap_hz = (high - low) - (LINES - 1) * 2 * LINE_HALF_WIDTH_HZ
    dirty -= between * 2 * LINE_HALF_WIDTH_HZ / max(gap_hz, 1.0) * len(OTHER_LINES)
    if dirty <= 0:
        return said("no_dirt", "no dirt above the noise between the partials")
    return 10 * math.log10(dirty / clean)


def chord_dirt_db(material: Material) -> Outcome:
    """Energy that intermodulation adds to a played fifth, dB re the chord's own partials (median over fifths).

    0.8 s from 150 ms after each onset. Refused where no fifth rings long enough or the energy
    between the partials exceeds -30 dB.
    """
    if reason := material.shared(no_notes):
        return refused(reason)
    rate = QUARTER_RATE_HZ
    times = np.append(material.shared(onsets_of), material.work.duration_s)
    values: list[float] = []
    why = said("no_fifth", "no fifth found: nothing rings for a second")
    for start, end in itertools.pairwise(times):
        if end - start < FIFTH_DELAY_S + FIFTH_S:
            continue
        first = int((start + FIFTH_DELAY_S) * rate)
        found = _dirt(material.reduced.quarter[first : first + int(FIFTH_S * rate)], rate)
        if isinstance(found, Said):
            why = found
        else:
            values.append(found)
    return measured(float(np.median(values))) if values else refused(why)
