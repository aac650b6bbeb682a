"""Straight into a mixer or an interface: a driven sound without a speaker."""

from __future__ import annotations

from cata.core.pairing.aspects import PEDAL_INPUT
from cata.core.pairing.rule import A_LITTLE, SPOILS, Aspect, Meeting, Piece, Rule


def _speaker(piece: Piece) -> tuple[str, bool] | None:
    role = piece.specs.get("role")
    return None if role is None else (("with a speaker" if "simulation" in str(role) else "without"), False)


RULE = Rule(
    key="direct",
    title="Direct use",
    school="without an amplifier",
    reason="A speaker takes the top off a driven sound; straight into a mixer all of its fizz is heard.",
    first=PEDAL_INPUT,
    second=Aspect("direct", "amplifier", _speaker),
    meetings={
        ("early", "without"): Meeting("{first} is driven and {second} has no sound of a speaker: it fizzes",
                                      clean=A_LITTLE, driven=SPOILS),
    },
)  # fmt: skip
