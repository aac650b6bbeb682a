"""Polarity of plugs: what must not be connected."""

from __future__ import annotations

from cata.core.pairing.rule import Aspect, Meeting, Piece, Rule


def _polarity(piece: Piece) -> tuple[str, bool] | None:
    plug = piece.specs.get("polarity")
    return (str(plug), False) if plug else None


def _wrong(pedal: str, supply: str) -> Meeting | None:
    if pedal == supply:
        return None
    return Meeting(f"{{first}} wants {pedal}, {{second}} gives {supply}: never connect them", never=True)


RULE = Rule(
    key="plugs",
    title="Polarity of the supply",
    school="all",
    reason="The wrong polarity destroys a pedal.",
    first=Aspect("plug", "pedals", _polarity),
    second=Aspect("supply", "power supply", _polarity),
    others=_wrong,
    safety=True,
)
