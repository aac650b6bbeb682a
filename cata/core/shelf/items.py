"""Rows and items: what each column of a table means, what is wrong with it, and nothing lost on the way."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, get_args

from cata.core.gear import Control, GearKind, PriceKind
from cata.core.money import exponent, read_price
from cata.core.shelf.controls import read_controls
from cata.core.shelf.table import Table
from cata.core.specs import FIELDS, Value, read_specs
from cata.errors import Invalid
from cata.said import Said, said

KINDS: tuple[GearKind, ...] = get_args(GearKind)
KIND_WORDS: Mapping[str, GearKind] = {
    "amp": "amplifier", "combo": "amplifier", "head": "amplifier", "effect": "pedal", "stompbox": "pedal",
    "cab": "speaker", "cabinet": "speaker", "mic": "microphone", "di": "direct box", "di box": "direct box",
    "speaker simulation": "direct box", "psu": "power supply", "supply": "power supply", "lead": "cable",
    "string": "strings", "humbucker": "pickup", "single coil": "pickup",
}  # fmt: skip
TARGETS: Mapping[str, tuple[str, ...]] = {
    "kind": ("kind", "type", "category", "art", "class"),
    "name": ("name", "item", "title", "model", "product", "description short", "bezeichnung"),
    "about": ("about", "description", "notes", "note", "comment", "remarks", "details"),
    "structure": ("structure", "circuit", "how it works"),
    "controls": ("controls", "knobs", "settings"),
    "price new": ("price new", "new price", "price", "new", "retail", "list price", "rrp", "preis"),
    "price used": ("price used", "used price", "used", "second hand"),
    "price offer": ("price offer", "offer", "my offer", "own offer", "sale price", "special"),
    "currency": ("currency", "iso currency", "währung"),
    "price date": ("price date", "date", "on date", "as of"),
    "price source": ("price source", "source", "shop", "seller", "dealer"),
}
LEAVE = "leave out"
SPEC = "specification"
DATE = re.compile(r"\d{4}-\d{2}-\d{2}")
MAX_NAME = 120


@dataclass(frozen=True)
class Offer:
    """A price of an item: what kind, minor units, currency, ISO date (may be empty) and where it was seen."""

    kind: PriceKind
    price_minor: int
    currency: str
    on_date: str = ""
    source: str = ""


@dataclass(frozen=True)
class Item:
    """An item as a file describes it; a field that the file has no column for is None."""

    kind: GearKind
    name: str
    about: str | None = None
    structure: str | None = None
    controls: tuple[Control, ...] | None = None
    specs: Mapping[str, Value] = field(default_factory=dict)
    offers: tuple[Offer, ...] = ()

    @property
    def identity(self) -> tuple[str, str]:
        """By what a later file finds the same item again."""
        return self.kind, " ".join(self.name.casefold().split())


@dataclass(frozen=True)
class Problem:
    """What is wrong in a row (numbered as the spreadsheet shows it, headings are row 1); ``lost`` if it is left out."""

    row: int
    column: str
    said: Said
    lost: bool = False

    @property
    def text(self) -> str:
        """The same in words."""
        return self.said.words


@dataclass(frozen=True)
class Reading:
    """What a file says: the items with their row numbers, and the problems in order."""

    items: tuple[tuple[int, Item], ...]
    problems: tuple[Problem, ...]


def propose_mapping(headers: Sequence[str]) -> list[str]:
    """The target of each column: one of TARGETS, or "specification" (kept under its own heading)."""
    taken: set[str] = set()
    mapping = []
    for header in headers:
        plain = re.sub(r"[\W_]+", " ", header.casefold()).strip()
        target = next((t for t, words in TARGETS.items() if plain in words and t not in taken), None)
        if target is None:
            target = SPEC if plain else LEAVE
        else:
            taken.add(target)
        mapping.append(target)
    return mapping


def check_mapping(mapping: Sequence[str], headers: Sequence[str]) -> None:
    """Raise Invalid where a mapping does not fit the table."""
    if len(mapping) != len(headers):
        raise Invalid(f"the table has {len(headers)} columns but {len(mapping)} are mapped", "bad_mapping")
    for target in mapping:
        if target not in (*TARGETS, SPEC, LEAVE):
            raise Invalid(
                f"{target!r} is not a place for a column; use one of {', '.join((*TARGETS, SPEC, LEAVE))}",
                "bad_mapping",
            )
        if target not in (SPEC, LEAVE) and list(mapping).count(target) > 1:
            raise Invalid(f"two columns are both mapped to {target!r}", "bad_mapping")
    if "name" not in mapping:
        raise Invalid("one column must be the name", "no_name")


def read_kind(text: str) -> GearKind:
    """The kind a word stands for. Invalid where it is none."""
    plain = re.sub(r"[\W_]+", " ", text.casefold()).strip()
    for kind in KINDS:
        if plain in (kind, f"{kind}s"):
            return kind
    for word, kind in KIND_WORDS.items():
        if plain in (word, f"{word}s"):
            return kind
    raise Invalid(f"{text!r} is no kind of gear; use one of {', '.join(KINDS)}", "no_kind")


def read_items(table: Table, mapping: Sequence[str], *, kind: GearKind | None, currency: str) -> Reading:
    """The items of a table; ``kind`` and ``currency`` hold where a row does not say.

    A row without a usable name or kind is left out and said so; any other doubt keeps the row.
    """
    check_mapping(mapping, table.headers)
    items: list[tuple[int, Item]] = []
    problems: list[Problem] = []
    seen: dict[tuple[str, str], int] = {}
    for number, row in enumerate(table.rows, start=2):
        item = _read_row(number, row, table.headers, mapping, kind, currency, problems)
        if item is None:
            continue
        if item.identity in seen:
            first = seen[item.identity]
            words = "the same item as row {row}: what it says is added to that one"
            problems.append(Problem(number, "name", said("same_item", words, row=first)))
        seen.setdefault(item.identity, number)
        items.append((number, item))
    return Reading(tuple(items), tuple(problems))


def _read_row(
    number: int,
    row: Sequence[str],
    headers: Sequence[str],
    mapping: Sequence[str],
    kind: GearKind | None,
    currency: str,
    problems: list[Problem],
) -> Item | None:
    cells = {target: cell for target, cell in zip(mapping, row, strict=True) if target not in (SPEC, LEAVE)}
    name = " ".join(cells.get("name", "").split())
    if not name:
        problems.append(Problem(number, "name", Said("no_name", "has no name: the row is left out"), lost=True))
        return None
    if len(name) > MAX_NAME:
        words = "the name has {letters} letters; the first {kept} are kept"
        problems.append(Problem(number, "name", said("long_name", words, letters=len(name), kept=MAX_NAME)))
    if cells.get("kind"):
        try:
            kind = read_kind(cells["kind"])
        except Invalid as error:
            problems.append(Problem(number, "kind", error.said.then(": the row is left out"), lost=True))
            return None
    if kind is None:
        problems.append(
            Problem(number, "kind", Said("no_kind", "says no kind of gear: the row is left out"), lost=True)
        )
        return None
    given = {
        header: cell for header, cell, target in zip(headers, row, mapping, strict=True) if target == SPEC and cell
    }
    specs, wrong = read_specs(kind, given)
    problems += [Problem(number, label, why.then("; kept as text")) for label, why in wrong.items()]
    return Item(
        kind=kind,
        name=name[:MAX_NAME],
        about=cells["about"][:4000] if "about" in cells else None,
        structure=cells["structure"][:400] if "structure" in cells else None,
        controls=_controls(number, cells, problems),
        specs=specs,
        offers=_offers(number, cells, currency, problems),
    )


def _controls(number: int, cells: Mapping[str, str], problems: list[Problem]) -> tuple[Control, ...] | None:
    if not cells.get("controls"):
        return None
    try:
        return read_controls(cells["controls"])
    except Invalid as error:
        problems.append(Problem(number, "controls", error.said.then("; the controls are left out"), lost=True))
        return None


def _offers(number: int, cells: Mapping[str, str], currency: str, problems: list[Problem]) -> tuple[Offer, ...]:
    found: list[Offer] = []
    given = cells.get("currency", "").strip().upper() or currency
    date = cells.get("price date", "").strip()
    if date and not DATE.fullmatch(date):
        words = "{date!r} is not a date such as 2026-03-31; today is used"
        problems.append(Problem(number, "price date", said("no_date", words, date=date)))
        date = ""
    kinds: tuple[PriceKind, ...] = ("new", "used", "offer")
    for price_kind in kinds:
        text = cells.get(f"price {price_kind}", "")
        if not text:
            continue
        try:
            exponent(given)
            minor, code = read_price(text, given)
        except Invalid as error:
            problems.append(
                Problem(number, f"price {price_kind}", error.said.then("; the price is left out"), lost=True)
            )
            continue
        found.append(Offer(price_kind, minor, code, date, cells.get("price source", "")[:200]))
    return tuple(found)


def spec_columns(kinds: Sequence[GearKind]) -> list[tuple[str, str]]:
    """(key, heading) of every field of some kinds, in order, each key once."""
    found: dict[str, str] = {}
    for kind in kinds:
        for one in FIELDS[kind]:
            found.setdefault(one.key, f"{one.name} ({one.unit})" if one.unit else one.name)
    return list(found.items())


def item_as_json(item: Item) -> dict[str, Any]:
    """An item as plain data for the JSON form of a shelf."""
    return {
        "kind": item.kind,
        "name": item.name,
        "about": item.about or "",
        "structure": item.structure or "",
        "controls": [control.model_dump(mode="json") for control in item.controls or ()],
        "specs": dict(item.specs),
        "prices": [
            {
                "kind": o.kind,
                "price_minor": o.price_minor,
                "currency": o.currency,
                "on_date": o.on_date,
                "source": o.source,
            }
            for o in item.offers
        ],
    }
