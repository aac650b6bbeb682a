"""The demo scenario as data: the ferry lounge, the shelf of the shop, and two flights."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from cata.core.brief import SOUND_BY_KEY, Need
from cata.core.gear import Control

KNOB_NAMES = dict[str, str]


@dataclass(frozen=True, kw_only=True)
class Item:
    """An item of the shelf; prices in cents; ``bench`` names the simulated device it stands for."""

    key: str
    kind: str
    name: str
    about: str
    structure: str = ""
    new_minor: int
    used_minor: int | None = None
    controls: tuple[Control, ...] = ()
    specs: dict[str, str] = field(default_factory=dict)


def _knobs(*pairs: tuple[str, str], scale: str = "0-10", **defaults: float) -> tuple[Control, ...]:
    return tuple(Control(key=key, name=name, scale=scale, default=defaults.get(key, 0.5)) for key, name in pairs)


SHELF: tuple[Item, ...] = (
    Item(key="mid-hump", kind="pedal", name="Aldermoor Hump", new_minor=14900, used_minor=9500,
         about="Mid-hump drive. Takes the lows out before it clips, so chords stay tight in front of an amplifier.",
         structure="soft clip in the feedback, lows cut before it",
         controls=_knobs(("drive", "Drive"), ("tone", "Tone"), ("level", "Level"), drive=0.45, tone=0.55, level=0.3),
         specs={"draw": "6 mA", "voltage": "9 V, centre negative", "bypass": "buffered"}),
    Item(key="transparent", kind="pedal", name="Birkwater Clearing", new_minor=23900, used_minor=18000,
         about="Transparent drive. Full range, breaks up late and follows the pick.",
         structure="full range, late rounded clip",
         controls=_knobs(("drive", "Gain"), ("bass", "Bass"), ("treble", "Treble"), ("level", "Volume"),
                         scale="clock", drive=0.72),
         specs={"draw": "9 mA", "voltage": "9 to 18 V, centre negative", "bypass": "true bypass"}),
    Item(key="hard-clip", kind="pedal", name="Cormorant Slab", new_minor=9900, used_minor=6000,
         about="Hard-clip distortion. Flat-topped and even at any strength; the filter turns it dark.",
         structure="high gain into diodes against ground",
         controls=_knobs(("distortion", "Distortion"), ("filter", "Filter"), ("volume", "Volume"),
                         distortion=0.35, filter=0.4, volume=0.3),
         specs={"draw": "5 mA", "voltage": "9 V, centre negative", "bypass": "true bypass"}),
    Item(key="fuzz", kind="pedal", name="Dapplegrim Wool", new_minor=18900, used_minor=13500,
         about="Fuzz with an off-centre second stage: thick, sputtering at low bias.",
         structure="two stages, asymmetric and moving bias",
         controls=_knobs(("fuzz", "Fuzz"), ("bias", "Bias"), ("volume", "Volume"), scale="percent",
                         fuzz=0.55, volume=0.25),
         specs={"draw": "3 mA", "voltage": "9 V, centre negative", "bypass": "true bypass"}),
    Item(key="clean", kind="amplifier", name="Ebbingham Platform 22", new_minor=68000, used_minor=49000,
         about="Clean platform amplifier: much headroom, passive tone stack, one twelve-inch speaker.",
         structure="passive bass, middle and treble stack between two stages, one speaker",
         controls=_knobs(("volume", "Volume"), ("bass", "Bass"), ("middle", "Middle"), ("treble", "Treble")),
         specs={"watts": "22", "weight": "15.5 kg", "effects loop": "yes", "speaker load": "8 ohm"}),
    Item(key="narrow-single", kind="pickup", name="Fenlight Narrow", new_minor=7900, used_minor=5500,
         about="Narrow single coil: bright, open, hears little of the string.",
         specs={"coils": "1", "DC resistance": "6.5 kΩ", "inductance": "2.5 H", "position": "bridge"}),
    Item(key="wide-single", kind="pickup", name="Gorsemill Wide", new_minor=9200, used_minor=6900,
         about="Wide single coil: a broad, flat coil that rounds the top.",
         specs={"coils": "1", "DC resistance": "8.6 kΩ", "inductance": "6.2 H", "position": "bridge"}),
    Item(key="two-coil", kind="pickup", name="Hollowbeck Pair", new_minor=11500, used_minor=8000,
         about="Two-coil pickup: quiet, full, with a resonance at 3 kHz.",
         specs={"coils": "2", "DC resistance": "8.2 kΩ", "inductance": "4.5 H", "position": "bridge"}),
    Item(key="hot-two-coil", kind="pickup", name="Ironquay Overwound", new_minor=12900, used_minor=8800,
         about="Overwound two-coil pickup: loud and dark, made to push.",
         specs={"coils": "2", "DC resistance": "15.6 kΩ", "inductance": "8.6 H", "position": "bridge"}),
    Item(key="small-two-coil", kind="pickup", name="Juniper Slim", new_minor=10900, used_minor=7900,
         about="Small two-coil pickup: narrow aperture, clear for its quietness.",
         specs={"coils": "2", "DC resistance": "6.9 kΩ", "inductance": "3.4 H", "position": "bridge"}),
    Item(key="guitar", kind="guitar", name="Kelpshore Two", new_minor=74000,
         about="Two-pickup guitar with 10 to 46 strings, already owned.",
         controls=(*_knobs(("volume", "Volume"), ("tone", "Tone"), volume=1.0, tone=1.0),
                   Control(key="pickup", name="Pickup", scale="labels", labels=("bridge", "both", "neck"),
                           default=0.0)),
         specs={"strings": "10–46", "pickups": "2", "weight": "3.4 kg"}),
    Item(key="supply", kind="power supply", name="Lanternway Six", new_minor=8900, used_minor=6500,
         about="Six isolated outputs of 9 V.", specs={"outputs": "6 x 9 V", "current": "300 mA each"}),
    Item(key="cable", kind="cable", name="Mossrope 4 m", new_minor=2400,
         about="Instrument cable, four metres.", specs={"length": "4 m", "capacitance": "390 pF"}),
)  # fmt: skip
ITEM = {item.key: item for item in SHELF}


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
    """A flight: rows by shelf key, columns, and faults keyed by (contender, test) as changes to the chain."""

    name: str
    question: str
    link: str
    held: str
    contenders: tuple[tuple[str, str, bool], ...]
    tests: tuple[DemoTest, ...]
    faults: dict[tuple[str, str], dict[str, Any]] = field(default_factory=dict)


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
        ("two-coil", "Muted riff"): {"amplifier_settings": {"treble": 0.95}},
        ("wide-single", "Lead line"): {"tuning_cents": -100.0},
    },
)  # fmt: skip

FLIGHTS = (DRIVES, PICKUPS)
