"""Powers of bands over frequency, of signals and of what two of them share: the ground for sums, tones and moves."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt
import scipy

from cata.core.clip import ANALYSIS_RATE_HZ

Floats = npt.NDArray[np.floating[Any]]
LOW_HZ, HIGH_HZ = 56.0, 9_000.0
TINY = 1e-20


def edges(per_octave: float, low_hz: float = LOW_HZ, high_hz: float = HIGH_HZ) -> Floats:
    """Edges in Hz of bands that are so many to the octave, one of them centred on 1 kHz."""
    first, last = (np.ceil(per_octave * np.log2(hz / 1000.0) - 0.5) for hz in (low_hz, high_hz))
    return np.asarray(1000.0 * 2 ** ((np.arange(first, last + 1) + 0.5) / per_octave))


def centres(of: Floats) -> Floats:
    """The middle of each band, in Hz."""
    return np.asarray(np.sqrt(of[:-1] * of[1:]))


def powers(spectrum: Floats, of: Floats, rate_hz: int = ANALYSIS_RATE_HZ) -> Floats:
    """Sums of a spectrum's bins (of an rfft over evenly spaced frequencies) within bands; none is left out."""
    sums = np.concatenate(([0.0], np.cumsum(spectrum)))
    at = np.clip(np.round(of / (rate_hz / 2) * (len(spectrum) - 1)).astype(int), 0, len(spectrum))
    wide = np.maximum(at[1:], at[:-1] + 1)
    return np.asarray(sums[np.minimum(wide, len(spectrum))] - sums[at[:-1]])


@dataclass(frozen=True)
class Pair:
    """Band powers of two signals and the real part of what they share, so that every sum of them is known."""

    first: Floats
    second: Floats
    shared: Floats

    def of_sum(self, gain: Floats | float) -> Floats:
        """Band powers of the first plus the second at a gain (negative: inverted); gains (n, 1) give (n, bands)."""
        return np.maximum(self.first + 2 * gain * self.shared + gain * gain * self.second, TINY)


def pair_of(first: Floats, second: Floats, of: Floats) -> Pair:
    """Two signals of one length at 48 kHz, as they lie."""
    size = scipy.fft.next_fast_len(len(first), real=True)
    a, b = scipy.fft.rfft(first, size), scipy.fft.rfft(second, size)
    return Pair(powers(np.abs(a) ** 2, of), powers(np.abs(b) ** 2, of), powers((a * np.conj(b)).real, of))


def power_of(signal: Floats, of: Floats) -> Floats:
    """Band powers of one signal at 48 kHz."""
    return powers(np.abs(scipy.fft.rfft(signal, scipy.fft.next_fast_len(len(signal), real=True))) ** 2, of)


def in_db(power: Floats) -> Floats:
    """Powers in dB."""
    return np.asarray(10 * np.log10(np.maximum(power, TINY)))
