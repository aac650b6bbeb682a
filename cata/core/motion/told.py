"""What moves or repeats, as a reading of a take and in words; and which other readings it spoils."""

from __future__ import annotations

from collections.abc import Mapping

from cata.core.measure.of_flights import MOTION
from cata.core.measure.results import Result, Results
from cata.core.motion.contender import Motion
from cata.said import Said, said

STILL = "stands still"
SLOW_HZ = 1.0
DOES = ("rate_hz", "echo_ms", "ring_s")
SAME_SHARE = 0.1
"""Rates and times within a tenth are about one."""
SPOILT: dict[str, tuple[str, ...]] = {
    "rate_hz": (
        "equivalent_drive", "drive_density", "chord_dirt_db", "level_spread_db", "sustain", "crest_db", "plr_db",
    ),
    "echo_ms": ("equivalent_drive", "drive_density", "level_spread_db", "sustain", "low_tightness_ms"),
    "ring_s": ("equivalent_drive", "drive_density", "level_spread_db", "sustain", "low_tightness_ms"),
    "pitch_cents": ("tuning_cents",),
}  # fmt: skip
"""What cannot be read of a take that moves, that repeats, that rings on."""
EXPLAINED: dict[str, tuple[str, ...]] = {
    "rate_hz": ("tone_moved", "other_notes"),
    "pitch_cents": ("other_tuning", "tone_moved", "other_notes"),
    "echo_ms": ("other_notes", "wet_tail", "tone_moved"),
    "ring_s": ("other_notes", "wet_tail"),
}
"""What the audit finds of a take and what moves, repeats or rings on explains."""
BY_MOTION = frozenset(rule for rules in EXPLAINED.values() for rule in rules)


def in_words(motion: Motion) -> str:
    """What it does: "pitch and tone swing at 5.5 Hz", "repeats after 310 ms", "rings on for 1.9 s"."""
    parts = []
    if motion.rate_hz is not None:
        what = " and ".join([", ".join(motion.kinds[:-1]), motion.kinds[-1]] if len(motion.kinds) > 1 else motion.kinds)
        swings = "swings" if len(motion.kinds) == 1 else "swing"
        parts.append(f"{what} {swings} at {motion.rate_hz:.2g} Hz" if motion.rate_hz < SLOW_HZ else
                     f"{what} {swings} at {motion.rate_hz:.1f} Hz")  # fmt: skip
    if motion.echo_s is not None:
        parts.append(f"repeats after {1000 * motion.echo_s:.0f} ms")
    if motion.ring_s is not None:
        parts.append(f"rings on for {motion.ring_s:.1f} s")
    return ", ".join(parts) or STILL


def as_result(motion: Motion | None) -> Result:
    """The reading of a take; refused where there was nothing to hold the takes against."""
    if motion is None:
        alone = said("alone", "needs a bypass take of this test, or takes of two other contenders")
        return Result(refusal=alone, unit=MOTION.unit, version=MOTION.version)
    value: dict[str, float | int | str | None] = {
        "word": in_words(motion), "rate_hz": motion.rate_hz, "level_db": motion.level_db, "pitch_cents": motion.cents,
        "echo_ms": None if motion.echo_s is None else 1000 * motion.echo_s, "ring_s": motion.ring_s,
    }  # fmt: skip
    return Result(value=value, unit=MOTION.unit, version=MOTION.version)


def moves(results: Results) -> str:
    """What a take's device does by itself, in words; empty where it stands still or nobody knows."""
    if not does(results):
        return ""
    known = results[MOTION.key].value
    return str(known["word"]) if isinstance(known, dict) else ""


def does(results: Results) -> dict[str, float]:
    """By what it moves, repeats or rings on: rate_hz, echo_ms, ring_s; empty where it stands still or nobody knows."""
    return {key: value for key, value in results.parts(MOTION.key).items() if key in DOES}


def move_alike(one: Mapping[str, float], other: Mapping[str, float]) -> bool:
    """True where both stand still, or swing at one rate and repeat after one time, as :func:`does` tells them."""
    return one.keys() == other.keys() and all(abs(one[key] - other[key]) <= SAME_SHARE * one[key] for key in one)


def explains(results: Results, rule: str) -> str:
    """By what it does a take has what an audit's rule finds, in words; empty where that does not explain it."""
    parts = results.parts(MOTION.key)
    return moves(results) if any(rule in rules and part in parts for part, rules in EXPLAINED.items()) else ""


def withheld(results: Results) -> Results:
    """The readings of a take less those that its motion spoils: refused, with what moves as the reason."""
    word = moves(results)
    if not word:
        return results
    parts = results.parts(MOTION.key)
    spoilt = {key for part, keys in SPOILT.items() if part in parts for key in keys}
    why: Said = said("moves", "{word}: cannot be read from a sound that moves or repeats", word=word)
    kept = {
        key: Result(refusal=why, unit=one.unit, evidence=one.evidence, version=one.version) if key in spoilt else one
        for key, one in results.items()
    }
    return Results(kept)
