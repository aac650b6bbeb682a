"""Voltage of supply and pedal."""

from __future__ import annotations

from cata.core.pairing.rule import Aspect, Meeting, Piece, Rule


def _takes(piece: Piece) -> tuple[str, bool] | None:
    volts = piece.specs.get("voltage_v")
    if not volts:
        return None
    return f"{float(volts):g} {float(piece.specs.get('voltage_max_v') or volts):g}", False


def _gives(piece: Piece) -> tuple[str, bool] | None:
    volts = piece.specs.get("voltage_v")
    return (f"{float(volts):g}", False) if volts else None


def _wrong(takes: str, gives: str) -> Meeting | None:
    least, most = map(float, takes.split())
    volts = float(gives)
    if volts > most:
        return Meeting(f"{{second}} gives {volts:g} V, {{first}} stands {most:g} V: never connect them", never=True)
    if volts < least:
        return Meeting(f"{{first}} wants {least:g} V, {{second}} gives {volts:g} V: it will not work", never=True)
    return None


RULE = Rule(
    key="voltage",
    title="Voltage of the supply",
    school="all",
    reason="Too much voltage destroys a pedal; too little leaves it silent or sick.",
    first=Aspect("volts", "pedals", _takes),
    second=Aspect("gives", "power supply", _gives),
    others=_wrong,
    safety=True,
)
