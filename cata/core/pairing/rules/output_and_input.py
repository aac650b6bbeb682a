"""Output of the pickup against the input's headroom."""

from __future__ import annotations

from cata.core.pairing.aspects import AMP_INPUT, OUTPUT
from cata.core.pairing.rule import A_LITTLE, CLEARLY, SPOILS, Meeting, Rule

RULE = Rule(
    key="output-and-input",
    title="Output of the pickup against the amplifier's headroom",
    school="a clean platform, or the amplifier makes it",
    reason="A hot pickup takes the headroom that a clean sound lives on; a weak one leaves a driven amplifier clean.",
    first=OUTPUT,
    second=AMP_INPUT,
    meetings={
        ("hot", "early"): Meeting("{first} is hot for {second}: it breaks up under everyday playing", clean=SPOILS),
        ("medium", "early"): Meeting("{second} breaks up early: clean sounds need a soft hand", clean=CLEARLY),
        ("hot", "middling"): Meeting("{first} leaves {second} little headroom", clean=A_LITTLE),
        ("low", "late"): Meeting("{first} is weak and {second} stays clean: drive has to come from a pedal",
                                 driven=A_LITTLE),
    },
)  # fmt: skip
