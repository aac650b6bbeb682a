"""The slate: a short tone signal that marks a take and carries its number.

Two sweeps, one up and one down, frame five symbols of one sine each. The sweeps compress to a point in
time, the symbols say which take it is. All of it lies within two octaves that every guitar amplifier,
loudspeaker and microphone passes, and a symbol is a single sine within one octave, so that clipping adds harmonics
above the symbols but never another symbol. Whatever plays the slate may be distorted or upside down.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy

from cata.core.clip import ANALYSIS_RATE_HZ, Audio, Clip
from cata.errors import Invalid

LOW_HZ, HIGH_HZ = 700.0, 2800.0
SWEEP_S, GAP_S, SYMBOL_S, EDGE_S = 0.18, 0.02, 0.07, 0.008
SYMBOLS, BASE = 5, 16
FIRST_HZ, STEP_HZ = 900.0, 56.0
"""Sixteen tones from 900 to 1740 Hz, four analysis widths (1 / 70 ms) apart."""
LEVEL = 10 ** (-12 / 20)
MAX_TAKE = 999
CHECK_FACTORS = (3, 5, 7, 11)

SYMBOLS_AT_S = SWEEP_S + GAP_S
DOWN_AT_S = SYMBOLS_AT_S + SYMBOLS * (SYMBOL_S + GAP_S)
LENGTH_S = DOWN_AT_S + SWEEP_S


@dataclass(frozen=True)
class SlateMark:
    """What a slate says: the take's number (1 to 999), and whether it stands at the start or the end of the take."""

    take: int
    closes: bool = False


def symbols_of(mark: SlateMark) -> tuple[int, ...]:
    """Four symbols (number and side) and a check symbol. Raises Invalid for a number outside 1 to 999."""
    if not 1 <= mark.take <= MAX_TAKE:
        raise Invalid(f"a slate carries a take number from 1 to {MAX_TAKE}, got {mark.take}", "out_of_range")
    value = mark.take * 2 + mark.closes
    digits = tuple((value >> shift) & 15 for shift in (8, 4, 0))
    first = (digits[0] + 2 * digits[1] + 4 * digits[2] + 9) % BASE
    body = (*digits, first)
    return (*body, _check(body))


def _check(body: tuple[int, ...]) -> int:
    return (sum(factor * digit for factor, digit in zip(CHECK_FACTORS, body, strict=True)) + 1) % BASE


def mark_of(symbols: tuple[int, ...]) -> SlateMark | None:
    """The mark that five symbols stand for; None where they contradict each other."""
    value = symbols[0] << 8 | symbols[1] << 4 | symbols[2]
    take = value // 2
    if not 1 <= take <= MAX_TAKE:
        return None
    mark = SlateMark(take, bool(value & 1))
    return mark if symbols_of(mark) == tuple(symbols) else None


def sweep(rate_hz: int, *, up: bool) -> Audio:
    """One of the two exponential sweeps at full scale, shape (samples,)."""
    t = np.arange(round(SWEEP_S * rate_hz)) / rate_hz
    start, stop = (LOW_HZ, HIGH_HZ) if up else (HIGH_HZ, LOW_HZ)
    wave = scipy.signal.chirp(t, start, SWEEP_S, stop, method="logarithmic", phi=-90)
    return _edged(wave, rate_hz)


def symbol(value: int, rate_hz: int) -> Audio:
    """One symbol at full scale, shape (samples,)."""
    t = np.arange(round(SYMBOL_S * rate_hz)) / rate_hz
    return _edged(np.sin(2 * np.pi * (FIRST_HZ + STEP_HZ * value) * t), rate_hz)


def _edged(wave: np.ndarray[tuple[int], np.dtype[np.float64]], rate_hz: int) -> Audio:
    edge = round(EDGE_S * rate_hz)
    ramp = 0.5 - 0.5 * np.cos(np.pi * (np.arange(edge) + 0.5) / edge)
    wave[:edge] *= ramp
    wave[-edge:] *= ramp[::-1]
    return wave.astype(np.float32)


def slate(mark: SlateMark, rate_hz: int = ANALYSIS_RATE_HZ) -> Clip:
    """The slate of a take as a mono clip of 0.83 s peaking at -12 dBFS: the take begins where it ends.

    ``rate_hz`` from 8 kHz. Raises Invalid for a number outside 1 to 999.
    """
    wave = np.zeros(round(LENGTH_S * rate_hz), dtype=np.float32)

    def put(part: Audio, at_s: float) -> None:
        at = round(at_s * rate_hz)
        wave[at : at + len(part)] += part[: len(wave) - at]

    put(sweep(rate_hz, up=True), 0.0)
    for index, value in enumerate(symbols_of(mark)):
        put(symbol(value, rate_hz), SYMBOLS_AT_S + index * (SYMBOL_S + GAP_S))
    put(sweep(rate_hz, up=False), DOWN_AT_S)
    return Clip.of(wave * np.float32(LEVEL), rate_hz)
