"""Devices that move or repeat, and such as stand still: what is true of each is known."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import scipy.signal

Floats = npt.NDArray[np.float64]
RATE_HZ = 48_000


@dataclass(frozen=True)
class Moving:
    """A device with the rate in Hz at which it moves, or the time in seconds after which it repeats, or how long it
    rings on (seconds to -60 dB)."""

    through: Callable[[Floats], Floats]
    rate_hz: float | None = None
    time_s: float | None = None
    ring_s: float | None = None
    follows: bool = False


def _at(signal: Floats, place: Floats) -> Floats:
    """The signal at fractional places, by a cubic through four samples."""
    place = np.clip(place, 1, len(signal) - 3)
    i = place.astype(np.intp)
    t = place - i
    a, b, c, d = signal[i - 1], signal[i], signal[i + 1], signal[i + 2]
    return b + 0.5 * t * (c - a + t * (2 * a - 5 * b + 4 * c - d + t * (3 * (b - c) + d - a)))


def swing(n: int, rate_hz: float, shape: str = "sine", phase: float = 0.3) -> Floats:
    """A wave from -1 to 1."""
    turn = (np.arange(n) * rate_hz / RATE_HZ + phase) % 1.0
    if shape == "triangle":
        return 4 * np.abs(turn - 0.5) - 1
    if shape == "square":
        return np.tanh(12 * np.sin(2 * np.pi * turn))
    return np.sin(2 * np.pi * turn)


def chorus(rate_hz: float, *, delay_ms: float = 9.0, depth_ms: float = 2.0, mix: float = 0.5, back: float = 0.0,
           shape: str = "sine") -> Callable[[Floats], Floats]:  # fmt: skip
    """A copy whose delay swings, beside the dry sound: chorus, flanger (short, with feedback), vibrato (mix 1)."""

    def through(x: Floats) -> Floats:
        place = np.arange(len(x)) - (delay_ms + depth_ms * swing(len(x), rate_hz, shape)) * RATE_HZ / 1000
        wet, source = np.zeros_like(x), x
        for strength in (1.0, back, back**2, back**3, back**4):
            if not strength:
                break
            source = _at(source, place)
            wet += strength * source
        return np.asarray((1 - mix) * x + mix * wet)

    return through


def phaser(rate_hz: float, *, stages: int = 4, low_hz: float = 200.0, high_hz: float = 2000.0,
           mix: float = 0.5) -> Callable[[Floats], Floats]:  # fmt: skip
    """All-passes whose corner swings between two frequencies, beside the dry sound."""

    def through(x: Floats) -> Floats:
        block, out = 64, np.empty_like(x)
        hz = low_hz * (high_hz / low_hz) ** (0.5 + 0.5 * swing(len(x), rate_hz))
        states = [np.zeros(1) for _ in range(stages)]
        for start in range(0, len(x), block):
            part = x[start : start + block]
            t = np.tan(np.pi * hz[start] / RATE_HZ)
            a = (t - 1) / (t + 1)
            for k in range(stages):
                part, states[k] = scipy.signal.lfilter([a, 1], [1, a], part, zi=states[k])
            out[start : start + block] = part
        return np.asarray((1 - mix) * x + mix * out)

    return through


def tremolo(rate_hz: float, depth: float = 0.6, shape: str = "sine") -> Callable[[Floats], Floats]:
    """The level swings; ``depth`` is the share it falls by."""
    return lambda x: x * (1 - depth * (0.5 + 0.5 * swing(len(x), rate_hz, shape)))


def harmonic_tremolo(rate_hz: float, depth: float = 0.7) -> Callable[[Floats], Floats]:
    """Lows and highs swing against each other."""
    sos = scipy.signal.butter(1, 700, fs=RATE_HZ, output="sos")

    def through(x: Floats) -> Floats:
        low = scipy.signal.sosfilt(sos, x)
        wave = 0.5 + 0.5 * swing(len(x), rate_hz)
        return np.asarray(low * (1 - depth * wave) + (x - low) * (1 - depth * (1 - wave)))

    return through


def rotary(rate_hz: float, depth: float = 0.5) -> Callable[[Floats], Floats]:
    """A horn above 800 Hz that turns: level and pitch swing; a drum below, slower."""
    sos = scipy.signal.butter(2, 800, fs=RATE_HZ, output="sos")

    def through(x: Floats) -> Floats:
        low = scipy.signal.sosfilt(sos, x)
        turn = swing(len(x), rate_hz)
        horn = _at(x - low, np.arange(len(x)) - (1.5 + 0.45 * turn) * RATE_HZ / 1000) * (1 - depth * (0.5 - 0.5 * turn))
        drum = low * (1 - 0.3 * (0.5 + 0.5 * swing(len(x), rate_hz * 0.86)))
        return np.asarray(horn + drum)

    return through


def auto_wah(low_hz: float = 350.0, high_hz: float = 2200.0, q: float = 3.0) -> Callable[[Floats], Floats]:
    """A resonance that rises with the level of what is played."""

    def through(x: Floats) -> Floats:
        level = np.abs(x)
        smooth = scipy.signal.butter(1, 12, fs=RATE_HZ, output="sos")
        follow = np.clip(scipy.signal.sosfilt(smooth, level) / (0.25 * level.max()), 0, 1)
        hz, block, out, state = low_hz * (high_hz / low_hz) ** follow, 64, np.empty_like(x), np.zeros(2)
        for start in range(0, len(x), block):
            w = 2 * np.pi * hz[start] / RATE_HZ
            alpha = np.sin(w) / 2 / q
            b, a = np.array([alpha, 0, -alpha]), np.array([1 + alpha, -2 * np.cos(w), 1 - alpha])
            out[start : start + block], state = scipy.signal.lfilter(
                b / a[0], a / a[0], x[start : start + block], zi=state
            )
        return np.asarray(1.6 * out + 0.25 * x)

    return through


def delay(time_s: float, *, back: float = 0.4, mix: float = 0.5, dark_hz: float = 8000.0,
          wow: float = 0.0) -> Callable[[Floats], Floats]:  # fmt: skip
    """Repeats after a time, each darker than the one before; a tape wavers."""
    sos = scipy.signal.butter(1, dark_hz, fs=RATE_HZ, output="sos")

    def through(x: Floats) -> Floats:
        lag = time_s * RATE_HZ * (1 + wow * swing(len(x), 0.7))
        out, source, strength = x.copy(), x, mix
        late = round(time_s * RATE_HZ) + 2000
        while strength > 0.02:
            before = np.concatenate((np.zeros(late), source))
            source = scipy.signal.sosfilt(sos, _at(before, np.arange(len(x)) - lag + late))
            out = out + strength * source
            strength *= back
        return np.asarray(out)

    return through


def reverb(ring_s: float, mix: float = 0.4, *, spring: bool = False, seed: int = 5) -> Callable[[Floats], Floats]:
    """Dense echoes that die away; a spring chirps, for its lows travel faster than its highs."""
    noise = np.random.default_rng(seed).standard_normal(round(1.3 * ring_s * RATE_HZ))
    tail = noise * np.exp(-6.91 * np.arange(len(noise)) / RATE_HZ / ring_s)
    if spring:
        tail = scipy.signal.sosfilt(scipy.signal.butter(4, [150, 4200], "bandpass", fs=RATE_HZ, output="sos"), tail)
        for _ in range(60):
            tail = scipy.signal.lfilter([0.6, 1], [1, 0.6], tail)
    tail /= np.sqrt(np.sum(tail**2))
    return lambda x: np.asarray(x + mix * scipy.signal.fftconvolve(x, tail)[: len(x)])


def moving(pace: float = 1.0) -> dict[str, Moving]:
    """Twenty-four devices that move or repeat; ``pace`` makes all rates and times another."""
    return {
        "slow chorus": Moving(chorus(0.45 * pace, depth_ms=2.5), 0.45 * pace),
        "chorus": Moving(chorus(0.9 * pace, depth_ms=1.5, shape="triangle"), 0.9 * pace),
        "fast chorus": Moving(chorus(3.2 * pace, depth_ms=0.6, delay_ms=7), 3.2 * pace),
        "mild chorus": Moving(chorus(1.4 * pace, depth_ms=0.8, mix=0.3), 1.4 * pace),
        "vibrato": Moving(chorus(5.5 * pace, delay_ms=4, depth_ms=0.45, mix=1.0), 5.5 * pace),
        "slow vibrato": Moving(chorus(2.7 * pace, delay_ms=4, depth_ms=0.9, mix=1.0), 2.7 * pace),
        "mixed vibrato": Moving(chorus(4.6 * pace, delay_ms=5, depth_ms=0.5, mix=0.8), 4.6 * pace),
        "fast rotary": Moving(rotary(6.6 * pace), 6.6 * pace),
        "slow rotary": Moving(rotary(0.8 * pace, 0.7), 0.8 * pace),
        "phaser": Moving(phaser(0.7 * pace), 0.7 * pace),
        "fast phaser": Moving(phaser(3.7 * pace), 3.7 * pace),
        "deep phaser": Moving(phaser(0.4 * pace, stages=6, high_hz=3500), 0.4 * pace),
        "flanger": Moving(chorus(0.5 * pace, delay_ms=2.5, depth_ms=1.9, back=0.5), 0.5 * pace),
        "slow flanger": Moving(chorus(0.3 * pace, delay_ms=3, depth_ms=2.4, back=0.3, shape="triangle"), 0.3 * pace),
        "tremolo": Moving(tremolo(5.2 * pace), 5.2 * pace),
        "square tremolo": Moving(tremolo(7.1 * pace, 0.8, "square"), 7.1 * pace),
        "shallow tremolo": Moving(tremolo(3.4 * pace, 0.35), 3.4 * pace),
        "harmonic tremolo": Moving(harmonic_tremolo(2.4 * pace), 2.4 * pace),
        "auto-wah": Moving(auto_wah(), follows=True),
        "short delay": Moving(delay(0.11 * pace, back=0.2), time_s=0.11 * pace),
        "delay": Moving(delay(0.31 * pace), time_s=0.31 * pace),
        "dark long delay": Moving(delay(0.52 * pace, back=0.5, dark_hz=2200, wow=0.0015), time_s=0.52 * pace),
        "hall": Moving(reverb(1.9 * pace), ring_s=1.9 * pace),
        "spring": Moving(reverb(1.4 * pace, 0.5, spring=True), ring_s=1.4 * pace),
    }  # fmt: skip


MOVING = moving()


def _bend(gain_db: float, shape: Callable[[Floats], Floats], low_hz: float = 60.0, high_hz: float = 6000.0,
          out_db: float = -10.0) -> Callable[[Floats], Floats]:  # fmt: skip
    low = scipy.signal.butter(1, low_hz, "high", fs=RATE_HZ, output="sos")
    high = scipy.signal.butter(1, high_hz, fs=RATE_HZ, output="sos")

    def through(x: Floats) -> Floats:
        up = scipy.signal.resample_poly(scipy.signal.sosfilt(low, x) * 10 ** (gain_db / 20), 4, 1)
        return np.asarray(10 ** (out_db / 20) * scipy.signal.sosfilt(high, scipy.signal.resample_poly(shape(up), 1, 4)))

    return through


def squeezed(over_db: float, ratio: float, attack_s: float, release_s: float) -> Callable[[Floats], Floats]:
    """A compressor: its gain moves with what is played, and with nothing else."""

    def through(x: Floats) -> Floats:
        level = 20 * np.log10(np.abs(scipy.signal.hilbert(x)) + 1e-6)
        want, state, step, out = np.maximum(level - over_db, 0)[::24] * (1 - 1 / ratio), 0.0, 24, []
        for one in want:
            k = np.exp(-step / RATE_HZ / (attack_s if one > state else release_s))
            state = k * state + (1 - k) * one
            out.append(state)
        return np.asarray(x * 10 ** ((6 - np.repeat(out, step)[: len(x)]) / 20))

    return through


def _shaped(*bells: tuple[float, float, float]) -> Callable[[Floats], Floats]:
    def through(x: Floats) -> Floats:
        for hz, db, q in bells:
            a, w = 10 ** (db / 40), 2 * np.pi * hz / RATE_HZ
            alpha, c = np.sin(w) / 2 / q, -2 * np.cos(w)
            x = scipy.signal.lfilter([1 + alpha * a, c, 1 - alpha * a], [1 + alpha / a, c, 1 - alpha / a], x)
        return np.asarray(x)

    return through


def _gated(x: Floats) -> Floats:
    smooth = scipy.signal.butter(1, 15, fs=RATE_HZ, output="sos")
    level = scipy.signal.sosfilt(smooth, np.abs(x))
    return np.asarray(x * scipy.signal.sosfilt(smooth, (level > 0.03 * level.max()).astype(float)))


STILL: dict[str, Callable[[Floats], Floats]] = {
    "nothing": lambda x: x,
    "boost": _shaped((2500, 4, 0.7)),
    "dark": _shaped((3000, -8, 0.5)),
    "mid hump": _shaped((750, 8, 0.8)),
    "scoop": _shaped((600, -9, 0.8), (120, 4, 0.8)),
    "narrow peak": _shaped((1800, 10, 4.0)),
    "light drive": _bend(8, np.tanh, out_db=-4),
    "drive": _bend(20, np.tanh),
    "humped drive": lambda x: _shaped((720, 6, 0.8))(_bend(26, np.tanh, 500, 4000)(x)),
    "hard clip": _bend(32, lambda v: np.clip(v, -1, 1)),
    "fuzz": _bend(40, lambda v: np.clip(np.tanh(v + 0.25) - np.tanh(0.25), -0.9, 0.7), 40, 3000),
    "octave fuzz": _bend(34, lambda v: np.tanh(np.abs(v)) - 0.5, 100, 5000),
    "compressor": squeezed(-26, 4, 0.008, 0.12),
    "slow compressor": squeezed(-30, 6, 0.03, 0.6),
    "fast compressor": squeezed(-34, 10, 0.002, 0.05),
    "gate": _gated,
    "starved drive": _bend(24, lambda v: np.where(np.abs(v) < 0.15, 0, np.tanh(v))),
    "still comb": lambda x: np.asarray(0.5 * x + 0.5 * np.concatenate((np.zeros(280), x[:-280]))),
    "doubled": lambda x: np.asarray(x + 0.5 * np.concatenate((np.zeros(1200), x[:-1200]))),
    "cabinet": _shaped((110, 4, 1.2), (450, -3, 1.0), (2600, 5, 1.2), (5500, -14, 0.7)),
}  # fmt: skip
