"""Plucked strings, deterministic: a delay line of one period with losses, plucked at one place.

The string is advanced a whole period at a time (each sample depends on one period before), which is
an order of magnitude faster than a sample-by-sample filter. The pickup's place and width are applied
as the string is read, since they belong to where on the string one listens.
Source: Jaffe and Smith 1983, extensions of the plucked-string algorithm.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import scipy

from cata.core.clip import ANALYSIS_RATE_HZ, Audio
from cata.core.signals.phrase import Note, Phrase

Floats = npt.NDArray[np.float64]

PICK_PLACE = 0.16
"""Where the pick strikes, as a share of the string from the bridge."""

RING_T60_S = {0: 9.0, 1: 8.0, 2: 7.0, 3: 6.0, 4: 5.0, 5: 4.5}
MUTED_T60_S = 0.35
RELEASE_S = 0.04
MARGIN = 8


@dataclass(frozen=True, kw_only=True)
class Sensing:
    """Where and how wide a pickup listens: shares of the string length from the bridge, and of its width."""

    place: float = 0.06
    width: float = 0.012


def _lagrange(fraction: float) -> Floats:
    """Four taps that delay by 1 + ``fraction`` samples, flat at low frequencies."""
    d = 1.0 + fraction
    taps = np.ones(4)
    for k in range(4):
        for m in range(4):
            if m != k:
                taps[k] *= (d - m) / (k - m)
    return taps


def _excitation(period: float, strength: float, seed: int, rate_hz: int) -> Floats:
    """One period of the pick's push: shorter, hence brighter, the harder it strikes."""
    length = int(np.ceil(period)) + MARGIN
    width = max(3.0, rate_hz * (0.0011 - 0.0008 * strength))
    t = np.arange(length)
    pulse = np.where(t < width, 0.5 - 0.5 * np.cos(2 * np.pi * t / width), 0.0)
    scrape = np.random.default_rng(seed).standard_normal(length) * np.exp(-t / (0.0015 * rate_hz)) * 0.06
    push = pulse + scrape
    push -= push.mean()
    return push / np.sqrt(np.sum(push**2)) * np.sqrt(period)


def pluck(note: Note, seed: int, rate_hz: int = ANALYSIS_RATE_HZ) -> Floats:
    """The travelling wave of one note, about ±strength, shape (samples,)."""
    hz = 440.0 * 2 ** ((note.midi - 69) / 12)
    period = rate_hz / hz
    t60 = MUTED_T60_S if note.muted else RING_T60_S[note.string] * (110.0 / hz) ** 0.3
    loss = 10 ** (-3.0 / (t60 * hz))
    # Softening of the highs on each round trip: a palm takes far more of them.
    soft = 0.16 if note.muted else 0.035
    # Loss filter (delay 1) and fractional delay (delay 1 to 2) together stand for `whole` samples less.
    whole = int(period - 2.0)
    fraction = period - 2.0 - whole
    taps = np.convolve([soft / 2, 1 - soft, soft / 2], _lagrange(fraction)) * loss
    length = int((note.length_s + RELEASE_S * 3) * rate_hz)
    reach = whole + len(taps) - 1
    line = np.zeros(reach + length)
    first = _excitation(period, note.strength, seed, rate_hz)[: round(period)]
    line[reach : reach + len(first)] = first[: max(0, length)]
    start = reach
    feed = line[reach : reach + len(first)].copy()
    while start < len(line):
        stop = min(start + whole, len(line))
        block = np.convolve(line[start - reach : stop - whole], taps, mode="valid")
        line[start:stop] = block[: stop - start]
        head = max(0, min(stop, reach + len(first)) - start)
        if head > 0:
            line[start : start + head] += feed[start - reach : start - reach + head]
        start = stop
    # A hand that plays at half strength does not halve the amplitude: it also changes the brightness.
    wave = line[reach:] * note.strength**0.8
    fade = int(RELEASE_S * rate_hz)
    end = int(note.length_s * rate_hz)
    if end < len(wave):
        wave[end:] *= np.exp(-np.arange(len(wave) - end) / fade * 2.3)
    return wave


def _comb(wave: Floats, delay: float) -> Floats:
    """wave(t) - wave(t - delay): a string is at rest where a mode has its node."""
    whole = int(delay)
    shifted = np.interp(np.arange(len(wave)) - delay, np.arange(-whole - 2, len(wave)), np.pad(wave, (whole + 2, 0)))
    return np.asarray(wave - shifted)


def render(phrase: Phrase, sensing: Sensing, *, seed: int = 1, rate_hz: int = ANALYSIS_RATE_HZ) -> Audio:
    """The string signal under a pickup at ``sensing``, shape (samples,), about ±1 at the hardest chord."""
    out = np.zeros(int(phrase.length_s * rate_hz))
    for index, note in enumerate(phrase.notes):
        wave = pluck(note, seed * 1000 + index, rate_hz)
        period = rate_hz / (440.0 * 2 ** ((note.midi - 69) / 12))
        picked = _comb(wave, PICK_PLACE * period)
        heard = _comb(picked, 2 * sensing.place * period)
        aperture = max(1, round(sensing.width * period))
        if aperture > 1:
            heard = scipy.signal.lfilter(np.full(aperture, 1 / aperture), [1.0], heard)
        start = int(note.start_s * rate_hz)
        part = heard[: max(0, len(out) - start)]
        out[start : start + len(part)] += part
    return np.asarray(out * 0.05, dtype=np.float32)
