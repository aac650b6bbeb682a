"""Low end in front of an amplifier: cut before a driven one, kept before a clean one."""

from __future__ import annotations

from cata.core.pairing.aspects import AMP_INPUT, PEDAL_LOWS
from cata.core.pairing.rule import A_LITTLE, CLEARLY, Meeting, Rule

RULE = Rule(
    key="lows-in-front",
    title="Low end in front of the amplifier",
    school="the amplifier makes the drive: take bass out first",
    reason="Lows that reach a driven stage drive it loose and muddy; the same cut leaves a clean amplifier thin.",
    first=PEDAL_LOWS,
    second=AMP_INPUT,
    meetings={
        ("kept", "early"): Meeting("{first} keeps all lows in front of {second}, which is driven: it gets loose",
                                   driven=CLEARLY),
        ("thinned", "early"): Meeting("{first} leaves much of the lows in front of {second}", driven=A_LITTLE),
        ("cut", "late"): Meeting("{first} cuts the lows and {second} is clean: it gets thin", clean=CLEARLY,
                                 driven=A_LITTLE),
    },
)  # fmt: skip
