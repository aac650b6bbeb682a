"""What devices are made of, and the contenders of three families: pedals, pickups, amplifiers."""

from __future__ import annotations

import random
from collections.abc import Callable

import numpy as np
import numpy.typing as npt
import scipy.signal

Floats = npt.NDArray[np.float64]
Device = Callable[[Floats], Floats]
RATE_HZ = 48_000
OVERSAMPLING = 4


def gain(db: float) -> float:
    return float(10 ** (db / 20))


def shelf(x: Floats, hz: float, db: float) -> Floats:
    g, w = gain(db), np.tan(np.pi * hz / RATE_HZ)
    return np.asarray(scipy.signal.lfilter([g + w, w - g], [1 + w, w - 1], x))


def peak(x: Floats, hz: float, db: float, q: float = 0.7) -> Floats:
    a, w = 10 ** (db / 40), 2 * np.pi * hz / RATE_HZ
    alpha, cosine = np.sin(w) / 2 / q, -2 * np.cos(w)
    b = [1 + alpha * a, cosine, 1 - alpha * a]
    return np.asarray(scipy.signal.lfilter(b, [1 + alpha / a, cosine, 1 - alpha / a], x))


def cut(x: Floats, hz: float, kind: str, order: int = 1) -> Floats:
    return np.asarray(scipy.signal.sosfilt(scipy.signal.butter(order, hz, kind, fs=RATE_HZ, output="sos"), x))


def bend(x: Floats, curve: Device) -> Floats:
    up = scipy.signal.resample_poly(x, OVERSAMPLING, 1)
    return np.asarray(scipy.signal.resample_poly(curve(up), 1, OVERSAMPLING)[: len(x)])


def compress(x: Floats, over_db: float = -26.0, ratio: float = 4.0, makeup_db: float = 8.0) -> Floats:
    """Attack 8 ms, release 120 ms."""
    step = 24
    level = 20 * np.log10(np.abs(scipy.signal.hilbert(x)) + 1e-6)
    wanted, state, out = np.maximum(level - over_db, 0)[::step] * (1 - 1 / ratio), 0.0, []
    for want in wanted:
        kept = np.exp(-step / RATE_HZ / (0.008 if want > state else 0.12))
        state = kept * state + (1 - kept) * want
        out.append(state)
    return np.asarray(x * 10 ** ((makeup_db - np.repeat(out, step)[: len(x)]) / 20))


def coil(x: Floats, hz: float, q: float, db: float) -> Floats:
    w = 2 * np.pi * hz / RATE_HZ
    alpha, c = np.sin(w) / 2 / q, np.cos(w)
    b = [(1 - c) / 2, 1 - c, (1 - c) / 2]
    return np.asarray(gain(db) * scipy.signal.lfilter(b, [1 + alpha, -2 * c, 1 - alpha], x))


def cabinet(x: Floats, low: float, high: float, hump_db: float = 0.0) -> Floats:
    return peak(cut(cut(x, low, "high", 2), high, "low", 3), 2400, hump_db)


def pedals(r: random.Random) -> dict[str, Device]:
    high, low, level = r.uniform(400, 900), r.uniform(2500, 5500), r.uniform(-14, -8)
    humped, opened, slab, wool = (gain(r.uniform(*span)) for span in ((14, 22), (8, 14), (28, 36), (30, 40)))
    bias = r.uniform(0.1, 0.3)

    def lopsided(x: Floats) -> Floats:
        return np.asarray(np.clip(x + bias, -0.7, 1) - bias)

    return {
        "no pedal": lambda x: x,
        "humped": lambda x: gain(level + 4) * cut(bend(cut(x, high, "high") * humped, np.tanh), low, "low"),
        "open": lambda x: gain(level + 3) * bend(x * opened, np.tanh),
        "slab": lambda x: gain(level) * cut(bend(cut(x, 80, "high") * slab, lambda v: np.clip(v, -1, 1)), low, "low"),
        "wool": lambda x: (
            gain(level - 1) * cut(bend(x * wool, lambda v: np.clip(v + bias, -0.7, 1) - bias), 30, "high")
        ),
        "press": compress,
    }


def pickups(r: random.Random) -> dict[str, Device]:
    def one() -> Device:
        hz, q, db, body = r.uniform(2600, 6500), r.uniform(1, 3), r.uniform(-5, 5), r.uniform(-2, 2)
        return lambda x: shelf(coil(x, hz, q, db), 500, body)

    return {f"coil {letter}": one() for letter in "abcde"}


def amplifiers(r: random.Random) -> dict[str, Device]:
    def one(most_db: float) -> Device:
        drive, bass, mids, treble = r.uniform(-6, most_db), r.uniform(-4, 4), r.uniform(-8, 4), r.uniform(-4, 6)
        low, high, hump = r.uniform(60, 110), r.uniform(3800, 6500), r.uniform(-2, 6)

        def through(x: Floats) -> Floats:
            bent = bend(shelf(shelf(x, 200, -bass), 2500, treble) * gain(drive), np.tanh)
            return cabinet(peak(bent * gain(-0.6 * drive), 600, mids), low, high, hump)

        return through

    return {f"amp {letter}": one(24.0 if letter in "cd" else 6.0) for letter in "abcd"}


def clean_amplifier(r: random.Random) -> Callable[[Floats, float], Floats]:
    """An amplifier behind pedals and pickups, with a bass control in dB."""
    bass, treble, hump = r.uniform(-3, 3), r.uniform(-2, 4), r.uniform(0, 5)
    low, high = r.uniform(65, 100), r.uniform(4200, 6000)

    def through(x: Floats, more_bass: float = 0.0) -> Floats:
        voiced = shelf(shelf(x, 200, -bass), 2500, treble) + (gain(more_bass) - 1) * cut(x, 200, "low")
        return cabinet(bend(voiced * 1.2, np.tanh), low, high, hump)

    return through
