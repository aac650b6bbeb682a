"""What a pedal does: by its specification, by what moves in its takes, by what its name says; else not known."""

from __future__ import annotations

import re
from collections.abc import Collection, Mapping, Sequence
from typing import Literal, get_args

from cata.core.specs import Value

Effect = Literal["drive", "fuzz", "boost", "compressor", "equaliser", "modulation", "echo", "room", "volume"]
EFFECTS: Mapping[Effect, str] = {
    "drive": "drive or distortion", "fuzz": "fuzz", "boost": "boost", "compressor": "compressor",
    "equaliser": "equaliser", "modulation": "chorus, phase, tremolo, wah", "echo": "delay", "room": "reverb",
    "volume": "volume pedal",
}  # fmt: skip
OF_SPEC: Mapping[str, Effect] = {
    "drive": "drive", "distortion": "drive", "fuzz": "fuzz", "boost": "boost", "compressor": "compressor",
    "equaliser": "equaliser", "tremolo": "modulation", "modulation": "modulation", "wah": "modulation",
    "delay": "echo", "reverb": "room", "volume": "volume",
}  # fmt: skip
OF_MOTION: Mapping[str, Effect] = {"rate_hz": "modulation", "echo_ms": "echo", "ring_s": "room"}
"""By what :func:`cata.core.motion.told.does` tells of a take."""
OF_WORDS: Mapping[str, Effect] = {
    "overdrive": "drive", "drive": "drive", "distortion": "drive", "crunch": "drive", "fuzz": "fuzz", "boost": "boost",
    "booster": "boost", "compressor": "compressor", "leveller": "compressor", "equaliser": "equaliser",
    "equalizer": "equaliser", "eq": "equaliser", "chorus": "modulation", "phaser": "modulation", "phase": "modulation",
    "flanger": "modulation", "tremolo": "modulation", "vibrato": "modulation", "rotary": "modulation",
    "wah": "modulation", "delay": "echo", "echo": "echo", "reverb": "room",
}  # fmt: skip
assert set(EFFECTS) == set(get_args(Effect))


def effects_of(specs: Mapping[str, Value], texts: Sequence[str], does: Collection[str]) -> frozenset[Effect]:
    """The effects of a pedal; empty where nobody knows: by its specification, else by what moves, else by its texts.

    The first of the ``texts`` (its name) that names an effect counts: a note may speak of what else it goes with.
    """
    if (noted := OF_SPEC.get(str(specs.get("effect", "")))) is not None:
        return frozenset({noted})
    if does:
        return frozenset(OF_MOTION[key] for key in does if key in OF_MOTION)
    for text in texts:
        if found := frozenset(OF_WORDS[word] for word in re.findall(r"[a-z]+", text.casefold()) if word in OF_WORDS):
            return found
    return frozenset()
