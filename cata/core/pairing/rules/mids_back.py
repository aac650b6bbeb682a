"""Mids that a scooped amplifier needs back."""

from __future__ import annotations

from cata.core.pairing.aspects import AMP_MIDS, PEDAL_MIDS
from cata.core.pairing.rule import CLEARLY, Meeting, Rule

RULE = Rule(
    key="mids-back",
    title="Mids in front of a scooped amplifier",
    school="the pedal re-voices the amplifier",
    reason="Two scoops in a row leave a hole where the guitar is heard in a band.",
    first=PEDAL_MIDS,
    second=AMP_MIDS,
    meetings={
        ("scooped", "scooped"): Meeting("{first} and {second} both take the mids out: nothing is left to be heard by",
                                        clean=CLEARLY, driven=CLEARLY),
    },
)  # fmt: skip
