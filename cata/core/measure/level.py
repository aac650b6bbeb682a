"""Level: loudness, true peak, sample peak, crest, peak to loudness.

Loudness follows ITU-R BS.1770-4 at the take's own rate; true peak is the largest value of the
8 times oversampled signal, refined by a parabola.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
import numpy.typing as npt
import scipy.signal

from cata.core.clip import Audio, Clip
from cata.core.measure.material import Material
from cata.core.measure.outcome import Outcome, measured, refused

# BS.1770-4 Annex 1: the analogue prototypes behind its 48 kHz coefficients.
SHELF_HZ, SHELF_DB, SHELF_Q = 1681.974450955533, 3.999843853973347, 0.7071752369554196
HIGH_PASS_HZ, HIGH_PASS_Q = 38.13547087602444, 0.5003270373238773
OFFSET_LUFS = -0.691
ABSOLUTE_GATE_LUFS, RELATIVE_GATE_LU = -70.0, -10.0
CELL_S, CELLS_PER_BLOCK = 0.1, 4
DUAL_MONO_LU = 10 * np.log10(2.0)

OVERSAMPLING, HALF_TAPS, KAISER_BETA = 8, 24, 9.0
PEAK_BLOCK = 512


@lru_cache(maxsize=16)
def k_filter(rate_hz: int) -> npt.NDArray[np.float64]:
    """The K weighting as second-order sections, shape (2, 6), re-derived for the rate (bilinear)."""
    k = np.tan(np.pi * SHELF_HZ / rate_hz)
    vh = 10 ** (SHELF_DB / 20)
    vb = vh**0.4996667741545416
    a0 = 1 + k / SHELF_Q + k * k
    shelf = [
        (vh + vb * k / SHELF_Q + k * k) / a0,
        2 * (k * k - vh) / a0,
        (vh - vb * k / SHELF_Q + k * k) / a0,
        1.0,
        2 * (k * k - 1) / a0,
        (1 - k / SHELF_Q + k * k) / a0,
    ]
    k = np.tan(np.pi * HIGH_PASS_HZ / rate_hz)
    a0 = 1 + k / HIGH_PASS_Q + k * k
    high_pass = [1.0, -2.0, 1.0, 1.0, 2 * (k * k - 1) / a0, (1 - k / HIGH_PASS_Q + k * k) / a0]
    return np.array([shelf, high_pass])


def k_weighted(plane: Audio, rate_hz: int) -> Audio:
    """One channel through the K weighting.

    float32 up to 48 kHz (within 2e-5 LU); above that the high-pass poles come too close to 1.
    """
    dtype = np.float32 if rate_hz <= 48_000 else np.float64
    return np.asarray(scipy.signal.sosfilt(k_filter(rate_hz).astype(dtype), plane.astype(dtype, copy=False)))


def k_cells(clip: Clip) -> npt.NDArray[np.float64]:
    """K-weighted mean square of consecutive 100 ms cells, summed over the channels (BS.1770 weights 1.0)."""
    size = CELL_S * clip.rate_hz
    count = int(clip.length / size)
    edges = np.round(np.arange(count + 1) * size).astype(int)
    total = np.zeros(count)
    for plane in clip.distinct:
        weighted = k_weighted(plane, clip.rate_hz)
        if size.is_integer():
            cells = weighted[: edges[-1]].reshape(count, -1)
            total += np.einsum("ij,ij->i", cells, cells) / size
        elif count:
            np.square(weighted, out=weighted)
            total += np.add.reduceat(weighted[: edges[-1]], edges[:-1]) / np.diff(edges)
    return total * (clip.channels / clip.distinct.shape[0])


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


def loudness_lufs(material: Material) -> Outcome:
    """Integrated loudness in LUFS. Refused under 0.4 s and for silence. Source: ITU-R BS.1770-4."""
    if material.clip.duration_s < CELL_S * CELLS_PER_BLOCK:
        return refused("shorter than 0.4 s, the block that loudness is defined on")
    loudness = gated_loudness(k_cells(material.clip))
    if loudness is None:
        return refused("silent: nothing above the gate of -70 LUFS")
    if material.dual_mono and material.clip.channels == 1:
        loudness += DUAL_MONO_LU
    flag = "from a lossy file: encoders shift the level by up to 0.5 dB" if material.lossy else None
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


def true_peak(planes: Audio) -> float:
    """Largest value between the samples of (channels, samples), linear.

    The ends are reflected oddly: padding with zeros would invent up to 1 dB on a cut note. Only
    512-sample blocks whose local maximum times the interpolator's largest gain could exceed
    the best value so far are evaluated, loudest first; the result is that of all of them.
    """
    kernel = _phases()
    gain = float(np.abs(kernel).sum(axis=0).max())
    best = 0.0
    for plane in planes:
        length = plane.shape[0]
        if length == 0:
            continue
        pad = min(HALF_TAPS, length - 1)
        ends = np.pad(plane, pad, mode="reflect", reflect_type="odd") if pad else plane
        # Zeros only ever stand beyond the reflected ends.
        count = -(-length // PEAK_BLOCK)
        room = HALF_TAPS - pad
        padded = np.pad(ends, (room, room + count * PEAK_BLOCK - length))
        windows = np.lib.stride_tricks.sliding_window_view(padded, PEAK_BLOCK + 2 * HALF_TAPS)[::PEAK_BLOCK]
        local = np.maximum(windows.max(axis=1), -windows.min(axis=1))
        order = np.argsort(local)[::-1]
        best = max(best, float(np.abs(plane).max()))
        for block in order:
            if gain * float(local[block]) <= best:
                break
            best = max(best, _block_peak(windows[block], kernel, best))
    return best


def _block_peak(block: Audio, kernel: npt.NDArray[np.float32], best: float) -> float:
    """Largest interpolated value of one block with its context."""
    views = np.lib.stride_tricks.sliding_window_view(block[1:], 2 * HALF_TAPS)[:PEAK_BLOCK]
    between = views @ kernel
    if float(np.abs(between).max()) <= 0.9 * best:
        return 0.0
    fine = np.empty((PEAK_BLOCK, OVERSAMPLING), dtype=np.float32)
    fine[:, 0] = block[HALF_TAPS : HALF_TAPS + PEAK_BLOCK]
    fine[:, 1:] = between
    return _parabolic_peak(fine.reshape(-1))


def to_db(amplitude: float) -> float:
    """20 lg of an amplitude."""
    return float(20 * np.log10(amplitude)) if amplitude > 0 else float("-inf")


def true_peak_dbtp(material: Material) -> Outcome:
    """Largest true peak of any channel in dBTP (BS.1770-4 Annex 2, here 8 times oversampled)."""
    if material.silent:
        return refused("silent")
    return measured(to_db(true_peak(material.clip.distinct)))


def sample_peak_dbfs(material: Material) -> Outcome:
    """Largest absolute sample in dBFS."""
    return refused("silent") if material.silent else measured(to_db(material.peak))


def _rms_db(material: Material) -> float:
    planes = material.clip.distinct
    power = sum(float(np.dot(plane, plane)) / plane.shape[0] for plane in planes) / planes.shape[0]
    return float(10 * np.log10(power))


def crest_db(material: Material) -> Outcome:
    """Sample peak over RMS (all channels) in dB; a sine has 3.01."""
    return refused("silent") if material.silent else measured(to_db(material.peak) - _rms_db(material))


def plr_db(material: Material) -> Outcome:
    """True peak minus loudness in dB; small values mean a squashed take."""
    loudness, peak = material.shared(loudness_lufs), material.shared(true_peak_dbtp)
    if not isinstance(loudness.value, float) or not isinstance(peak.value, float):
        return refused(loudness.refusal or peak.refusal or "no level")
    return measured(peak.value - loudness.value)
