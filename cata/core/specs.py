"""Specifications: what is known of an item by its kind, each with a type, a unit and bounds.

One table for the form, the check, the CSV columns and the arithmetic that needs them. What a person wrote is read
leniently ("8.2k", "8,200 ohm", "8.2 kΩ"); what does not fit a field is kept as text under its own label, never lost.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from cata.core.gear import GearKind
from cata.errors import Invalid
from cata.said import Said

SpecType = Literal["number", "whole", "choice", "flag", "text"]
Value = float | bool | str

PREFIXES = {"p": 1e-12, "n": 1e-9, "u": 1e-6, "µ": 1e-6, "μ": 1e-6, "m": 1e-3, "": 1.0, "k": 1e3, "K": 1e3, "M": 1e6}
SAME_UNIT = {"ohm": "Ω", "ohms": "Ω", "Ω": "Ω", "watt": "W", "watts": "W", "volt": "V", "volts": "V", "inch": "in",
             "inches": "in", '"': "in", "″": "in", "metre": "m", "metres": "m", "lb": "lb", "lbs": "lb",
             "dba": "dB", "db": "dB"}  # fmt: skip
KG_PER_LB = 0.45359237
YES, NO = ("yes", "true", "1", "y", "x"), ("no", "false", "0", "n", "")
NUMBER = re.compile(r"([-+]?\d[\d\s ',.]*)\s*(.*)", re.DOTALL)


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


WEIGHT = _number("weight_kg", "Weight", "kg", 0, 200)
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
        WEIGHT,
    ),
    "pedal": (
        _choice("effect", "What it does", "drive", "distortion", "fuzz", "boost", "compressor", "equaliser",
                "tremolo", "delay", "reverb", "modulation", "wah", "volume", "other"),
        *SUPPLY,
        _choice("bypass", "Bypass", "true bypass", "buffered", "switchable"),
        _text("topology", "Topology"),
        _number("input_kohm", "Input impedance", "kΩ", 0, 20000),
        _number("width_mm", "Width", "mm", 0, 1000),
        WEIGHT,
    ),
    "amplifier": (
        _number("watts", "Power", "W", 0, 2000),
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
        WEIGHT,
    ),
    "speaker": (
        _number("impedance_ohm", "Impedance", "Ω", 0, 32),
        _number("sensitivity_db", "Sensitivity (1 W, 1 m)", "dB", 60, 115),
        _number("size_in", "Size", "in", 0, 18),
        _number("watts", "Power handling", "W", 0, 2000),
        _whole("speaker_count", "Speakers", 1, 16),
        _choice("cabinet", "Cabinet", "open back", "closed back", "bare speaker"),
        WEIGHT,
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
        WEIGHT,
    ),
    "strings": (
        _text("gauge", "Gauge"),
        _whole("string_count", "Number of strings", 4, 12),
        _choice("material", "Material", "nickel-plated steel", "pure nickel", "steel", "bronze", "nylon"),
        _choice("winding", "Winding", "round", "half-round", "flat"),
        _flag("coated", "Coated"),
    ),
    "cable": (
        _number("length_m", "Length", "m", 0, 100),
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
        WEIGHT,
    ),
    "accessory": (WEIGHT,),
}  # fmt: skip
# Words people write for a field besides its name.
OTHER_NAMES = {
    "resistance": "dc_resistance_kohm", "dcr": "dc_resistance_kohm", "current draw": "draw_ma", "current": "draw_ma",
    "power": "watts", "wattage": "watts", "ohms": "impedance_ohm", "impedance": "impedance_ohm", "mass": "weight_kg",
    "loop": "effects_loop", "fx loop": "effects_loop", "load": "speaker_load_ohm", "valves": "build",
    "technology": "build", "type": "effect", "speaker": "speaker_size_in",
    "speaker sensitivity": "speaker_sensitivity_db",
}  # fmt: skip


def fields_of(kind: GearKind) -> tuple[Field, ...]:
    """The fields of a kind, the important ones first."""
    return FIELDS[kind]


def _plain(text: str) -> str:
    return re.sub(r"[\W_]+", " ", text.casefold()).strip()


def field_named(kind: GearKind, label: str) -> Field | None:
    """The field that a label, key or common other word stands for; None where there is none."""
    wanted = _plain(re.sub(r"\([^)]*\)", "", label))
    by_key = {field.key: field for field in FIELDS[kind]}
    for field in FIELDS[kind]:
        if wanted in (_plain(field.key), _plain(field.name), _plain(re.sub(r"\([^)]*\)", "", field.name))):
            return field
    return by_key.get(OTHER_NAMES.get(wanted, ""))


def read_number(text: str) -> float:
    """A number as people write it: decimal point or comma, thousands in groups. Invalid where it is none."""
    compact = re.sub(r"[\s  ']", "", text)
    if re.fullmatch(r"[-+]?\d{1,3}(,\d{3})+(\.\d+)?", compact):
        compact = compact.replace(",", "")
    elif re.fullmatch(r"[-+]?\d{1,3}(\.\d{3})+,\d+", compact) or re.fullmatch(r"[-+]?\d{1,3}(\.\d{3}){2,}", compact):
        compact = compact.replace(".", "").replace(",", ".")
    else:
        compact = compact.replace(",", ".")
    if not re.fullmatch(r"[-+]?\d+(\.\d+)?", compact):
        raise Invalid(f"{text!r} is not a number", "no_number")
    return float(compact)


def _scaled(field: Field, text: str) -> float:
    match = NUMBER.fullmatch(text.strip())
    if match is None:
        wanted = f"a number in {field.unit}" if field.unit else "a number"
        raise Invalid(f"{field.name}: write {wanted}; got {text!r}", "no_number")
    number, unit = read_number(match[1]), re.sub(r"\s", "", match[2])
    if unit and not field.unit:
        raise Invalid(f"{field.name} is a plain number; got {text!r}", "no_unit")
    if not unit:
        return number
    base = field.unit.split("/")[0]
    known = SAME_UNIT.get(unit.casefold(), unit).split("/")[0]
    if base == "kg" and known == "lb":
        return number * KG_PER_LB
    own_prefix, own_root = _split(base)
    prefix, root = _split(SAME_UNIT.get(known.casefold(), known))
    if root == "" and prefix and own_root:
        root = own_root
    if root != own_root:
        raise Invalid(f"{field.name} is in {field.unit}; got {text!r}", "other_unit")
    return number * PREFIXES[prefix] / PREFIXES[own_prefix]


def _split(unit: str) -> tuple[str, str]:
    """An SI prefix and the unit it stands before."""
    roots = ("Ω", "H", "F", "A", "V", "W", "g", "m", "dB", "in", "lb")
    if unit in roots:
        return "", unit
    if unit in PREFIXES:
        return unit, ""
    head, tail = unit[:1], unit[1:]
    tail = SAME_UNIT.get(tail.casefold(), tail)
    return (head, tail) if head in PREFIXES and tail in roots else ("", unit)


def read_value(field: Field, value: object) -> Value:
    """A value for a field, from text or plain data. Raises Invalid with what the field accepts."""
    if field.type in ("number", "whole"):
        number = float(value) if isinstance(value, (int, float)) else _scaled(field, str(value))
        if not field.low <= number <= field.high:
            span = f"{field.low:g} and {field.high:g} {field.unit}".strip()
            raise Invalid(f"{field.name} lies between {span}; got {value}", "out_of_range")
        if field.type == "whole" and number != int(number):
            raise Invalid(f"{field.name} is a whole number; got {value}", "no_whole_number")
        return round(number, 6)
    text = str(value).strip()
    if field.type == "flag":
        if isinstance(value, bool) or text.casefold() in (*YES, *NO):
            return value if isinstance(value, bool) else text.casefold() in YES
        raise Invalid(f"{field.name}: write yes or no; got {text!r}", "no_flag")
    if field.type == "choice":
        for choice in field.choices:
            if _plain(choice) == _plain(text):
                return choice
        raise Invalid(f"{field.name}: one of {', '.join(field.choices)}; got {text!r}", "no_choice")
    return text[:200]


def read_specs(kind: GearKind, given: Mapping[str, object]) -> tuple[dict[str, Value], dict[str, Said]]:
    """Specifications under their fields' keys, and what is wrong with those that do not fit, by label.

    What has no field, or does not fit its field, is kept as text under the label it came with.
    """
    specs: dict[str, Value] = {}
    problems: dict[str, Said] = {}
    for label, value in given.items():
        if value is None or str(value).strip() == "":
            continue
        field = field_named(kind, label)
        if field is None:
            specs[label[:60]] = value if isinstance(value, bool) else str(value)[:200]
            continue
        try:
            specs[field.key] = read_value(field, value)
        except Invalid as error:
            problems[label] = error.said
            specs.setdefault(field.name if field.key in given or label == field.key else label[:60], str(value)[:200])
    return specs, problems


def show_value(field: Field, value: Value) -> str:
    """A value with its unit, as a person reads it."""
    if field.type == "flag":
        return "yes" if value else "no"
    number = isinstance(value, (int, float)) and not isinstance(value, bool)
    return f"{value:g} {field.unit}".strip() if number else str(value)


def shown(kind: GearKind, specs: Mapping[str, Value]) -> list[tuple[str, str]]:
    """Label and text of every specification: fields in their order, then what was kept as text."""
    known = {field.key: field for field in FIELDS[kind]}
    rows = [(field.name, show_value(field, specs[key])) for key, field in known.items() if key in specs]
    return rows + [(label, str(value)) for label, value in specs.items() if label not in known]
