"""Circuits: blocks that render a signal, and that know what they do to one period of a tone.

The second is the analytic truth: filters act on the Fourier series of the period by their exact response, curves on its
points, so harmonics come out without time, noise, or aliases. What a reading says of a device is held against it.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import Protocol

import numpy as np
import numpy.typing as npt
import scipy

from cata.core.bench.curves import Curve, clip_with
from cata.core.clip import ANALYSIS_RATE_HZ, Audio

Floats = npt.NDArray[np.float64]
Complex = npt.NDArray[np.complex128]

PERIOD_POINTS = 8192
"""Points of one period: enough for the overtones of a corner to fall below -100 dB before they fold."""
FINE_POINTS = 1 << 18
F = np.float32


class Block(Protocol):
    """One part of a circuit."""

    def process(self, signal: Audio) -> Audio:
        """A signal (samples,) at 48 kHz through it."""

    def period(self, wave: Floats, hz: float) -> Floats:
        """One period (points,) of a steady wave of pitch ``hz`` through it, settled."""


@dataclass(frozen=True)
class Gain:
    """A constant factor."""

    factor: float

    def process(self, signal: Audio) -> Audio:
        """See :class:`Block`."""
        return signal * F(self.factor)

    def period(self, wave: Floats, hz: float) -> Floats:
        """See :class:`Block`."""
        return wave * self.factor


@dataclass(frozen=True)
class Filter:
    """A digital filter b(z)/a(z) at 48 kHz."""

    b: tuple[float, ...]
    a: tuple[float, ...]

    def process(self, signal: Audio) -> Audio:
        """See :class:`Block`."""
        return np.asarray(scipy.signal.lfilter(self.b, self.a, signal.astype(np.float64)), dtype=F)

    def response(self, hz: Floats) -> Complex:
        """Complex gain at frequencies; nothing passes above half the rate."""
        _, found = scipy.signal.freqz(self.b, self.a, worN=np.minimum(hz, ANALYSIS_RATE_HZ / 2), fs=ANALYSIS_RATE_HZ)
        return np.where(hz < ANALYSIS_RATE_HZ / 2, found, 0.0)

    def period(self, wave: Floats, hz: float) -> Floats:
        """See :class:`Block`."""
        return _shaped(wave, hz, self)


@dataclass(frozen=True, eq=False)
class Response:
    """An impulse response (taps,) at 48 kHz."""

    taps: npt.NDArray[np.float32]

    def process(self, signal: Audio) -> Audio:
        """See :class:`Block`."""
        return np.asarray(scipy.signal.oaconvolve(signal, self.taps)[: len(signal)], dtype=F)

    def response(self, hz: Floats) -> Complex:
        """Complex gain at frequencies."""
        grid, gains = self._fine
        found = np.interp(hz, grid, gains.real) + 1j * np.interp(hz, grid, gains.imag)
        return np.where(hz < ANALYSIS_RATE_HZ / 2, found, 0.0)

    @cached_property
    def _fine(self) -> tuple[Floats, Complex]:
        """Frequencies 0.2 Hz apart and the gain at each."""
        grid = np.fft.rfftfreq(FINE_POINTS, 1 / ANALYSIS_RATE_HZ).astype(np.float64)
        return grid, np.asarray(np.fft.rfft(self.taps.astype(np.float64), FINE_POINTS))

    def period(self, wave: Floats, hz: float) -> Floats:
        """See :class:`Block`."""
        return _shaped(wave, hz, self)


@lru_cache(maxsize=256)
def _line_gains(block: Filter | Response, hz: float) -> Complex:
    """Complex gain at every harmonic of a pitch below half the rate, from 0 Hz on."""
    return block.response(np.arange(int(ANALYSIS_RATE_HZ / 2 / hz) + 1, dtype=np.float64) * hz)


def _shaped(wave: Floats, hz: float, block: Filter | Response) -> Floats:
    spectrum = np.fft.rfft(wave)
    gains = np.zeros(len(spectrum), dtype=np.complex128)
    lines = _line_gains(block, hz)
    gains[: len(lines)] = lines
    return np.asarray(np.fft.irfft(spectrum * gains, len(wave)), dtype=np.float64)


@dataclass(frozen=True)
class Shape:
    """A static curve, rendered free of aliases."""

    curve: Curve

    def process(self, signal: Audio) -> Audio:
        """See :class:`Block`."""
        return clip_with(signal, self.curve)

    def period(self, wave: Floats, hz: float) -> Floats:
        """See :class:`Block`."""
        return self.curve.value(wave)


@dataclass(frozen=True)
class Chain:
    """Blocks one after the other."""

    blocks: tuple[Block, ...]

    def process(self, signal: Audio) -> Audio:
        """See :class:`Block`."""
        for block in self.blocks:
            signal = block.process(signal)
        return signal

    def period(self, wave: Floats, hz: float) -> Floats:
        """See :class:`Block`."""
        for block in self.blocks:
            wave = block.period(wave, hz)
        return wave


@dataclass(frozen=True)
class Beside:
    """The signal itself beside what a block makes of it: ``dry`` of the one and ``wet`` of the other."""

    block: Block
    dry: float = 1.0
    wet: float = 1.0

    def process(self, signal: Audio) -> Audio:
        """See :class:`Block`."""
        return signal * F(self.dry) + self.block.process(signal) * F(self.wet)

    def period(self, wave: Floats, hz: float) -> Floats:
        """See :class:`Block`."""
        return wave * self.dry + self.block.period(wave, hz) * self.wet


@dataclass(frozen=True)
class MovingBias:
    """A clipper whose operating point follows the envelope: a coupling capacitor charges on loud passages.

    ``offset`` at rest, ``depth`` per unit of mean absolute level, ``hz`` how fast it follows.
    """

    curve: Curve
    offset: float
    depth: float
    hz: float = 9.0

    def process(self, signal: Audio) -> Audio:
        """See :class:`Block`."""
        level = one_pole(self.hz, "lowpass").process(np.abs(signal))
        return clip_with(signal - F(self.offset) - F(self.depth) * level, self.curve)

    def period(self, wave: Floats, hz: float) -> Floats:
        """See :class:`Block`."""
        follow = one_pole(self.hz, "lowpass")
        level = follow.period(np.abs(wave), hz)
        return self.curve.value(wave - self.offset - self.depth * level)


@dataclass(frozen=True)
class Sagging:
    """A stage whose ceiling sinks while much is asked of its supply.

    ``curve`` clips at full supply; the ceiling falls by ``depth`` per unit of mean absolute output, as fast as a
    low-pass at ``hz`` follows.
    """

    curve: Curve
    depth: float
    hz: float = 3.0

    def process(self, signal: Audio) -> Audio:
        """See :class:`Block`."""
        asked = one_pole(self.hz, "lowpass").process(np.abs(self.curve.value(signal.astype(np.float64))).astype(F))
        supply = 1.0 / (1.0 + F(self.depth) * np.maximum(asked, 0.0))
        return clip_with(signal / supply, self.curve) * supply

    def period(self, wave: Floats, hz: float) -> Floats:
        """See :class:`Block`."""
        asked = one_pole(self.hz, "lowpass").period(np.abs(self.curve.value(wave)), hz)
        supply = 1.0 / (1.0 + self.depth * np.maximum(asked, 0.0))
        return self.curve.value(wave / supply) * supply


def one_pole(hz: float, kind: str) -> Filter:
    """First-order low-pass or high-pass (bilinear, prewarped)."""
    b, a = scipy.signal.butter(1, min(hz, 0.49 * ANALYSIS_RATE_HZ), kind, fs=ANALYSIS_RATE_HZ)
    return Filter(tuple(b.tolist()), tuple(a.tolist()))


def analogue(b: Floats, a: Floats, warp_hz: float | None = None) -> Filter:
    """An analogue transfer function b(s)/a(s) (bilinear, exact at ``warp_hz``)."""
    rate = ANALYSIS_RATE_HZ
    fs = rate if warp_hz is None else np.pi * warp_hz / np.tan(np.pi * warp_hz / rate)
    bz, az = scipy.signal.bilinear(b, a, fs=fs)
    return Filter(tuple(bz.tolist()), tuple(az.tolist()))


def shelf(hz: float, low_db: float, high_db: float) -> Filter:
    """A first-order shelf that turns around ``hz``: ``low_db`` below it, ``high_db`` above it."""
    low, high = 10 ** (low_db / 20), 10 ** (high_db / 20)
    w = 2 * np.pi * hz
    root = np.sqrt(high / low)
    return analogue(np.array([high / root, low * w]), np.array([1.0 / root, w]), hz)


def bell(hz: float, db: float, q: float) -> Filter:
    """A peak or dip of ``db`` at ``hz``."""
    w, gain = 2 * np.pi * hz, 10 ** (db / 20)
    return analogue(np.array([1.0, gain * w / q, w * w]), np.array([1.0, w / q, w * w]), hz)


@dataclass(frozen=True)
class Truth:
    """What a circuit does to a steady tone: ``lines`` complex amplitudes of the harmonics from the fundamental on."""

    hz: float
    dbfs: float
    lines: Complex

    @cached_property
    def gain_db(self) -> float:
        """Gain of the fundamental."""
        return 20 * float(np.log10(np.abs(self.lines[0]) + 1e-15)) - self.dbfs

    def thd(self, harmonics: int) -> float:
        """Distortion, counting harmonics 2 to ``harmonics``."""
        over = self.lines[1:harmonics]
        return float(np.sqrt(np.sum(np.abs(over) ** 2)) / (np.abs(self.lines[0]) + 1e-15))


def truth(block: Block, hz: float, dbfs: float) -> Truth:
    """The analytic answer of a circuit to a steady sine of pitch ``hz`` and peak level ``dbfs``."""
    wave = 10 ** (dbfs / 20) * np.sin(2 * np.pi * np.arange(PERIOD_POINTS) / PERIOD_POINTS)
    spectrum = np.fft.rfft(block.period(wave, hz)) * (2 / PERIOD_POINTS)
    return Truth(hz, dbfs, spectrum[1 : max(int(ANALYSIS_RATE_HZ / 2 / hz), 2)])
