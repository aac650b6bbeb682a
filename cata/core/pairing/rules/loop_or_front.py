"""Echo and reverb in front of a driven amplifier that has no loop."""

from __future__ import annotations

from cata.core.pairing.rule import CLEARLY, Aspect, Meeting, Piece, Rule

SPACE = ("delay", "reverb", "modulation", "tremolo")


def _space(piece: Piece) -> tuple[str, bool] | None:
    effect = piece.specs.get("effect")
    return None if effect is None else (("space" if effect in SPACE else "other"), False)


def _loop(piece: Piece) -> tuple[str, bool] | None:
    loop, headroom = piece.specs.get("effects_loop"), piece.figures.get("headroom_db")
    if not isinstance(loop, bool) or headroom is None:
        return None
    return ("driven without loop" if not loop and headroom < 0 else "fine"), True


RULE = Rule(
    key="loop-or-front",
    title="Echo and reverb: loop or front",
    school="space behind the drive",
    reason="In front of a driven amplifier every echo is driven too, and a tremolo is evened out; without a loop there "
    "is no other place for it.",
    first=Aspect("space", "pedals", _space),
    second=Aspect("loop", "amplifier", _loop),
    meetings={
        ("space", "driven without loop"): Meeting("{second} is driven and has no loop for {first}", driven=CLEARLY),
    },
)
