"""Tuning: how far the strings lie from A = 440 Hz, taken from the spectral peaks of the playing."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from cata.core.measure import frames
from cata.core.measure.material import QUARTER_RATE_HZ, Material
from cata.core.measure.nonsense import no_notes
from cata.core.measure.outcome import Outcome, measured, refused, too_short
from cata.said import said

# 0.68 s: at 12 kHz bins of 1.5 Hz, so that a parabola places a low string within 0.2 cent.
SIZE, HOP = 8192, 8192
LOW_HZ, HIGH_HZ = 70.0, 1000.0
FRAME_RANGE_DB, PEAK_RANGE_DB = 30.0, 40.0
A440 = 440.0
MIN_RESULTANT = 0.3
SHIFT_CENTS = (20.0, 12.0, 7.0)
Peaks = tuple[npt.NDArray[np.float64], npt.NDArray[np.float64]]


def find_peaks(signal: npt.NDArray[np.float32], rate_hz: int, high_hz: float = HIGH_HZ) -> Peaks:
    """Spectral peaks from 70 Hz to ``high_hz``: cents above A440, and weights √amplitude; both (peaks,).

    A parabola through the logarithms of three bins of a Blackman-Harris window is within 0.3 cent
    at 82 Hz.
    """
    bin_hz = rate_hz / SIZE
    low, high = int(LOW_HZ / bin_hz), int(high_hz / bin_hz) + 1
    spectra = np.concatenate([s[:, : high + 2] for s in frames.batches(signal, frames.blackman_harris(SIZE), HOP)])
    levels = 10 * np.log10(frames.power(spectra).astype(np.float64) + 1e-30)
    tops = levels[:, low:].max(axis=1)
    levels = levels[tops > np.percentile(tops, 95) - FRAME_RANGE_DB]
    before, here, after = (levels[:, low + shift : high + shift] for shift in (-1, 0, 1))
    is_peak = (here > before) & (here >= after) & (here > here.max(axis=1, keepdims=True) - PEAK_RANGE_DB)
    frame, k = np.nonzero(is_peak)
    a, b, c = before[frame, k], here[frame, k], after[frame, k]
    curve = np.minimum(a - 2 * b + c, -1e-9)
    shift = 0.5 * (a - c) / curve
    top = b - 0.25 * (a - c) * shift
    return 1200 * np.log2((low + k + shift) * bin_hz / A440), 10 ** (top / 40)


def peaks_of(material: Material) -> Peaks:
    """:func:`find_peaks` of the take's carrier."""
    return find_peaks(material.reduced.quarter, QUARTER_RATE_HZ)


def tuning_cents(material: Material) -> Outcome:
    """Mean deviation in cents (-50 to 50) from equal temperament on A = 440 Hz.

    Circular mean of the peaks modulo 100 cents, then a mean shift over ±20, 12 and 7 cents. Refused
    where the peaks agree too little (resultant < 0.3): noise, percussion, bends.
    """
    if reason := material.shared(no_notes):
        return refused(reason)
    if material.clip.duration_s < 0.5:
        return refused(too_short(0.5))
    cents, weights = material.shared(peaks_of)
    if not cents.size:
        return refused(said("no_pitch", "no steady pitch between 70 and 1000 Hz"))
    resultant = np.sum(weights * np.exp(2j * np.pi * cents / 100)) / np.sum(weights)
    if abs(resultant) < MIN_RESULTANT:
        return refused(said("pitches_disagree", "the pitches do not agree on one tuning: bends, noise or percussion"))
    centre = float(np.angle(resultant) * 100 / (2 * np.pi))
    for reach in SHIFT_CENTS:
        offset = (cents - centre + 50) % 100 - 50
        near = np.abs(offset) <= reach
        if near.any():
            centre += float(np.average(offset[near], weights=weights[near]))
    return measured((centre + 50) % 100 - 50)
