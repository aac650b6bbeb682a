"""Onsets: when notes and chords begin.

Positive spectral flux of log-compressed band energies, 10 ms apart. Compression makes a soft
stroke count as much as a hard one, and bands keep a note that starts under a ringing chord.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
import numpy.typing as npt
import scipy

from cata.core.clip import Audio
from cata.core.measure import frames
from cata.core.measure.material import QUARTER_RATE_HZ, Material, db

# 21 ms at 12 kHz: what strikes a string is heard well below 6 kHz.
SIZE, HOP_S = 256, 0.01
BANDS = 24
LOW_HZ, HIGH_HZ = 70.0, 5900.0
COMPRESSION_DB = 45.0
MIN_GAP_S = 0.06
END_S = 0.03
LEVEL_WINDOW_DB = 40.0
RECENT_FRAMES = 5


@lru_cache(maxsize=2)
def _edges(rate_hz: int) -> npt.NDArray[np.intp]:
    hz = np.geomspace(LOW_HZ, HIGH_HZ, BANDS + 1)
    bins = np.round(hz * SIZE / rate_hz).astype(np.intp)
    return np.unique(bins)


def flux(signal: Audio, rate_hz: int) -> npt.NDArray[np.float64]:
    """Onset strength every 10 ms, shape (frames,); value k belongs to the time k * 10 ms."""
    hop = int(HOP_S * rate_hz)
    padded = np.pad(signal, (SIZE // 2, SIZE // 2))
    window, edges = frames.hann(SIZE, periodic=True), _edges(rate_hz)
    rows = [
        np.add.reduceat(frames.power(spectra[:, : edges[-1]]), edges[:-1], axis=1)
        for spectra in frames.batches(padded, window, hop)
    ]
    energy = np.concatenate(rows)
    top = float(energy.max(initial=0.0))
    if top <= 0:
        return np.zeros(len(energy))
    levels = np.log1p(energy * (10 ** (COMPRESSION_DB / 10) / top))
    rise = np.zeros(len(energy))
    # Against the loudest of 20 to 60 ms before: a 21 ms window sees an attack over two hops, and two strings that
    # beat against each other come and go faster than any hand.
    recent = scipy.ndimage.maximum_filter1d(levels, RECENT_FRAMES, axis=0, origin=RECENT_FRAMES // 2, mode="nearest")
    rise[2:] = np.maximum(levels[2:] - recent[:-2], 0.0).sum(axis=1) / (len(edges) - 1)
    return rise


def flux_of(material: Material) -> npt.NDArray[np.float64]:
    """:func:`flux` of the take's carrier."""
    return flux(material.reduced.quarter, QUARTER_RATE_HZ)


def pick(strength: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
    """Onset times in seconds: local maxima of the strength above its surroundings."""
    if strength.max(initial=0.0) <= 0:
        return np.zeros(0)
    reach = int(MIN_GAP_S / HOP_S)
    local = scipy.ndimage.maximum_filter1d(strength, 2 * reach + 1)
    around = scipy.ndimage.uniform_filter1d(strength, 61)
    threshold = np.maximum(1.5 * around, 0.12 * float(np.percentile(strength, 99.5)))
    hits = np.flatnonzero((strength == local) & (strength > threshold))
    # The flux peaks when the window is half over the attack: one hop after it began.
    return np.maximum(hits * HOP_S - HOP_S, 0.0)


def onsets_of(material: Material) -> npt.NDArray[np.float64]:
    """Onset times of a take in seconds; those 40 dB under the loudest, or at the very end, are left out."""
    times = pick(material.shared(flux_of))
    # Where a take is cut off it clicks; that is no stroke.
    times = times[times < material.work.duration_s - END_S]
    if not times.size or not len(material.blocks):
        return times
    levels = db(material.blocks)
    index = np.minimum((times / 0.05).astype(int), len(levels) - 1)
    nearby = np.maximum(levels[index], levels[np.minimum(index + 1, len(levels) - 1)])
    return np.asarray(times[nearby > levels.max() - LEVEL_WINDOW_DB])
