"""Which bench device can be measured in an item's place, by words. No numpy: the web process asks."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from cata.core.gear import Control
from cata.core.plan.condition import Role, role_of

WORDS: Mapping[str, tuple[tuple[str, tuple[str, ...]], ...]] = {
    "pedal": (
        ("octave-fuzz", ("octave fuzz", "octave-fuzz")),
        ("fuzz", ("fuzz", "asymmetric", "sputter")),
        ("scooped", ("scooped", "high-gain distortion", "mids taken out")),
        ("leveller", ("levelling", "leveller", "slow compressor")),
        ("compressor", ("compressor", "compression")),
        ("treble-boost", ("treble booster", "treble boost")),
        ("boost", ("clean boost", "booster", "boost")),
        ("hard-clip", ("hard clip", "hard-clip", "distortion", "diodes against ground")),
        ("mid-hump", ("mid-hump", "mid hump", "lows cut", "in the feedback", "soft clip")),
        ("transparent", ("transparent", "full range", "overdrive", "drive", "gain")),
    ),
    "amplifier": (
        ("high-gain", ("high-gain", "high gain", "many stages")),
        ("clean", ("solid-state", "solid state")),
        ("crunch", ("crunch", "strong mids", "two stages")),
        ("edge", ("edge of breakup", "breaks up early", "practice amplifier", "small amplifier", "sagging")),
        ("stack-first", ("stack first", "stack before")),
        ("clean", ("clean", "platform", "headroom", "amplifier")),
    ),
}
KNOBS: Mapping[str, Mapping[str, Role | None]] = {
    "mid-hump": {"drive": "gain", "tone": "tone", "level": "level"},
    "transparent": {"drive": "gain", "bass": "bass", "treble": "treble", "level": "level"},
    "hard-clip": {"distortion": "gain", "filter": "tone", "volume": "level"},
    "fuzz": {"fuzz": "gain", "bias": "tone", "volume": "level"},
    "octave-fuzz": {"fuzz": "gain", "octave": "blend", "volume": "level"},
    "boost": {"gain": "gain"},
    "treble-boost": {"boost": "gain", "range": "tone"},
    "scooped": {"gain": "gain", "mids": "mids", "lows": "bass", "volume": "level"},
    "compressor": {"squeeze": "compression", "attack": None, "blend": "blend", "level": "level"},
    "leveller": {"depth": "compression", "level": "level"},
    "clean": {"volume": "level", "bass": "bass", "middle": "mids", "treble": "treble"},
    "edge": {"volume": "gain", "bass": "bass", "treble": "treble"},
    "crunch": {"gain": "gain", "bass": "bass", "middle": "mids", "treble": "treble", "master": "level", "power": None},
    "high-gain": {"gain": "gain", "bass": "bass", "middle": "mids", "treble": "treble", "master": "level"},
    "stack-first": {"volume": "gain", "bass": "bass", "middle": "mids", "treble": "treble", "power": None},
}
"""The knobs of each device and what they do; None for what only its own key can turn."""


def stand_in(kind: str, *texts: str) -> str:
    """The key of the bench device nearest to what is written of an item; empty where the bench has nothing like it."""
    said = " ".join(texts).casefold()
    return next((key for key, words in WORDS.get(kind, ()) if any(word in said for word in words)), "")


def knobs_of(device: str, controls: Sequence[Control], positions: Mapping[str, float]) -> dict[str, float]:
    """The device's knobs from an item's: the same key, else the same role; what the item lacks stays as it starts."""
    by_role = {role: control for control in reversed(controls) if (role := role_of(control)) is not None}
    own = {control.key for control in controls}
    found = {}
    for knob, role in KNOBS[device].items():
        key = knob if knob in own else by_role[role].key if role is not None and role in by_role else None
        if key is not None and key in positions:
            found[knob] = positions[key]
    return found
