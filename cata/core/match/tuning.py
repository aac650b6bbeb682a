"""Difference in tuning of two takes of the same phrase, from their spectral peaks."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
import scipy

from cata.core.match.features import Features
from cata.core.match.lag import ONE_SILENT
from cata.core.measure.pitch import Peaks
from cata.said import Said, said

LOW_CENTS, HIGH_CENTS = -3400, 1700
SEARCH_CENTS = 250
SMOOTH_CENTS = 2.5
MIN_AGREEMENT = 0.5

Floats = npt.NDArray[np.float64]


def histogram(peaks: Peaks) -> Floats:
    """Weight of the peaks in 1-cent bins from -3400 to 1700 cents re A440, smoothed."""
    cents, weights = peaks
    counts, _ = np.histogram(cents, bins=np.arange(LOW_CENTS, HIGH_CENTS + 1), weights=weights)
    return np.asarray(scipy.ndimage.gaussian_filter1d(counts, SMOOTH_CENTS))


def histogram_of(take: Features) -> Floats:
    """That of a take."""
    return histogram((take.peak_cents, take.peak_weights))


def tuning_difference(a: Features, b: Features) -> tuple[float | None, Said | None]:
    """Cents by which ``b`` sounds higher than ``a`` (±0.2), or None and the reason."""
    if a.silent or b.silent:
        return None, ONE_SILENT
    x, y = histogram_of(a), histogram_of(b)
    energy = float(np.sqrt(np.sum(x * x) * np.sum(y * y)))
    if energy <= 0:
        return None, said("no_pitch", "no steady pitch in one of the takes")
    size = scipy.fft.next_fast_len(len(x) + SEARCH_CENTS, real=True)
    r = scipy.fft.irfft(scipy.fft.rfft(y, size) * np.conj(scipy.fft.rfft(x, size)), size) / energy
    window = np.concatenate((r[-SEARCH_CENTS:], r[: SEARCH_CENTS + 1]))
    k = int(np.clip(np.argmax(window), 1, len(window) - 2))
    if window[k] < MIN_AGREEMENT:
        return None, said("pitches_disagree", "the pitches of the two takes do not agree at any tuning")
    before, top, after = window[k - 1 : k + 2]
    curve = before - 2 * top + after
    return float(k - SEARCH_CENTS + (0.5 * (before - after) / curve if curve < 0 else 0.0)), None
