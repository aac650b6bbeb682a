"""Specifications: what is known of an item by its kind, each with a type, a unit and bounds.

One table for the form, the check, the CSV columns and the arithmetic that needs them. What a person wrote is read
leniently ("8.2k", "8,200 ohm", "8.2 kΩ"); what does not fit a field is kept as text under its own label, never lost.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from functools import cache

from cata.core.gear import GearKind
from cata.core.spec_fields import FIELDS, OTHER_CHOICES, OTHER_NAMES, Field
from cata.errors import Invalid
from cata.said import Said

Value = float | bool | str

PREFIXES = {"p": 1e-12, "n": 1e-9, "u": 1e-6, "µ": 1e-6, "μ": 1e-6, "m": 1e-3, "": 1.0, "k": 1e3, "K": 1e3, "M": 1e6}
SAME_UNIT = {"ohm": "Ω", "ohms": "Ω", "Ω": "Ω", "watt": "W", "watts": "W", "volt": "V", "volts": "V", "inch": "in",
             "inches": "in", "zoll": "in", '"': "in", "″": "in", "metre": "m", "metres": "m", "lb": "lb", "lbs": "lb",
             "dba": "dB", "db": "dB"}  # fmt: skip
KG_PER_LB = 0.45359237
YES, NO = ("yes", "true", "1", "y", "x", "ja", "j"), ("no", "false", "0", "n", "", "nein")
NUMBER = re.compile(r"([-+]?\d[\d\s ',.]*)\s*(.*)", re.DOTALL)


def fields_of(kind: GearKind) -> tuple[Field, ...]:
    """The fields of a kind, the important ones first."""
    return FIELDS[kind]


def _plain(text: str) -> str:
    return re.sub(r"[\W_]+", " ", text.casefold()).strip()


def field_named(kind: GearKind, label: str) -> Field | None:
    """The field that a label, key or common other word stands for; None where there is none."""
    # Most are asked for by their own key, for a whole shelf at once.
    names = _names(kind)
    return names.get(label) or names.get(_plain(_bare(label)))


@cache
def _names(kind: GearKind) -> Mapping[str, Field]:
    """The fields of a kind by everything that they are called; where two claim one name, the first has it."""
    found: dict[str, Field] = {}
    for field in FIELDS[kind]:
        for name in (field.key, _plain(field.key), _plain(field.name), _plain(_bare(field.name))):
            found.setdefault(name, field)
    by_key = {field.key: field for field in FIELDS[kind]}
    for name, keys in OTHER_NAMES.items():
        if (meant := next((by_key[key] for key in keys if key in by_key), None)) is not None:
            found.setdefault(_plain(name), meant)
    return found


def _bare(text: str) -> str:
    """Without what stands in brackets."""
    return re.sub(r"\([^)]*\)", "", text)


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
        meant = OTHER_CHOICES.get(_plain(text), text)
        for choice in field.choices:
            if _plain(choice) == _plain(meant):
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


def show_value(field: Field, value: Value, digits: int = 6) -> str:
    """A value with its unit, as a person reads it; with all its ``digits`` (16) for a file."""
    if field.type == "flag":
        return "yes" if value else "no"
    number = isinstance(value, (int, float)) and not isinstance(value, bool)
    return f"{value:.{digits}g} {field.unit}".strip() if number else str(value)


def shown(kind: GearKind, specs: Mapping[str, Value]) -> list[tuple[str, str]]:
    """Label and text of every specification: fields in their order, then what was kept as text."""
    known = {field.key: field for field in FIELDS[kind]}
    rows = [(field.name, show_value(field, specs[key])) for key, field in known.items() if key in specs]
    return rows + [(label, str(value)) for label, value in specs.items() if label not in known]
