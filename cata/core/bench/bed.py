"""A backing bed of the bench: drums, bass and organ over four chords, twice around."""

from __future__ import annotations

from typing import Any

import numpy as np
import numpy.typing as npt
import scipy

from cata.core.clip import ANALYSIS_RATE_HZ, Clip

Floats = npt.NDArray[np.floating[Any]]
TEMPO_BPM, BARS, BEATS = 104.0, 8, 4
ROOTS = (45, 50, 52, 45)
"""MIDI notes of the bass, a chord for each bar."""
THIRDS = (3, 4, 3, 3)
DRAWBARS = ((0.5, 0.6), (1.0, 1.0), (2.0, 0.7), (3.0, 0.35), (4.0, 0.25))
"""Pitch against the note, and strength, of the organ's tones."""
PEAK = 0.5
SEED = 104


def backing_bed(rate_hz: int = ANALYSIS_RATE_HZ) -> Clip:
    """The bed: two channels, so long that it begins again on the beat."""
    beat = 60.0 / TEMPO_BPM
    length = round(BARS * BEATS * beat * rate_hz)
    chance = np.random.default_rng(SEED)
    drums, low, high = (np.zeros(length) for _ in range(3))
    for step in range(BARS * BEATS * 2):
        at = round(step * beat / 2 * rate_hz)
        if step % 8 in (0, 5):
            _add(drums, at, _kick(rate_hz))
        if step % 8 in (2, 6):
            _add(drums, at, _snare(rate_hz, chance))
        _add(drums, at, (0.5 if step % 2 else 0.8) * _hat(rate_hz, chance))
        root = ROOTS[step // 8 % len(ROOTS)]
        if step % 8 in (0, 3, 4, 7):
            _add(low, at, _bass(root - 12 + (7 if step % 8 == 7 else 0), 0.45 * beat, rate_hz))
    for bar in range(BARS):
        root, third = ROOTS[bar % len(ROOTS)] + 12, THIRDS[bar % len(THIRDS)]
        for note in (root, root + third, root + 7):
            _add(high, round(bar * BEATS * beat * rate_hz), _organ(note, 0.94 * BEATS * beat, rate_hz))
    left, right = (0.9 * drums + 0.8 * low + share * 0.16 * high for share in (1.15, 0.85))
    both = np.stack([left, right])
    return Clip.of(PEAK * both / np.abs(both).max(), rate_hz)


def _add(out: Floats, at: int, sound: Floats) -> None:
    """A sound from a place on; what goes past the end begins the loop."""
    for place, part in ((at, sound[: len(out) - at]), (0, sound[len(out) - at :])):
        out[place : place + len(part)] += part


def _time(seconds: float, rate_hz: int) -> Floats:
    return np.arange(round(seconds * rate_hz)) / rate_hz


def _hz(note: float) -> float:
    return float(440.0 * 2 ** ((note - 69) / 12))


def _kick(rate_hz: int) -> Floats:
    t = _time(0.25, rate_hz)
    return np.asarray(np.sin(2 * np.pi * (48 * t + 6 * (1 - np.exp(-t / 0.03)))) * np.exp(-t / 0.08))


def _snare(rate_hz: int, chance: np.random.Generator) -> Floats:
    t = _time(0.2, rate_hz)
    noise = scipy.signal.sosfilt(scipy.signal.butter(2, (900, 7000), "band", fs=rate_hz, output="sos"),
                                 chance.standard_normal(len(t)))  # fmt: skip
    return np.asarray(0.9 * noise * np.exp(-t / 0.05) + 0.4 * np.sin(2 * np.pi * 190 * t) * np.exp(-t / 0.04))


def _hat(rate_hz: int, chance: np.random.Generator) -> Floats:
    t = _time(0.07, rate_hz)
    sections = scipy.signal.butter(4, 7000, "high", fs=rate_hz, output="sos")
    return np.asarray(0.25 * scipy.signal.sosfilt(sections, chance.standard_normal(len(t))) * np.exp(-t / 0.02))


def _bass(note: float, seconds: float, rate_hz: int) -> Floats:
    t = _time(seconds, rate_hz)
    tone = sum(np.sin(2 * np.pi * _hz(note) * k * t) / k**1.6 for k in (1, 2, 3, 4))
    return np.asarray(0.6 * tone * np.minimum(1, t / 0.006) * np.exp(-t / 0.4) * _release(t, 0.03))


def _organ(note: float, seconds: float, rate_hz: int) -> Floats:
    t = _time(seconds, rate_hz)
    wheel = 1 + 0.12 * np.sin(2 * np.pi * 6.2 * t)
    tone = sum(strength * np.sin(2 * np.pi * _hz(note) * pitch * t) for pitch, strength in DRAWBARS)
    return np.asarray(tone * wheel * np.minimum(1, t / 0.02) * _release(t, 0.06))


def _release(t: Floats, seconds: float) -> Floats:
    return np.asarray(np.clip((t[-1] - t) / seconds, 0.0, 1.0))
