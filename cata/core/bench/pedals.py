"""Drives, boosts and compressors that differ in structure, not in knob names only."""

from __future__ import annotations

from cata.core.bench.circuit import (
    Beside,
    Block,
    Chain,
    Gain,
    MovingBias,
    Shape,
    bell,
    one_pole,
    shelf,
)
from cata.core.bench.compressing import Compressing
from cata.core.bench.curves import folded, hard, rounded, soft, uneven
from cata.core.bench.device import Device, Settings, db, knob, taper


def mid_hump(s: Settings) -> Block:
    """Lows cut before a soft clipper in the feedback path; the clean signal passes beside it."""
    # Diodes in the feedback hold the amplified part at a few hundred millivolts, softly.
    dirty = Chain(
        (
            one_pole(720.0, "highpass"),
            one_pole(5600.0, "lowpass"),
            Gain(taper(s["drive"], 4.0, 160.0)),
            Shape(soft(0.38)),
        )
    )
    tone = one_pole(taper(s["tone"], 700.0, 6000.0), "lowpass")
    return Chain((Beside(dirty), tone, Gain(db(-14.0 + 24.0 * s["level"]))))


def near_transparent(s: Settings) -> Block:
    """Full range into a late, rounded clipper; treble and bass are trimmed after it."""
    clipped = (one_pole(45.0, "highpass"), Gain(taper(s["drive"], 1.0, 22.0)), Shape(rounded(0.45, 0.9)))
    tone = (shelf(250.0, 10.0 * (s["bass"] - 0.5), 0.0), shelf(2200.0, 0.0, 12.0 * (s["treble"] - 0.5)))
    # The level knob is laid out so that noon is near unity with the drive down.
    return Chain((*clipped, *tone, Gain(db(-10.0 + 20.0 * s["level"]) / taper(s["drive"], 1.0, 6.0))))


def hard_clip(s: Settings) -> Block:
    """Much gain into two diodes against ground, then one low-pass: the filter knob turns it darker."""
    gain = Gain(taper(s["distortion"], 6.0, 700.0))
    clipped = (one_pole(60.0, "highpass"), one_pole(9000.0, "lowpass"), gain, Shape(hard(-0.45, 0.45)))
    return Chain(
        (*clipped, one_pole(taper(s["filter"], 9000.0, 500.0), "lowpass"), Gain(db(-16.0 + 24.0 * s["volume"])))
    )


def biased_fuzz(s: Settings) -> Block:
    """Two stages; the second sits off centre (clips at -0.3 and +1) and its operating point moves with the signal."""
    first = (one_pole(70.0, "highpass"), Gain(taper(s["fuzz"], 12.0, 420.0)), Shape(soft(1.0)), Gain(1.6))
    second = MovingBias(hard(-0.3, 1.0), 0.45 * (s["bias"] - 0.5), 0.18 / 1.6)
    after = (one_pole(35.0, "highpass"), one_pole(4800.0, "lowpass"), Gain(db(-20.0 + 26.0 * s["volume"])))
    return Chain((*first, second, *after))


def clean_boost(s: Settings) -> Block:
    """One stage with much supply voltage: from a cut of 6 dB to a lift of 24, flat, until the rails."""
    return Chain((one_pole(15.0, "highpass"), Gain(db(-6.0 + 30.0 * s["gain"])), Shape(rounded(1.6, 2.2))))


def treble_boost(s: Settings) -> Block:
    """A small input capacitor thins the lows; one stage off centre thickens what is left."""
    thin = one_pole(taper(s["range"], 3200.0, 120.0), "highpass")
    stage = (Gain(db(8.0 + 22.0 * s["boost"])), Shape(uneven(0.5, 1.1)))
    return Chain((thin, *stage, one_pole(25.0, "highpass"), one_pole(9500.0, "lowpass"), Gain(0.5)))


def octave_fuzz(s: Settings) -> Block:
    """A fuzz whose second stage folds the wave over: the octave above stands beside the note."""
    first = (
        one_pole(90.0, "highpass"),
        Gain(taper(s["fuzz"], 8.0, 120.0)),
        Shape(soft(0.8)),
        one_pole(3000.0, "lowpass"),
    )
    fold = Chain((Shape(folded()), one_pole(40.0, "highpass"), Gain(1.4)))
    mixed = Beside(fold, dry=1.0 - s["octave"], wet=s["octave"])
    return Chain((*first, mixed, one_pole(5200.0, "lowpass"), Gain(db(-22.0 + 26.0 * s["volume"]))))


def scooped(s: Settings) -> Block:
    """Two clipping stages with a tight bass cut between, then mids taken out: made for low tunings."""
    gain = taper(s["gain"], 5.0, 120.0)
    first = (one_pole(110.0, "highpass"), Gain(gain), Shape(soft(1.0)))
    second = (one_pole(160.0, "highpass"), Gain(6.0), Shape(rounded(0.3, 0.6)))
    tone = (bell(650.0, -14.0 * (1 - s["mids"]), 0.8), shelf(140.0, 12.0 * (s["lows"] - 0.5), 0.0))
    return Chain((*first, *second, *tone, one_pole(6200.0, "lowpass"), Gain(db(-20.0 + 24.0 * s["volume"]))))


def compressor(s: Settings) -> Block:
    """A fast compressor with the dry signal beside it."""
    squeezed = Compressing(threshold_db=-14.0 - 26.0 * s["squeeze"], ratio=5.0, knee_db=6.0,
                           attack_s=taper(s["attack"], 0.002, 0.040), release_s=0.160,
                           makeup_db=4.0 + 10.0 * s["squeeze"])  # fmt: skip
    blended = Beside(squeezed, dry=1.0 - s["blend"], wet=s["blend"])
    return Chain((blended, Gain(db(-12.0 + 24.0 * s["level"]))))


def leveller(s: Settings) -> Block:
    """A slow, gentle one: a low ratio, a wide knee, and it lets go without hurry."""
    gentle = Compressing(threshold_db=-12.0 - 24.0 * s["depth"], ratio=2.5, knee_db=14.0,
                         attack_s=0.025, release_s=0.320, makeup_db=6.0 * s["depth"])  # fmt: skip
    return Chain((gentle, Gain(db(-12.0 + 24.0 * s["level"]))))


def _bypass(_settings: Settings) -> Block:
    return Chain(())


PEDALS = {
    d.key: d
    for d in (
        Device("mid-hump", "mid-hump drive", "pedal", "soft clip in the feedback, lows cut before it",
               (knob("drive", "Drive", 0.35), knob("tone", "Tone"), knob("level", "Level")), mid_hump),
        Device("transparent", "transparent drive", "pedal", "full range, late rounded clip",
               (knob("drive", "Gain", 0.3), knob("bass", "Bass"), knob("treble", "Treble"),
                knob("level", "Volume")), near_transparent),
        Device("hard-clip", "hard-clip distortion", "pedal", "high gain into diodes against ground",
               (knob("distortion", "Distortion", 0.3), knob("filter", "Filter", 0.35),
                knob("volume", "Volume")), hard_clip),
        Device("fuzz", "fuzz", "pedal", "two stages, asymmetric and moving bias",
               (knob("fuzz", "Fuzz", 0.6), knob("bias", "Bias"), knob("volume", "Volume")), biased_fuzz),
        Device("boost", "clean boost", "pedal", "one stage, high supply",
               (knob("gain", "Boost", 0.4),), clean_boost),
        Device("treble-boost", "treble booster", "pedal", "lows thinned before one stage off centre",
               (knob("boost", "Boost", 0.6), knob("range", "Range", 0.3)), treble_boost),
        Device("octave-fuzz", "octave fuzz", "pedal", "full-wave folding after a soft stage",
               (knob("fuzz", "Fuzz", 0.6), knob("octave", "Octave", 0.6), knob("volume", "Volume")), octave_fuzz),
        Device("scooped", "scooped high-gain distortion", "pedal", "two stages, tight lows, mids taken out after",
               (knob("gain", "Gain", 0.5), knob("mids", "Mids", 0.4), knob("lows", "Lows"),
                knob("volume", "Volume")), scooped, hiss_dbfs=-90.0),
        Device("compressor", "compressor", "pedal", "fast, ratio 5, dry blend",
               (knob("squeeze", "Squeeze"), knob("attack", "Attack"), knob("blend", "Blend", 1.0),
                knob("level", "Level")), compressor),
        Device("leveller", "levelling compressor", "pedal", "slow, ratio 2.5, wide knee",
               (knob("depth", "Depth"), knob("level", "Level")), leveller),
        Device("bypass", "no pedal", "pedal", "a straight wire", (), _bypass),
    )
}  # fmt: skip
