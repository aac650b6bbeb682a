"""Impedance of amplifier and speaker."""

from __future__ import annotations

from cata.core.pairing.aspects import OWN_SPEAKER
from cata.core.pairing.rule import Aspect, Meeting, Piece, Rule


def _load(piece: Piece) -> tuple[str, bool] | None:
    load = piece.specs.get("speaker_load_ohm")
    if not load or any(piece.specs.get(key) for key in OWN_SPEAKER):
        return None
    return f"{float(load):g}", False


def _impedance(piece: Piece) -> tuple[str, bool] | None:
    ohm = piece.specs.get("impedance_ohm")
    return (f"{float(ohm):g}", False) if ohm else None


def _wrong(load: str, ohm: str) -> Meeting | None:
    if load == ohm:
        return None
    return Meeting(f"{{first}} wants {load} ohm, {{second}} has {ohm}: ask a technician before connecting them",
                   never=True)  # fmt: skip


RULE = Rule(
    key="speaker-load",
    title="Load of the amplifier",
    school="all",
    reason="A valve amplifier into the wrong load can be damaged.",
    first=Aspect("load", "amplifier", _load),
    second=Aspect("impedance", "speaker", _impedance),
    others=_wrong,
    safety=True,
)
