"""What is asked of an item by its kind: fields with type, unit and bounds, and other words people write for them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from cata.core.gear import GearKind

SpecType = Literal["number", "whole", "choice", "flag", "text"]


@dataclass(frozen=True, kw_only=True)
class Field:
    """One field of a specification; ``low`` and ``high`` bound numbers, ``choices`` list the words of a choice."""

    key: str
    name: str
    type: SpecType = "text"
    unit: str = ""
    choices: tuple[str, ...] = ()
    low: float = 0.0
    high: float = 1e6


def _number(key: str, name: str, unit: str, low: float = 0.0, high: float = 1e6) -> Field:
    return Field(key=key, name=name, type="number", unit=unit, low=low, high=high)


def _whole(key: str, name: str, low: int = 0, high: int = 100, unit: str = "") -> Field:
    return Field(key=key, name=name, type="whole", unit=unit, low=low, high=high)


def _choice(key: str, name: str, *choices: str) -> Field:
    return Field(key=key, name=name, type="choice", choices=choices)


def _flag(key: str, name: str) -> Field:
    return Field(key=key, name=name, type="flag")


def _text(key: str, name: str) -> Field:
    return Field(key=key, name=name)


def _weight(low_kg: float, high_kg: float) -> Field:
    """Beyond these something else was meant: grams, or another column."""
    return _number("weight_kg", "Weight", "kg", low_kg, high_kg)


SUPPLY = (
    _number("draw_ma", "Draw", "mA", 0, 5000),
    _number("voltage_v", "Voltage", "V", 0, 48),
    _number("voltage_max_v", "Highest voltage", "V", 0, 48),
    _choice("polarity", "Plug polarity", "centre negative", "centre positive", "AC"),
)

FIELDS: Mapping[GearKind, tuple[Field, ...]] = {
    "pickup": (
        _whole("coils", "Coils", 1, 4),
        _choice("output_class", "Output class", "low", "medium", "hot"),
        _number("output_mv", "Output", "mV", 0, 5000),
        _number("dc_resistance_kohm", "DC resistance", "kΩ", 0, 100),
        _number("inductance_h", "Inductance", "H", 0, 50),
        _number("capacitance_pf", "Own capacitance", "pF", 0, 2000),
        _choice("position", "Position", "bridge", "middle", "neck"),
        _choice("magnet", "Magnet", "bar", "rods", "blade", "active"),
        _number("string_spacing_mm", "String spacing", "mm", 30, 70),
    ),
    "guitar": (
        _whole("pickups", "Pickups", 1, 6),
        _text("strings", "Strings"),
        _number("scale_mm", "Scale length", "mm", 300, 900),
        _whole("string_count", "Number of strings", 4, 12),
        _choice("body", "Body", "solid", "semi-hollow", "hollow"),
        _number("volume_pot_kohm", "Volume pot", "kΩ", 0, 2000),
        _number("tone_pot_kohm", "Tone pot", "kΩ", 0, 2000),
        _number("tone_capacitor_nf", "Tone capacitor", "nF", 0, 1000),
        _weight(0.5, 15),
    ),
    "pedal": (
        _choice("effect", "What it does", "drive", "distortion", "fuzz", "boost", "compressor", "equaliser",
                "tremolo", "delay", "reverb", "modulation", "wah", "volume", "other"),
        *SUPPLY,
        _choice("bypass", "Bypass", "true bypass", "buffered", "switchable"),
        _text("topology", "Topology"),
        _number("input_kohm", "Input impedance", "kΩ", 0, 20000),
        _number("width_mm", "Width", "mm", 0, 1000),
        _weight(0.03, 20),
    ),
    "amplifier": (
        _number("watts", "Power", "W", 0.01, 600),
        _text("power_positions", "Power switch positions"),
        _whole("channels", "Channels", 1, 12),
        _flag("effects_loop", "Effects loop"),
        _choice("loop_kind", "Loop kind", "series", "parallel", "switchable"),
        _number("speaker_load_ohm", "Speaker load", "Ω", 0, 32),
        _choice("build", "Built with", "valve", "solid-state", "hybrid", "digital"),
        _flag("standby", "Standby switch"),
        _flag("direct_output", "Direct output"),
        _number("speaker_size_in", "Speaker size", "in", 0, 18),
        _whole("speaker_count", "Speakers", 0, 16),
        _number("speaker_sensitivity_db", "Speaker sensitivity (1 W, 1 m)", "dB", 60, 115),
        _weight(0.2, 100),
    ),
    "speaker": (
        _number("impedance_ohm", "Impedance", "Ω", 0, 32),
        _number("sensitivity_db", "Sensitivity (1 W, 1 m)", "dB", 60, 115),
        _number("size_in", "Size", "in", 0, 18),
        _number("watts", "Power handling", "W", 0, 2000),
        _whole("speaker_count", "Speakers", 1, 16),
        _choice("cabinet", "Cabinet", "open back", "closed back", "bare speaker"),
        _weight(0.3, 100),
    ),
    "microphone": (
        _choice("pattern", "Pattern", "cardioid", "omni", "figure of eight", "other"),
        _choice("transducer", "Kind", "dynamic", "ribbon", "condenser"),
        _number("max_spl_db", "Highest level", "dB", 80, 180),
        _flag("phantom_power", "Needs phantom power"),
    ),
    "direct box": (
        _choice("role", "Role", "direct box", "speaker simulation", "load box", "load and simulation"),
        _number("load_ohm", "Load", "Ω", 0, 32),
        _number("watts", "Power handling", "W", 0, 1000),
        *SUPPLY,
        _weight(0.05, 30),
    ),
    "strings": (
        _text("gauge", "Gauge"),
        _whole("string_count", "Number of strings", 4, 12),
        _choice("material", "Material", "nickel-plated steel", "pure nickel", "steel", "bronze", "nylon"),
        _choice("winding", "Winding", "round", "half-round", "flat"),
        _flag("coated", "Coated"),
    ),
    "cable": (
        _number("length_m", "Length", "m", 0.05, 100),
        _number("capacitance_pf", "Capacitance", "pF", 0, 20000),
        _number("capacitance_pf_per_m", "Capacitance per metre", "pF/m", 0, 1000),
        _choice("use", "Use", "instrument", "speaker", "patch"),
    ),
    "power supply": (
        _whole("outputs", "Outputs", 1, 24),
        _number("current_ma", "Current of an output", "mA", 0, 5000),
        _number("total_ma", "Current in all", "mA", 0, 20000),
        _number("voltage_v", "Voltage", "V", 0, 48),
        _choice("polarity", "Plug polarity", "centre negative", "centre positive", "AC"),
        _flag("isolated", "Isolated outputs"),
        _weight(0.05, 20),
    ),
    "accessory": (_weight(0.01, 200),),
}  # fmt: skip

# Words people write for a field besides its name, and in German.
OTHER_NAMES: Mapping[str, tuple[str, ...]] = {
    "resistance": ("dc_resistance_kohm",), "dcr": ("dc_resistance_kohm",), "current draw": ("draw_ma",),
    "current": ("draw_ma",), "power": ("watts",), "wattage": ("watts",), "ohms": ("impedance_ohm",),
    "impedance": ("impedance_ohm",), "mass": ("weight_kg",), "loop": ("effects_loop",), "fx loop": ("effects_loop",),
    "load": ("speaker_load_ohm", "load_ohm"), "valves": ("build",), "technology": ("build",), "type": ("effect",),
    "speaker": ("speaker_size_in",), "speaker sensitivity": ("speaker_sensitivity_db",),
    "gewicht": ("weight_kg",), "masse": ("weight_kg",), "leistung": ("watts",), "belastbarkeit": ("watts",),
    "kanäle": ("channels",), "spulen": ("coils",), "widerstand": ("dc_resistance_kohm",),
    "gleichstromwiderstand": ("dc_resistance_kohm",), "induktivität": ("inductance_h",),
    "kapazität": ("capacitance_pf",), "ausgangsspannung": ("output_mv",), "ausgangsklasse": ("output_class",),
    "saitenabstand": ("string_spacing_mm",), "tonabnehmer": ("pickups",), "mensur": ("scale_mm",),
    "saitenzahl": ("string_count",), "anzahl saiten": ("string_count",), "saiten": ("strings",), "korpus": ("body",),
    "effekt": ("effect",), "art des effekts": ("effect",), "stromaufnahme": ("draw_ma",),
    "stromverbrauch": ("draw_ma",), "spannung": ("voltage_v",), "polung": ("polarity",), "polarität": ("polarity",),
    "eingangsimpedanz": ("input_kohm",), "eingangswiderstand": ("input_kohm",), "breite": ("width_mm",),
    "einschleifweg": ("effects_loop",), "effektschleife": ("effects_loop",), "bauart": ("build", "cabinet"),
    "lautsprecher": ("speaker_count",), "lautsprechergröße": ("speaker_size_in", "size_in"),
    "größe": ("size_in", "speaker_size_in"), "wirkungsgrad": ("sensitivity_db", "speaker_sensitivity_db"),
    "empfindlichkeit": ("sensitivity_db", "speaker_sensitivity_db"), "impedanz": ("impedance_ohm", "speaker_load_ohm"),
    "länge": ("length_m",), "kabellänge": ("length_m",), "stärke": ("gauge",), "saitenstärke": ("gauge",),
    "wicklung": ("winding",), "ausgänge": ("outputs",), "richtcharakteristik": ("pattern",),
}  # fmt: skip
OTHER_CHOICES: Mapping[str, str] = {
    "röhre": "valve", "tube": "valve", "transistor": "solid-state", "steg": "bridge", "mitte": "middle", "hals": "neck",
    "gering": "low", "mittel": "medium", "hoch": "hot", "verzerrer": "distortion", "kompressor": "compressor",
    "hall": "reverb", "echo": "delay", "minus innen": "centre negative", "plus innen": "centre positive",
    "niere": "cardioid", "kugel": "omni", "acht": "figure of eight", "offen": "open back", "geschlossen": "closed back",
}  # fmt: skip
