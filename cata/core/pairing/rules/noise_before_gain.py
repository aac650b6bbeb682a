"""Noise in front of gain."""

from __future__ import annotations

from cata.core.pairing.aspects import AMP_INPUT, PEDAL_NOISE
from cata.core.pairing.rule import CLEARLY, Meeting, Rule

RULE = Rule(
    key="noise-before-gain",
    title="Noise in front of gain",
    school="all",
    reason="Whatever hiss a pedal has, a driven amplifier behind it lifts with the guitar.",
    first=PEDAL_NOISE,
    second=AMP_INPUT,
    meetings={
        ("noisy", "early"): Meeting("{second} lifts the noise of {first}", driven=CLEARLY),
    },
)  # fmt: skip
