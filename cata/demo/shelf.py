"""The shelf of the demo: gear with invented names, its knobs, prices and specifications."""

from __future__ import annotations

from dataclasses import dataclass, field

from cata.core.gear import Control


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
         specs={"draw": "6 mA", "voltage": "9 V", "polarity": "centre negative", "bypass": "buffered"}),
    Item(key="transparent", kind="pedal", name="Birkwater Clearing", new_minor=23900, used_minor=18000,
         about="Transparent drive. Full range, breaks up late and follows the pick.",
         structure="full range, late rounded clip",
         controls=_knobs(("drive", "Gain"), ("bass", "Bass"), ("treble", "Treble"), ("level", "Volume"),
                         scale="clock", drive=0.72),
         specs={"draw": "9 mA", "voltage": "9 V", "highest voltage": "18 V",
                "polarity": "centre negative", "bypass": "true bypass"}),
    Item(key="hard-clip", kind="pedal", name="Cormorant Slab", new_minor=9900, used_minor=6000,
         about="Hard-clip distortion. Flat-topped and even at any strength; the filter turns it dark.",
         structure="high gain into diodes against ground",
         controls=_knobs(("distortion", "Distortion"), ("filter", "Filter"), ("volume", "Volume"),
                         distortion=0.35, filter=0.4, volume=0.3),
         specs={"draw": "5 mA", "voltage": "9 V", "polarity": "centre negative", "bypass": "true bypass"}),
    Item(key="fuzz", kind="pedal", name="Dapplegrim Wool", new_minor=18900, used_minor=13500,
         about="Fuzz with an off-centre second stage: thick, sputtering at low bias.",
         structure="two stages, asymmetric and moving bias",
         controls=_knobs(("fuzz", "Fuzz"), ("bias", "Bias"), ("volume", "Volume"), scale="percent",
                         fuzz=0.55, volume=0.25),
         specs={"what it does": "fuzz", "draw": "3 mA", "voltage": "9 V", "polarity": "centre positive",
                "bypass": "true bypass"}),
    Item(key="clean", kind="amplifier", name="Ebbingham Platform 22", new_minor=68000, used_minor=49000,
         about="Clean platform amplifier: much headroom, passive tone stack, one twelve-inch speaker.",
         structure="passive bass, middle and treble stack between two stages, one speaker",
         controls=_knobs(("volume", "Volume"), ("bass", "Bass"), ("middle", "Middle"), ("treble", "Treble")),
         specs={"watts": "22", "weight": "15.5 kg", "effects loop": "yes", "speaker load": "8 ohm",
                "speaker sensitivity": "99 dB"}),
    Item(key="narrow-single", kind="pickup", name="Fenlight Narrow", new_minor=7900, used_minor=5500,
         about="Narrow single coil: bright, open, hears little of the string.",
         specs={"coils": "1", "output class": "low", "DC resistance": "6.5 kΩ", "inductance": "2.5 H",
                "position": "bridge"}),
    Item(key="wide-single", kind="pickup", name="Gorsemill Wide", new_minor=9200, used_minor=6900,
         about="Wide single coil: a broad, flat coil that rounds the top.",
         specs={"coils": "1", "DC resistance": "8.6 kΩ", "inductance": "6.2 H", "position": "bridge"}),
    Item(key="two-coil", kind="pickup", name="Hollowbeck Pair", new_minor=11500, used_minor=8000,
         about="Two-coil pickup: quiet, full, with a resonance at 3 kHz.",
         specs={"coils": "2", "DC resistance": "8.2 kΩ", "inductance": "4.5 H", "position": "bridge"}),
    Item(key="hot-two-coil", kind="pickup", name="Ironquay Overwound", new_minor=12900, used_minor=8800,
         about="Overwound two-coil pickup: loud and dark, made to push.",
         specs={"coils": "2", "output class": "hot", "DC resistance": "15.6 kΩ", "inductance": "8.6 H",
                "position": "bridge"}),
    Item(key="small-two-coil", kind="pickup", name="Juniper Slim", new_minor=10900, used_minor=7900,
         about="Small two-coil pickup: narrow aperture, clear for its quietness.",
         specs={"coils": "2", "DC resistance": "6.9 kΩ", "inductance": "3.4 H", "position": "bridge"}),
    Item(key="lift", kind="pedal", name="Nettlebank Lift", new_minor=11900, used_minor=8200,
         about="Clean boost: one knob, level only.", structure="full range, late rounded clip, far from clipping",
         controls=_knobs(("boost", "Boost"), boost=0.3),
         specs={"what it does": "boost", "draw": "8 mA", "voltage": "9 V", "bypass": "true bypass"}),
    Item(key="press", kind="pedal", name="Oatwharf Press", new_minor=17900, used_minor=12800,
         about="Compressor with a dry blend: evens the level and keeps the pick.", structure="feedback compressor",
         controls=_knobs(("sustain", "Sustain"), ("attack", "Attack"), ("blend", "Blend"), ("level", "Level")),
         specs={"what it does": "compressor", "draw": "11 mA", "voltage": "9 V", "bypass": "buffered"}),
    Item(key="seven", kind="pedal", name="Plumbridge Seven", new_minor=13900, used_minor=9000,
         about="Graphic equaliser, seven bands of 12 dB.", structure="seven gyrator bands",
         controls=tuple(Control(key=f"b{hz}", name=f"{hz} Hz", kind="slider") for hz in
                        (100, 200, 400, 800, 1600, 3200, 6400)),
         specs={"what it does": "equaliser", "draw": "14 mA", "voltage": "9 V", "bypass": "true bypass"}),
    Item(key="sway", kind="pedal", name="Quernmoor Sway", new_minor=15900, used_minor=11000,
         about="Tremolo with a choice of waves.", structure="optical level control",
         controls=(*_knobs(("speed", "Speed"), ("depth", "Depth")),
                   Control(key="wave", name="Wave", scale="labels", labels=("round", "square", "ramp"), default=0.0)),
         specs={"what it does": "tremolo", "draw": "16 mA", "voltage": "9 V", "bypass": "true bypass"}),
    Item(key="five", kind="amplifier", name="Rushlight Five", new_minor=39900, used_minor=27000,
         about="Practice amplifier of five watts: breaks up early, at a level a lounge can bear.",
         structure="one power valve, simple tone stack",
         controls=_knobs(("volume", "Volume"), ("bass", "Bass"), ("middle", "Middle"), ("treble", "Treble"),
                         volume=0.95, bass=0.4, middle=0.7),
         specs={"power": "5 W", "weight": "8.5 kg", "effects loop": "no", "speaker load": "8 ohm",
                "built with": "valve", "speaker size": "10 in", "speakers": "1"}),
    Item(key="fifty", kind="amplifier", name="Stokeferry Fifty", new_minor=129000, used_minor=88000,
         about="Fifty watts with a power switch; too heavy for the lift with its cabinet.",
         structure="passive stack before all gain, two power valves, power switch",
         controls=(*_knobs(("volume", "Volume"), ("bass", "Bass"), ("middle", "Middle"), ("treble", "Treble"),
                           volume=0.3, treble=0.6),
                   Control(key="power", name="Power", scale="labels", labels=("5 W", "25 W", "50 W"), default=1.0)),
         specs={"power": "50 W", "power switch positions": "50 W, 25 W, 5 W", "weight": "24 kg", "effects loop": "yes",
                "speaker load": "8 ohm", "built with": "valve", "standby switch": "yes"}),
    Item(key="solid", kind="amplifier", name="Thornquay Solid 40", new_minor=52000, used_minor=36000,
         about="Solid-state platform: light, clean, the same at every level.", structure="solid-state, active stack",
         controls=_knobs(("volume", "Volume"), ("bass", "Bass"), ("middle", "Middle"), ("treble", "Treble"),
                         volume=0.35, bass=0.6, middle=0.35, treble=0.55),
         specs={"power": "40 W", "weight": "11 kg", "effects loop": "yes", "speaker load": "8 ohm",
                "built with": "solid-state"}),
    Item(key="direct", kind="amplifier", name="Underhithe Direct", new_minor=44900, used_minor=33000,
         about="Small amplifier for direct use: no speaker needed.", structure="solid-state with a speaker simulation",
         controls=_knobs(("volume", "Volume"), ("bass", "Bass"), ("middle", "Middle"), ("treble", "Treble"),
                         volume=0.4, middle=0.6),
         specs={"power": "2 W", "weight": "1.9 kg", "effects loop": "yes", "built with": "solid-state",
                "direct output": "yes"}),
    Item(key="twelve", kind="speaker", name="Vixenmoor Twelve", new_minor=13900, used_minor=9000,
         about="Twelve-inch speaker, open and even.",
         specs={"impedance": "8 ohm", "sensitivity": "97 dB", "size": "12 in", "watts": "40 W"}),
    Item(key="twelve-loud", kind="speaker", name="Wadefell Twelve", new_minor=16900, used_minor=12500,
         about="Twelve-inch speaker, louder by three decibels and brighter.",
         specs={"impedance": "16 ohm", "sensitivity": "100 dB", "size": "12 in", "watts": "60 W"}),
    Item(key="ten", kind="speaker", name="Yarrowby Ten", new_minor=9900, used_minor=6500,
         about="Ten-inch speaker: quick and lean in the lows.",
         specs={"impedance": "8 ohm", "sensitivity": "95 dB", "size": "10 in", "watts": "30 W"}),
    Item(key="near", kind="microphone", name="Zennorcote Near", new_minor=10900, used_minor=7500,
         about="Dynamic microphone for close work.", specs={"pattern": "cardioid", "kind": "dynamic"}),
    Item(key="strings", kind="strings", name="Islemark 10–46", new_minor=900,
         about="Nickel-plated round-wound set.", specs={"gauge": "10–46", "number of strings": "6",
                                                        "material": "nickel-plated steel", "winding": "round"}),
    Item(key="guitar", kind="guitar", name="Kelpshore Two", new_minor=74000,
         about="Two-pickup guitar with 10 to 46 strings, already owned.",
         controls=(*_knobs(("volume", "Volume"), ("tone", "Tone"), volume=1.0, tone=1.0),
                   Control(key="pickup", name="Pickup", scale="labels", labels=("bridge", "both", "neck"),
                           default=0.0)),
         specs={"strings": "10–46", "pickups": "2", "weight": "3.4 kg"}),
    Item(key="supply", kind="power supply", name="Lanternway Six", new_minor=8900, used_minor=6500,
         about="Six isolated outputs of 9 V.",
         specs={"outputs": "6", "voltage": "9 V", "current": "300 mA", "isolated": "yes",
                "polarity": "centre negative"}),
    Item(key="cable", kind="cable", name="Mossrope 4 m", new_minor=2400,
         about="Instrument cable, four metres.", specs={"length": "4 m", "capacitance": "390 pF"}),
    Item(key="trench", kind="pedal", name="Skarnmere Trench", new_minor=20900, used_minor=14500,
         about="Scooped high-gain distortion: tight lows and little in the middle, made for low tunings.",
         structure="two stages, tight lows, mids taken out after",
         controls=_knobs(("gain", "Gain"), ("mids", "Mids"), ("lows", "Lows"), ("volume", "Volume"), gain=0.6, mids=0.3,
                         volume=0.4),
         specs={"what it does": "distortion", "draw": "22 mA", "voltage": "9 V", "polarity": "centre negative",
                "bypass": "buffered"}),
    Item(key="box", kind="direct box", name="Hawsehole Box", new_minor=6900, used_minor=4500,
         about="Direct box: balances the signal for a desk, and has no sound of its own.",
         specs={"role": "direct box", "weight": "0.6 kg"}),
    Item(key="adaptor", kind="power supply", name="Jettywick Twelve", new_minor=1900, used_minor=900,
         about="One output of 12 V, left over from a keyboard.",
         specs={"outputs": "1", "voltage": "12 V", "current": "1500 mA", "polarity": "centre positive"}),
)  # fmt: skip
ITEM = {item.key: item for item in SHELF}
