"""Level: loudness, true peak, sample peak, crest, peak to loudness.

Loudness follows ITU-R BS.1770-4 at the take's own rate; true peak is the largest value of the
8 times oversampled signal, refined by a parabola.
"""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np
import numpy.typing as npt

from cata.core.clip import ANALYSIS_RATE_HZ, BLOCK, Audio, Clip
from cata.core.measure import segments
from cata.core.measure.kweight import k_response, k_weighted
from cata.core.measure.material import Material, block_powers
from cata.core.measure.outcome import SILENT, Outcome, measured, refused, too_short
from cata.said import said

OFFSET_LUFS = -0.691
ABSOLUTE_GATE_LUFS, RELATIVE_GATE_LU = -70.0, -10.0
CELL_S, CELLS_PER_BLOCK = 0.1, 4
DUAL_MONO_LU = 10 * np.log10(2.0)

OVERSAMPLING, HALF_TAPS, KAISER_BETA = 8, 24, 9.0
END_GAPS = 8
FEW_BLOCKS = 32


def k_cells(clip: Clip) -> npt.NDArray[np.float64]:
    """K-weighted mean square of consecutive 100 ms cells, summed over the channels (BS.1770 weights 1.0)."""
    size = CELL_S * clip.rate_hz
    count = int(clip.length / size)
    edges = np.round(np.arange(count + 1) * size).astype(int)
    total = np.zeros(count)
    for plane in clip.distinct:
        weighted = k_weighted(plane, clip.rate_hz)
        if count:
            np.square(weighted, out=weighted)
            total += np.add.reduceat(weighted[: edges[-1]], edges[:-1]) / np.diff(edges)
    return total * (clip.channels / clip.distinct.shape[0])


def k_cells_at_48k(material: Material) -> npt.NDArray[np.float64]:
    """:func:`k_cells` of a take that came at 48 kHz, from what the long pass has already filtered.

    Below 12 kHz the weighting was applied to the spectrum; above, it is level, so the energy there (that of the
    take less that of its lower half) needs one factor only. Within 0.005 LU of the filter in time.
    """
    work, reduced = material.work, material.reduced
    top = float(np.abs(k_response(ANALYSIS_RATE_HZ, 5)[3])) ** 2
    size = int(CELL_S * work.rate_hz)
    count = work.length // size
    whole = material.powers_over(20)[:count]
    low = block_powers(reduced.half, size // segments.HALF)[:count]
    weighted = block_powers(reduced.half_weighted, size // segments.HALF)[:count]
    return (weighted + top * np.maximum(whole - low, 0.0)) * work.channels


def gated_loudness(cells: npt.NDArray[np.float64]) -> float | None:
    """Gated loudness in LUFS of 100 ms cells (BS.1770-4 clause 5); None where no block passes the gate."""
    if len(cells) < CELLS_PER_BLOCK:
        return None
    blocks = np.convolve(cells, np.full(CELLS_PER_BLOCK, 1 / CELLS_PER_BLOCK), mode="valid")
    floor = 10 ** ((ABSOLUTE_GATE_LUFS - OFFSET_LUFS) / 10)
    heard = blocks[blocks > floor]
    if not heard.size:
        return None
    gate = heard.mean() * 10 ** (RELATIVE_GATE_LU / 10)
    heard = heard[heard > gate]
    return float(OFFSET_LUFS + 10 * np.log10(heard.mean()))


LOSSY = said("lossy", "from a lossy file: encoders shift the level by up to 0.5 dB")


def loudness_lufs(material: Material) -> Outcome:
    """Integrated loudness in LUFS. Refused under 0.4 s and for silence. Source: ITU-R BS.1770-4."""
    if material.clip.duration_s < CELL_S * CELLS_PER_BLOCK:
        return refused(too_short(0.4, ", the block that loudness is defined on"))
    at_48k = material.clip.rate_hz == ANALYSIS_RATE_HZ
    loudness = gated_loudness(k_cells_at_48k(material) if at_48k else k_cells(material.clip))
    if loudness is None:
        return refused(said("silent", "silent: nothing above the gate of -70 LUFS"))
    if material.dual_mono and material.clip.channels == 1:
        loudness += DUAL_MONO_LU
    flag = LOSSY if material.lossy else None
    return measured(loudness, flag)


@lru_cache(maxsize=1)
def _phases() -> npt.NDArray[np.float32]:
    """The interpolator, shape (2 * HALF_TAPS, OVERSAMPLING - 1): one column a position between two samples."""
    offsets = np.arange(1, OVERSAMPLING) / OVERSAMPLING
    taps = np.arange(-HALF_TAPS + 1, HALF_TAPS + 1)
    distance = taps[:, None] - offsets[None, :]
    window = np.i0(KAISER_BETA * np.sqrt(np.maximum(0.0, 1 - (distance / HALF_TAPS) ** 2))) / np.i0(KAISER_BETA)
    kernel = np.sinc(distance) * window
    return np.asarray(kernel / kernel.sum(axis=0), dtype=np.float32)


def _parabolic_peak(y: npt.NDArray[np.float32]) -> float:
    """Top of the parabola through the largest |y| and its two neighbours."""
    i = int(np.argmax(np.abs(y)))
    if not 0 < i < len(y) - 1:
        return float(abs(y[i]))
    a, b, c = (float(v) for v in np.abs(y[i - 1 : i + 2]))
    curve = a - 2 * b + c
    return b if curve >= 0 else b - (a - c) ** 2 / (8 * curve)


def true_peak(clip: Clip) -> float:
    """Largest value between the samples of a clip, linear.

    The ends are reflected oddly: padding with zeros would invent up to 1 dB on a cut note. What lies beyond them
    is a guess all the same, so the nearest eight gaps at either end do not count. Only
    512-sample blocks that could exceed the best value so far are evaluated, loudest first; the result is that of
    all of them. What a block can reach is bounded twice: by the interpolator's largest gain, and by straight
    lines between the samples plus what its curvature (second differences) can add.
    """
    high, low = clip.block_extremes
    best = max((max(up, -down) for up, down in clip.extremes), default=0.0)
    for plane, own in zip(clip.distinct, np.maximum(high, -low), strict=True):
        if plane.shape[0]:
            best = _plane_peak(plane, own, best)
    return best


def _plane_peak(plane: Audio, own: Audio, best: float) -> float:
    gain, bend = _reach()
    # A block's context lies in its neighbours; an odd reflection reaches up to twice the end less what it mirrors.
    around = np.concatenate(([3 * own[0]], own, [3 * own[-2:].max()]))
    tops = np.maximum(np.maximum(around[:-2], own), around[2:])
    able = np.flatnonzero(gain * tops > best)
    if not able.size:
        return best
    reach = np.minimum(gain * tops[able], tops[able] + bend * _bends(plane, able))
    for place in np.argsort(reach)[::-1]:
        if reach[place] <= best:
            break
        best = max(best, _block_peak(plane, int(able[place]), best))
    return best


def _bends(plane: Audio, blocks: npt.NDArray[np.intp]) -> Audio:
    """Largest second difference in and around each of some blocks, a few at a time so that they stay in the cache."""
    bends = np.empty(len(blocks), dtype=np.float32)
    for start in range(0, len(blocks), FEW_BLOCKS):
        contexts = np.stack([_context(plane, int(block)) for block in blocks[start : start + FEW_BLOCKS]])
        slopes = contexts[:, 1:] - contexts[:, :-1]
        curves = slopes[:, 1:] - slopes[:, :-1]
        bends[start : start + FEW_BLOCKS] = np.maximum(curves.max(axis=1), -curves.min(axis=1))
    return bends


def _context(plane: Audio, block: int) -> Audio:
    """The samples of a block with those around it that the interpolator needs; the ends reflected oddly."""
    start, stop = block * BLOCK - HALF_TAPS, (block + 1) * BLOCK + HALF_TAPS
    length = plane.shape[0]
    if start >= 0 and stop <= length:
        return plane[start:stop]
    pad = min(HALF_TAPS, length - 1)
    near = plane[max(0, start) : min(length, stop)]
    room = np.zeros(stop - start, dtype=np.float32)
    room[max(0, -start) : max(0, -start) + len(near)] = near
    if start < 0 and pad:
        room[HALF_TAPS - pad : HALF_TAPS] = 2 * plane[0] - plane[pad:0:-1]
    if stop > length and pad:
        mirrored = 2 * plane[-1] - plane[-2 : -pad - 2 : -1]
        place = length - start
        room[place : place + pad] = mirrored[: len(room) - place]
    return room


@lru_cache(maxsize=1)
def _reach() -> tuple[float, float]:
    """Largest gain of the interpolator on samples, and of what it adds to straight lines on second differences."""
    kernel = _phases().astype(np.float64)
    gain = float(np.abs(kernel).sum(axis=0).max())
    offsets = np.arange(1, OVERSAMPLING) / OVERSAMPLING
    bent = kernel.copy()
    bent[HALF_TAPS - 1] -= 1 - offsets
    bent[HALF_TAPS] -= offsets
    # The rest has no sum and no slope, so it is a filter on second differences: its double running sum.
    double = np.cumsum(np.cumsum(bent, axis=0), axis=0)
    return gain, float(np.abs(double).sum(axis=0).max())


def _block_peak(plane: Audio, block: int, best: float) -> float:
    """Largest interpolated value of one block of a channel; 0 where it does not come near the best so far."""
    context = _context(plane, block)
    views = np.lib.stride_tricks.sliding_window_view(context[1:], 2 * HALF_TAPS)[:BLOCK]
    # A copy, since a product with overlapping views does not reach the fast path.
    between = np.ascontiguousarray(views) @ _phases()
    first = END_GAPS - block * BLOCK
    last = plane.shape[0] - 1 - END_GAPS - block * BLOCK
    between[: max(0, first)] = 0.0
    between[max(0, last) :] = 0.0
    if float(np.abs(between).max()) <= 0.9 * best:
        return 0.0
    fine = np.empty((BLOCK, OVERSAMPLING), dtype=np.float32)
    fine[:, 0] = context[HALF_TAPS : HALF_TAPS + BLOCK]
    fine[:, 1:] = between
    return _parabolic_peak(fine[max(0, first) : max(1, last)].reshape(-1))


def to_db(amplitude: float) -> float:
    """20 lg of an amplitude."""
    return float(20 * np.log10(amplitude)) if amplitude > 0 else float("-inf")


def true_peak_dbtp(material: Material) -> Outcome:
    """Largest true peak of any channel in dBTP (BS.1770-4 Annex 2, here 8 times oversampled)."""
    if material.silent:
        return refused(SILENT)
    return measured(to_db(true_peak(material.clip)))


def sample_peak_dbfs(material: Material) -> Outcome:
    """Largest absolute sample in dBFS."""
    return refused(SILENT) if material.silent else measured(to_db(material.peak))


def crest_db(material: Material) -> Outcome:
    """Sample peak over RMS (all channels) in dB; a sine has 3.01."""
    if material.silent:
        return refused(SILENT)
    return measured(max(0.0, to_db(material.peak / math.sqrt(material.clip.mean_square))))


def plr_db(material: Material) -> Outcome:
    """True peak minus loudness in dB; small values mean a squashed take."""
    loudness, peak = material.shared(loudness_lufs), material.shared(true_peak_dbtp)
    if not isinstance(loudness.value, float) or not isinstance(peak.value, float):
        return refused(loudness.refusal or peak.refusal or SILENT)
    return measured(peak.value - loudness.value)
