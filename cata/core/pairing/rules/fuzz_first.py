"""A fuzz in front of a buffer."""

from __future__ import annotations

from cata.core.pairing.rule import Aspect, Meeting, Piece, Rule

LOW_INPUT_KOHM = 50.0


def _fuzz(piece: Piece) -> tuple[str, bool] | None:
    effect, kohm = piece.specs.get("effect"), piece.specs.get("input_kohm")
    if effect is None and kohm is None:
        return None
    loads = isinstance(kohm, int | float) and kohm < LOW_INPUT_KOHM
    return ("wants the guitar" if loads or (effect == "fuzz" and kohm is None) else "takes anything"), False


def _buffer(piece: Piece) -> tuple[str, bool] | None:
    bypass = piece.specs.get("bypass")
    return None if bypass is None else (("buffered" if bypass == "buffered" else "free"), False)


RULE = Rule(
    key="fuzz-first",
    title="Fuzz before a buffer",
    school="all",
    reason="A fuzz of low input impedance works with the pickup itself; behind a buffer it turns harsh, and the volume "
    "of the guitar no longer cleans it.",
    first=Aspect("fuzz", "pedals", _fuzz),
    second=Aspect("buffer", "pedals", _buffer),
    meetings={
        ("wants the guitar", "buffered"): Meeting("put {first} in front of {second}, which has a buffer"),
    },
)
