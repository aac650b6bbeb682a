"""Four drive pedals that differ in structure, not in knob names only."""

from __future__ import annotations

import numpy as np

from cata.core.bench.curves import clip_with, hard, rounded, soft
from cata.core.bench.device import Device, Settings, one_pole, shelf, taper
from cata.core.clip import Audio
from cata.core.gear import Control

F = np.float32


def _knob(key: str, name: str, default: float = 0.5) -> Control:
    return Control(key=key, name=name, default=default)


def _db(db: float) -> np.float32:
    return F(10 ** (db / 20))


def mid_hump(signal: Audio, s: Settings) -> Audio:
    """Lows cut before a soft clipper in the feedback path; the clean signal passes beside it."""
    gain = F(taper(s["drive"], 4.0, 160.0))
    pushed = one_pole(one_pole(signal, 720.0, "highpass"), 5600.0, "lowpass") * gain
    # Diodes in the feedback hold the amplified part at a few hundred millivolts, softly.
    dirty = clip_with(pushed, soft(0.38))
    mixed = signal + dirty
    toned = one_pole(mixed, taper(s["tone"], 700.0, 6000.0), "lowpass")
    return toned * _db(-14.0 + 24.0 * s["level"])


def near_transparent(signal: Audio, s: Settings) -> Audio:
    """Full range into a late, rounded clipper; treble and bass are trimmed after it."""
    gain = F(taper(s["drive"], 1.0, 22.0))
    curve = clip_with(one_pole(signal, 45.0, "highpass") * gain, rounded(0.45, 0.9))
    body = shelf(curve, 250.0, 10.0 * (s["bass"] - 0.5), 0.0)
    toned = shelf(body, 2200.0, 0.0, 12.0 * (s["treble"] - 0.5))
    # The level knob is laid out so that noon is near unity with the drive down.
    return toned * _db(-10.0 + 20.0 * s["level"]) * F(1.0 / taper(s["drive"], 1.0, 6.0))


def hard_clip(signal: Audio, s: Settings) -> Audio:
    """Much gain into two diodes against ground, then one low-pass: the filter knob turns it darker."""
    gain = F(taper(s["distortion"], 6.0, 700.0))
    pushed = one_pole(one_pole(signal, 60.0, "highpass"), 9000.0, "lowpass") * gain
    flat = clip_with(pushed, hard(-0.45, 0.45))
    toned = one_pole(flat, taper(s["filter"], 9000.0, 500.0), "lowpass")
    return toned * _db(-16.0 + 24.0 * s["volume"])


def biased_fuzz(signal: Audio, s: Settings) -> Audio:
    """Two stages; the second sits off centre (clips at -0.3 and +1) and its operating point moves with the signal."""
    gain = F(taper(s["fuzz"], 12.0, 420.0))
    first = clip_with(one_pole(signal, 70.0, "highpass") * gain, soft(1.0))
    # The coupling capacitor charges on loud passages: the bias follows the envelope.
    envelope = one_pole(np.abs(first), 9.0, "lowpass")
    bias = F(0.45 * (s["bias"] - 0.5)) + F(0.18) * envelope
    second = clip_with(first * F(1.6) - bias, hard(-0.3, 1.0))
    return one_pole(one_pole(second, 35.0, "highpass"), 4800.0, "lowpass") * _db(-20.0 + 26.0 * s["volume"])


def _bypass(signal: Audio, s: Settings) -> Audio:
    return signal


PEDALS = {
    d.key: d
    for d in (
        Device("mid-hump", "mid-hump drive", "pedal", "soft clip in the feedback, lows cut before it",
               (_knob("drive", "Drive", 0.35), _knob("tone", "Tone"), _knob("level", "Level")), mid_hump),
        Device("transparent", "transparent drive", "pedal", "full range, late rounded clip",
               (_knob("drive", "Gain", 0.3), _knob("bass", "Bass"), _knob("treble", "Treble"),
                _knob("level", "Volume")), near_transparent),
        Device("hard-clip", "hard-clip distortion", "pedal", "high gain into diodes against ground",
               (_knob("distortion", "Distortion", 0.3), _knob("filter", "Filter", 0.35),
                _knob("volume", "Volume")), hard_clip),
        Device("fuzz", "fuzz", "pedal", "two stages, asymmetric and moving bias",
               (_knob("fuzz", "Fuzz", 0.6), _knob("bias", "Bias"), _knob("volume", "Volume")), biased_fuzz),
        Device("bypass", "no pedal", "pedal", "a straight wire", (), _bypass),
    )
}  # fmt: skip
