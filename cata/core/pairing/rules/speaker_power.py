"""Power of the amplifier and what the speaker stands."""

from __future__ import annotations

from cata.core.pairing.aspects import OWN_SPEAKER
from cata.core.pairing.rule import Aspect, Meeting, Piece, Rule


def _power(piece: Piece) -> tuple[str, bool] | None:
    watts = piece.specs.get("watts")
    if not watts or any(piece.specs.get(key) for key in OWN_SPEAKER):
        return None
    return f"{float(watts):g}", False


def _stands(piece: Piece) -> tuple[str, bool] | None:
    watts = piece.specs.get("watts")
    return (f"{float(watts):g}", False) if watts else None


def _wrong(power: str, stands: str) -> Meeting | None:
    if float(power) <= float(stands):
        return None
    return Meeting(f"{{first}} gives {power} W, {{second}} stands {stands} W: it may be destroyed", never=True)


RULE = Rule(
    key="speaker-power",
    title="What the speaker stands",
    school="all",
    reason="A speaker that gets more than it stands burns out.",
    first=Aspect("watts", "amplifier", _power),
    second=Aspect("stands", "speaker", _stands),
    others=_wrong,
    safety=True,
)
