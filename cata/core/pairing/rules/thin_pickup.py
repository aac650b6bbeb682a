"""Mids that a thin pickup needs."""

from __future__ import annotations

from cata.core.pairing.aspects import PEDAL_MIDS
from cata.core.pairing.rule import CLEARLY, Aspect, Meeting, Piece, Rule


def _body(piece: Piece) -> tuple[str, bool] | None:
    coils, output = piece.specs.get("coils"), piece.specs.get("output_class")
    if coils is None or output is None:
        return None
    return ("thin" if coils == 1 and output == "low" else "full"), False


RULE = Rule(
    key="thin-pickup",
    title="Mids for a thin pickup",
    school="the pedal gives what the guitar lacks",
    reason="A weak single coil has little body; what takes the mids out leaves attack alone.",
    first=Aspect("body", "pickup", _body),
    second=PEDAL_MIDS,
    meetings={
        ("thin", "scooped"): Meeting("{first} is thin and {second} takes its mids out", clean=CLEARLY, driven=CLEARLY),
    },
)
