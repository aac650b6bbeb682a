"""A recording afternoon with a known course: takes of a few phrases, with talk and noodling between them."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt
import scipy.signal

from cata.core.signals.slate import SlateMark, slate

Floats = npt.NDArray[np.float32]
SHIFTS = (0, 3, 5, 7, 10, 12, 15)


def note(rng: np.random.Generator, midi: float, length_s: float, rate_hz: int, strength: float = 1.0) -> Floats:
    """A plucked note: partials that die faster the higher they are."""
    t = np.arange(int(length_s * rate_hz)) / rate_hz
    hz = 440 * 2 ** ((midi - 69) / 12)
    wave = sum(
        np.sin(2 * np.pi * hz * k * t + rng.uniform(0, 6.28)) * np.exp(-t * (1.2 + 0.8 * k)) / k**1.3
        for k in range(1, 9)
        if hz * k < rate_hz / 2.2
    )
    return (strength * 0.25 * np.minimum(1, t / 0.003) * wave).astype(np.float32)


def place(notes: list[tuple[float, Floats]], length_s: float, rate_hz: int) -> Floats:
    out = np.zeros(int(length_s * rate_hz), dtype=np.float32)
    for at, wave in notes:
        start = int(at * rate_hz)
        out[start : start + len(wave)] += wave[: len(out) - start]
    return out


def phrase(which: int, rate_hz: int, jitter: np.random.Generator) -> Floats:
    """One of three phrases, 9 to 13 s, played as people play: a few milliseconds off, not quite as hard."""
    score = np.random.default_rng(100 + which)
    beat_s, length_s = ((0.5, 9.0), (0.62, 11.0), (0.45, 13.0))[which % 3]
    notes, at, last = [], 0.0, 0.0
    while at < length_s - 1.2:
        for voice in range(int(score.integers(1, 4))):
            midi = 45 + int(score.choice(SHIFTS)) + 5 * voice
            strength = float(score.uniform(0.4, 1.0) * 10 ** (jitter.normal(0, 0.5) / 20))
            notes.append(
                (max(0.0, at + jitter.normal(0, 0.004) * (at > 0)), note(jitter, midi, 1.0, rate_hz, strength))
            )
        last, at = at, at + beat_s * float(score.choice([0.5, 1.0, 1.0, 1.5]))
    return place(notes, last + 1.0, rate_hz)


def contender(signal: Floats, which: int, rate_hz: int) -> Floats:
    """Another tone: brighter, darker, driven."""
    cut = (900.0, 2200.0, 3500.0, 5000.0)[which % 4]
    b, a = scipy.signal.butter(1, min(cut, rate_hz / 2.5), fs=rate_hz)
    toned = scipy.signal.lfilter(b, a, signal)
    drive = (1.0, 2.0, 6.0, 20.0)[which % 4]
    return (np.tanh(toned * drive) / max(1.0, drive**0.6)).astype(np.float32)


def noodling(rng: np.random.Generator, rate_hz: int) -> Floats:
    """Whatever the hands do: unrelated notes at no tempo."""
    length_s = float(rng.uniform(2.0, 11.0))
    notes, at = [], 0.0
    while at < length_s - 1.0:
        notes.append((at, note(rng, float(rng.integers(42, 76)), 0.9, rate_hz, float(rng.uniform(0.2, 0.9)))))
        at += float(rng.uniform(0.1, 0.45))
    return place(notes, length_s, rate_hz)


def talk(rng: np.random.Generator, rate_hz: int) -> Floats:
    """Syllables: a buzz through two moving resonances, with short stops."""
    length_s = float(rng.uniform(1.5, 6.0))
    out = np.zeros(int(length_s * rate_hz), dtype=np.float32)
    at = 0.0
    while at < length_s - 0.4:
        size = int(float(rng.uniform(0.09, 0.28)) * rate_hz)
        buzz = (np.arange(size) % int(rate_hz / rng.uniform(95, 180)) == 0).astype(float) + rng.normal(0, 0.02, size)
        for hz in (rng.uniform(300, 800), rng.uniform(900, 2300)):
            b, a = scipy.signal.iirpeak(hz, 6, fs=rate_hz)
            buzz = buzz + 2 * scipy.signal.lfilter(b, a, buzz)
        start = int(at * rate_hz)
        out[start : start + size] += (0.08 * buzz * np.hanning(size)).astype(np.float32)[: len(out) - start]
        at += size / rate_hz + float(rng.uniform(0.02, 0.25))
    return out


@dataclass
class Session:
    """The recording, mono, and where each take really lies, in seconds."""

    samples: Floats
    rate_hz: int
    takes: list[tuple[float, float]] = field(default_factory=list)


def session(
    *, takes: int, seconds: float, rate_hz: int = 48_000, slates: bool = False, seed: int = 1, noise_dbfs: float = -66.0
) -> Session:
    """``takes`` takes in a recording of ``seconds``; between them talk, noodling, both or neither."""
    rng = np.random.default_rng(seed)
    out = rng.normal(0, 10 ** (noise_dbfs / 20), int(seconds * rate_hz)).astype(np.float32)
    done = Session(out, rate_hz)
    share = seconds / takes
    for index in range(takes):
        end = (index + 1) * share
        parts: list[Floats] = []
        for make in (talk, noodling):
            if rng.random() < 0.6:
                parts.append(make(rng, rate_hz))
        music = contender(phrase(index * 3 // takes, rate_hz, rng), int(rng.integers(4)), rate_hz)
        before = sum(len(part) / rate_hz + 1.6 for part in parts)
        length = len(music) / rate_hz
        spare = share - before - length - 3.5
        at = end - share + 0.8 + max(0.0, rng.uniform(0, max(spare, 0.01)))
        for part in parts:
            at = _put(out, part, at, rate_hz) + 1.6
        if slates:
            at = _put(out, slate(SlateMark(index + 1), rate_hz).samples[0], at, rate_hz)
        start = round(at * rate_hz) / rate_hz
        stop = _put(out, music, start, rate_hz)
        done.takes.append((start, stop))
    return done


def _put(out: Floats, part: Floats, at: float, rate_hz: int) -> float:
    start = round(at * rate_hz)
    stop = min(len(out), start + len(part))
    out[start:stop] += part[: stop - start]
    return stop / rate_hz
