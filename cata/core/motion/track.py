"""A take over time as motion is looked for: short spectra, the pitch of each line, and how its spectrum ripples."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt
import scipy

from cata.core.clip import Audio
from cata.core.measure import frames
from cata.core.measure.material import QUARTER_RATE_HZ, db

Floats = npt.NDArray[np.floating[Any]]

SIZE, HOP_S = 1024, 0.01
LONGEST_S = 24.0
LOW_HZ, HIGH_HZ = 80.0, 5000.0
FLOOR_PERCENT = 3.0

ECHO_HZ = (150.0, 5000.0)
ECHO_S = (0.06, 1.4)
STEP, NEAR, AMONG = 0.0003, 0.15, 90.0
"""Lags in steps of 0.03 %; an echo is held against 90 % of the lags within 15 %."""
SPECTRUM_FLOOR = 1e-7


@dataclass(frozen=True)
class Track:
    """One take: ``levels_db`` and ``hz`` (frames, bins) every 10 ms, ``floor_db`` of each bin, and ``echo``.

    ``hz`` is the frequency of what sounds in a bin, from how its phase moves on. ``echo`` says for each of
    :data:`LAGS_S` how far a repeat after that time stands out of its surroundings (1: not at all).
    """

    levels_db: Floats
    hz: Floats
    floor_db: Floats
    echo: Floats


def track_of(carrier: Audio) -> Track:
    """The track of a take's carrier at 12 kHz; of its first 24 s."""
    part = carrier[: round(LONGEST_S * QUARTER_RATE_HZ)]
    hop = round(HOP_S * QUARTER_RATE_HZ)
    first, last = (round(hz * SIZE / QUARTER_RATE_HZ) for hz in (LOW_HZ, HIGH_HZ))
    padded = np.pad(part, (SIZE // 2, SIZE // 2))
    spectra = np.concatenate([s[:, first:last] for s in frames.batches(padded, frames.hann(SIZE, True), hop)])
    bins_hz = np.arange(first, last) * QUARTER_RATE_HZ / SIZE
    turned = np.angle(spectra[1:] * np.conj(spectra[:-1]) * np.exp(-2j * np.pi * bins_hz * HOP_S))
    levels = db(np.square(np.abs(spectra[1:]), dtype=np.float64)).astype(np.float32)
    hz = (bins_hz + turned / (2 * np.pi * HOP_S)).astype(np.float32)
    floor = np.percentile(levels, FLOOR_PERCENT, axis=0) if len(levels) else np.zeros(last - first)
    return Track(levels, hz, floor, echo_of(part))


LAGS_S: Floats = np.exp(np.arange(np.log(ECHO_S[0]), np.log(ECHO_S[1]), STEP))


def echo_of(carrier: Audio) -> Floats:
    """How far a repeat after each of :data:`LAGS_S` stands out, from the ripple it lays over the whole spectrum.

    The power cepstrum of the whole take (Bogert, Healy and Tukey 1963): an echo repeats the very waveform, which no
    hand does, so it stands at one lag, sharp as the band is wide.
    """
    reach = round(ECHO_S[1] * (1 + NEAR) * QUARTER_RATE_HZ)
    if len(carrier) < 2 * reach:
        return np.zeros_like(LAGS_S)
    size = scipy.fft.next_fast_len(2 * len(carrier), real=True)
    power = np.square(np.abs(scipy.fft.rfft(carrier, size)), dtype=np.float64)
    hz = np.arange(len(power)) * QUARTER_RATE_HZ / size
    inside = (hz > ECHO_HZ[0]) & (hz < ECHO_HZ[1])
    if power.max() <= 0:
        return np.zeros_like(LAGS_S)
    logs = np.log(power + SPECTRUM_FLOOR * power.max())
    whole = np.zeros(size, dtype=np.complex128)
    whole[: len(logs)] = np.where(inside, logs - logs[inside].mean(), 0.0)
    ripple = np.square(np.abs(scipy.fft.ifft(whole)[:reach]))
    sums = np.concatenate(([0.0], np.cumsum(ripple)))
    first = np.round(LAGS_S * (1 - STEP) * QUARTER_RATE_HZ).astype(np.intp)
    last = np.maximum(np.round(LAGS_S * (1 + STEP) * QUARTER_RATE_HZ).astype(np.intp), first) + 1
    mean = (sums[last] - sums[first]) / (last - first)
    around = scipy.ndimage.percentile_filter(mean, AMONG, round(NEAR / STEP) | 1)
    return np.asarray(np.sqrt(mean / np.maximum(around, 1e-30)))
