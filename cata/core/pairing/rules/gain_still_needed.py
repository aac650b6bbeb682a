"""Gain that is still needed: a pedal that stays clean in front of an amplifier that does."""

from __future__ import annotations

from cata.core.pairing.aspects import AMP_INPUT, PEDAL_INPUT
from cata.core.pairing.rule import A_LITTLE, Aspect, Meeting, Piece, Rule

PUSHES = (None, "boost", "drive", "distortion", "fuzz")
"""What a pedal is there for where drive is expected of it, or of what stands behind it; None: nobody wrote it down."""


def _push(piece: Piece) -> tuple[str, bool] | None:
    return PEDAL_INPUT.of(piece) if piece.specs.get("effect") in PUSHES else None


RULE = Rule(
    key="gain-still-needed",
    title="Gain that is still needed",
    school="the amplifier makes the drive, a boost pushes it",
    reason="A boost drives what has little headroom left; a clean amplifier it makes louder and no more driven.",
    first=Aspect("push", "pedals", _push),
    second=AMP_INPUT,
    meetings={
        ("late", "late"): Meeting("{first} and {second} both stay clean: drive has to come from something else",
                                  driven=A_LITTLE),
    },
)  # fmt: skip
