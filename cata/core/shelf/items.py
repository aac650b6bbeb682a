"""Rows and items: what each column of a table means, what is wrong with it, and nothing lost on the way."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, get_args

from cata.core.dates import read_day
from cata.core.gear import Control, GearKind, PriceKind
from cata.core.money import exponent, read_price
from cata.core.shelf.controls import read_controls
from cata.core.shelf.headings import OF_SPEC, SPEC, TARGETS, check_mapping, not_understood, read_kind
from cata.core.shelf.table import Table
from cata.core.spec_fields import FIELDS
from cata.core.specs import Value, read_specs
from cata.errors import Invalid
from cata.said import Said, said

PRICE_KINDS: tuple[PriceKind, ...] = get_args(PriceKind)
MAX_NAME = 120


@dataclass(frozen=True)
class Offer:
    """A price of an item: what kind, minor units, currency, ISO date and where it was seen.

    ``on_date`` is "" where nobody knows it, None where the file says nothing of it.
    """

    kind: PriceKind
    price_minor: int
    currency: str
    on_date: str | None = None
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


def read_items(table: Table, mapping: Sequence[str], *, kind: GearKind | None, currency: str) -> Reading:
    """The items of a table; ``kind`` and ``currency`` hold where a row does not say.

    A row without a usable name or kind is left out and said so; any other doubt keeps the row.
    """
    check_mapping(mapping, table.headers)
    items: list[tuple[int, Item]] = []
    problems = [Problem(1, heading, why) for heading, why in not_understood(table.headers, mapping)]
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
    cells = {target: cell for target, cell in zip(mapping, row, strict=True) if target in TARGETS}
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
        header if target == SPEC else target.removeprefix(OF_SPEC): cell
        for header, cell, target in zip(headers, row, mapping, strict=True)
        if target.startswith(SPEC) and cell
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
    for price_kind in PRICE_KINDS:
        column = f"price {price_kind}"
        if not cells.get(column):
            continue
        try:
            exponent(given)
            minor, code = read_price(cells[column], given)
        except Invalid as error:
            problems.append(Problem(number, column, error.said.then("; the price is left out"), lost=True))
            continue
        source = cells.get(f"{column} source") or cells.get("price source", "")
        found.append(Offer(price_kind, minor, code, _day(number, price_kind, cells, problems), source[:200]))
    return tuple(found)


def _day(number: int, price_kind: PriceKind, cells: Mapping[str, str], problems: list[Problem]) -> str | None:
    """The ISO date of a price: its own column's, else the row's; "" if it cannot be read, None if none is given."""
    for column in (f"price {price_kind} date", "price date"):
        if not cells.get(column):
            continue
        try:
            return read_day(cells[column])
        except Invalid as error:
            one = Problem(number, column, error.said.then("; the price has no date"))
            if one not in problems:
                problems.append(one)
            return ""
    return None


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
                "on_date": o.on_date or "",
                "source": o.source,
            }
            for o in item.offers
        ],
    }
