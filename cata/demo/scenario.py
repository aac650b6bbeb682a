"""The demo scenario as data: the ferry lounge, and three flights of the shop's gear."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any, Literal

from cata.core.brief import Need
from cata.core.sounds import SOUND_BY_KEY
from cata.demo.shelf import ITEM


def ferry_brief() -> Need:
    """What the ferry lounge's guitarist needs."""
    return Need(
        style="Dance band on an overnight ferry, two sets a night",
        role="platform",
        sounds=[
            SOUND_BY_KEY["clean-rhythm"].as_sound(0.5),
            SOUND_BY_KEY["edge-of-breakup"].as_sound(2.0),
            SOUND_BY_KEY["singing-lead"].as_sound(1.0),
        ],
        budget_minor=115000,
        reserve_minor=6000,
        currency="EUR",
        fit_weight=7,
        price_weight=3,
        own_rig="Kelpshore Two, standard tuning, 10–46 strings",
        must_haves="Effects loop; no piece over 18 kg",
        loudness_limit_dba=92,
        carry_limit_kg=18,
    )


@dataclass(frozen=True, kw_only=True)
class DemoTest:
    """A column: what is played, and the sound of the brief it stands for."""

    name: str
    phrase: str
    sound: str = ""
    about: str = ""
    chain: dict[str, Any] = field(default_factory=dict)


@dataclass(frozen=True, kw_only=True)
class DemoFlight:
    """A flight: rows by shelf key, columns, and faults keyed by (contender, test) as changes to the chain.

    ``recorded`` are the rows that have takes (None: all); ``ordered`` whether the takes have an order.
    """

    name: str
    question: str
    link: str
    held: str
    contenders: tuple[tuple[str, str, bool], ...]
    tests: tuple[DemoTest, ...]
    faults: dict[tuple[str, str], dict[str, Any]] = field(default_factory=dict)
    recorded: tuple[str, ...] | None = None
    ordered: bool = False


DRIVES = DemoFlight(
    name="Which drive for the melody voice?",
    question="One pedal in front of the clean platform: edge of breakup over the horns, and one singing lead.",
    link="pedal",
    held="Kelpshore Two, bridge pickup, volume and tone full; Ebbingham Platform 22, all at noon; "
    "the same dry take played through every pedal.",
    contenders=(
        ("bypass", "No pedal", True),
        ("mid-hump", "", False),
        ("transparent", "", False),
        ("hard-clip", "", False),
        ("fuzz", "", False),
    ),
    tests=(
        DemoTest(name="Offbeat chords", phrase="offbeat", sound="clean-rhythm", about="even, short, guitar volume at 8",
                 chain={"guitar_volume": 0.8}),
        DemoTest(name="Soft to hard chords", phrase="soft-to-hard", sound="edge-of-breakup",
                 about="the same chords at three strengths"),
        DemoTest(name="Muted riff", phrase="muted-riff", about="tightness of the lows"),
        DemoTest(name="Lead line", phrase="lead-line", sound="singing-lead", about="a melody and a held note"),
    ),
)  # fmt: skip

PICKUPS = DemoFlight(
    name="Bridge pickups compared",
    question="Five pickups in one guitar, straight into the clean platform.",
    link="pickup",
    held="Kelpshore Two, strings 10–46, standard tuning; Ebbingham Platform 22, all at noon.",
    contenders=tuple(
        (key, "", False) for key in ("narrow-single", "wide-single", "two-coil", "hot-two-coil", "small-two-coil")
    ),
    tests=(
        DemoTest(name="Soft to hard chords", phrase="soft-to-hard"),
        DemoTest(name="Muted riff", phrase="muted-riff"),
        DemoTest(name="Lead line", phrase="lead-line"),
    ),
    faults={
        ("hot-two-coil", "Soft to hard chords"): {"input_gain": 2.5},
        ("two-coil", "Muted riff"): {"amplifier_settings": {"treble": 0.0}},
        ("wide-single", "Lead line"): {"tuning_cents": -100.0},
    },
)  # fmt: skip

AMPLIFIERS = DemoFlight(
    name="Amps under the limit",
    question="Which amplifier stays under 92 dB(A) at the first row, fits the lift, and still has room for the lead?",
    link="amplifier",
    held="Kelpshore Two, bridge pickup, volume and tone full; close microphone, not moved.",
    contenders=(("clean", "", False), ("five", "", False), ("solid", "", False), ("fifty", "", False)),
    tests=(
        DemoTest(name="Offbeat chords", phrase="offbeat", sound="clean-rhythm"),
        DemoTest(name="Soft to hard chords", phrase="soft-to-hard", sound="edge-of-breakup"),
        DemoTest(name="Lead line", phrase="lead-line", sound="singing-lead"),
    ),
    recorded=("clean", "five"),
    ordered=True,
)  # fmt: skip

FLIGHTS = (DRIVES, PICKUPS, AMPLIFIERS)

MEASURED: tuple[tuple[str, dict[str, float]], ...] = (
    ("mid-hump", {"drive": 0.0}), ("transparent", {"drive": 0.0}), ("mid-hump", {"drive": 1.0}),
    ("mid-hump", {"drive": 0.0, "tone": 0.0}), ("mid-hump", {"drive": 0.0, "tone": 1.0}),
    ("mid-hump", {"drive": 1.0, "tone": 0.0}), ("mid-hump", {"drive": 1.0, "tone": 1.0}),
    ("mid-hump", {"drive": 0.5}), ("transparent", {"drive": 1.0}),
    ("fifty", {}), ("fifty", {"volume": 0.9}), ("fifty", {"volume": 0.9, "power": 0.0}),
    ("fifty", {"treble": 0.0}), ("fifty", {"treble": 1.0}), ("five", {}), ("press", {}), ("press", {"blend": 1.0}),
    ("lift", {}), ("trench", {}), ("solid", {}),
)  # fmt: skip
"""Items that the bench measures when the demo starts, and how their knobs stand."""
STRUMMED_DBFS = -12.0
"""Level of the bench's own strumming (a narrow single coil, phrase from soft to hard), as measuring counts it."""
STRUNG: tuple[tuple[str, Literal["bridge", "neck"], float, float], ...] = (
    ("narrow-single", "bridge", 3.0, 3.0), ("narrow-single", "bridge", 2.2, 2.2), ("narrow-single", "bridge", 1.5, 1.5),
    ("narrow-single", "neck", 2.5, 2.5), ("wide-single", "bridge", 2.2, 2.2), ("hot-two-coil", "bridge", 2.6, 2.0),
)  # fmt: skip
"""Pickups whose open strings the bench plays: position, and mm from pole to string on the bass and treble side."""


def base_chain(link: str, gear: dict[str, int]) -> dict[str, Any]:
    """What a flight is played through, every knob written down."""
    held = ("guitar", "pickup", "clean", "twelve", "near")
    links: list[dict[str, Any]] = []
    for key in held:
        if key == "pickup":
            if link in ("pedal", "pickup"):
                links.append({"key": link, "kind": link, "name": ""})
            continue
        item = ITEM[key]
        settings = {control.key: control.default for control in item.controls}
        links.append(
            {"key": item.kind, "kind": item.kind, "gear_id": gear[key], "name": item.name, "settings": settings}
        )
    return {"links": links, "conditions": {"strings": "10–46", "tuning": "standard"}}
