"""A shelf file in: what an import would do, and doing it."""

from __future__ import annotations

import json
from collections import defaultdict
from collections.abc import Sequence
from itertools import count
from typing import Any

from pydantic import BaseModel, Field, ValidationError
from sqlmodel import Session, col, select

from cata.core.gear import GearKind, PriceKind
from cata.core.money import exponent
from cata.core.shelf.headings import LEAVE, SPEC, TARGETS, propose_mapping, spec_targets
from cata.core.shelf.items import Item, Offer, Problem, Reading, read_items
from cata.core.shelf.prices import current_price
from cata.core.shelf.table import MAX_ROWS, OLD_ENCODINGS, Table, read_table, read_text
from cata.core.specs import read_specs
from cata.errors import CataError, Refused
from cata.said import Said
from cata.services.shelf.gear import GearIn
from cata.services.shelf.views import ColumnView, Fate, ProblemView, RowView, ShelfImport
from cata.services.workspace import Workspace
from cata.store.database import given_numbers
from cata.store.tables import Gear, Price

SHOWN_PROBLEMS, SHOWN_ROWS = 200, 50
MOST_PARTS = 100 * MAX_ROWS


class _JsonPrice(BaseModel):
    kind: PriceKind = "new"
    price_minor: int = Field(ge=0, le=10**12)
    currency: str = Field(pattern="^[A-Z]{3}$")
    on_date: str | None = Field(default=None, pattern=r"^(\d{4}-\d{2}-\d{2})?$")
    source: str = Field(default="", max_length=200)


class _JsonItem(GearIn):
    prices: list[_JsonPrice] = Field(default_factory=list, max_length=200)


class _Plan(BaseModel):
    """A file, read."""

    model_config = {"arbitrary_types_allowed": True}
    reading: Reading
    columns: list[ColumnView] = []
    encoding: str = "utf-8"
    separator: str = ""


def import_shelf(
    ws: Workspace,
    data: bytes,
    *,
    mapping: Sequence[str] | None = None,
    kind: GearKind | None = None,
    currency: str = "EUR",
    old_encoding: str = OLD_ENCODINGS[0],
    on_date: str = "",
    dry_run: bool = False,
) -> ShelfImport:
    """Put a CSV or JSON file onto the shelf: new items are added, known ones (same kind and name) brought up to date.

    ``on_date`` is the day of prices of which the file says none; today where it is empty. One action: it can be undone
    as a whole. Refused where the file as a whole cannot be used.
    """
    exponent(currency)
    plan = _read(data, mapping, kind, currency, old_encoding)
    now = ws.now()
    day = on_date or now[:10]
    if dry_run:
        with ws.reading() as session:
            fates = _fates(session, plan.reading, at=now, day=day)
        return _report(plan, fates, day, done=False)
    with ws.acting(f"Import {len(plan.reading.items)} rows of gear") as session:
        fates = _fates(session, plan.reading, at=now, day=day, write=True)
    return _report(plan, fates, day, done=True)


def _read(data: bytes, mapping: Sequence[str] | None, kind: GearKind | None, currency: str, old: str) -> _Plan:
    if data.lstrip(b"\xef\xbb\xbf \t\r\n")[:1] in (b"{", b"["):
        return _Plan(reading=_read_json(data))
    table = read_table(data, old)
    chosen = list(mapping) if mapping else propose_mapping(table.headers)
    return _Plan(
        reading=read_items(table, chosen, kind=kind, currency=currency),
        columns=[
            ColumnView(header=header, target=target, sample=_sample(table, index))
            for index, (header, target) in enumerate(zip(table.headers, chosen, strict=True))
        ],
        encoding=table.encoding,
        separator={"\t": "tab"}.get(table.separator, table.separator),
    )


def _sample(table: Table, index: int) -> str:
    return next((row[index][:80] for row in table.rows[:200] if row[index]), "")


def _read_json(data: bytes) -> Reading:
    if sum(data.count(one) for one in (b"{", b"[", b",")) > MOST_PARTS:
        # Read first and counted then, millions of empty items or keys would take a gigabyte.
        raise Refused(f"the file has far more than {MAX_ROWS:,} items: split it", "too_many")
    text, _ = read_text(data)
    try:
        document = json.loads(text)
    except (ValueError, RecursionError) as error:  # a number of thousands of digits is a ValueError, too
        raise Refused(f"the file begins like JSON but is damaged: {error}", "damaged") from error
    rows = document.get("items") if isinstance(document, dict) else document
    if not isinstance(rows, list):
        raise Refused('the file is JSON but no shelf: it needs a list, or {"items": [...]}', "no_shelf")
    if len(rows) > MAX_ROWS:
        raise Refused(f"the file has {len(rows):,} items; at most {MAX_ROWS:,} are read at once: split it", "too_many")
    items, problems = [], []
    for number, row in enumerate(rows, start=1):
        try:
            items.append((number, _json_item(_JsonItem.model_validate(row))))
        except (ValidationError, CataError) as error:
            where, why = "", error.said if isinstance(error, CataError) else Said("invalid", "")
            if isinstance(error, ValidationError):
                first = error.errors()[0]
                where, why = ".".join(str(part) for part in first["loc"]), Said(first["type"], first["msg"])
            problems.append(Problem(number, where, why.then(": the item is left out"), lost=True))
    return Reading(tuple(items), tuple(problems))


def _json_item(row: _JsonItem) -> Item:
    specs, _ = read_specs(row.kind, row.specs)
    for price in row.prices:
        exponent(price.currency)
    return Item(
        kind=row.kind,
        name=" ".join(row.name.split()),
        about=row.about,
        structure=row.structure,
        controls=tuple(row.controls),
        specs=specs,
        offers=tuple(Offer(p.kind, p.price_minor, p.currency, p.on_date, p.source) for p in row.prices),
    )


def _fates(
    session: Session, reading: Reading, *, at: str, day: str, write: bool = False
) -> list[tuple[int, Item, Fate, str]]:
    """What becomes of each item, and how many; written where asked for."""
    known = {_identity(gear): gear for gear in session.exec(select(Gear).order_by(col(Gear.id).desc())).all()}
    prices: dict[int, list[Price]] = defaultdict(list)
    if known:
        for price in session.exec(select(Price).order_by(col(Price.id).desc())).all():
            prices[price.gear_id].append(price)
    fates: list[tuple[int, Item, Fate, str]] = []
    # Numbers are given here: asked for one by one, they would take most of the time in which others wait.
    numbers = count(given_numbers(session).get("gear", 0) + 1)
    for number, item in reading.items:
        gear = known.get(item.identity)
        fresh = gear is None
        if gear is None:
            gear = Gear(id=next(numbers) if write else None, kind=item.kind, name=item.name, created_at=at)
            known[item.identity] = gear
        changed = _changes(gear, item)
        offers = [offer for offer in item.offers if not _known_price(offer, prices[gear.id or id(gear)])]
        words = list(changed) + ["price"] * bool(offers)
        if write:
            for key, value in changed.items():
                setattr(gear, key, value)
            session.add(gear)
        for offer in offers:
            row = _row_for(offer, gear, prices[gear.id or id(gear)], day)
            if write:
                session.add(row)
        fate: Fate = "new" if fresh else "changed" if words else "same"
        fates.append((number, item, fate, "" if fresh else ", ".join(words)))
    return fates


def _row_for(offer: Offer, gear: Gear, prices: list[Price], day: str) -> Price:
    """The row that keeps a price: a new one, or that of the same day and source where the file says no day."""
    if offer.on_date is None:
        for row in prices:
            if (row.kind, row.source, row.on_date) == (offer.kind, offer.source, day):
                row.price_minor, row.currency = offer.price_minor, offer.currency
                return row
    row = Price(gear_id=gear.id or 0, **{**offer.__dict__, "on_date": day if offer.on_date is None else offer.on_date})
    prices.insert(0, row)
    return row


def _identity(gear: Gear) -> tuple[str, str]:
    return gear.kind, " ".join(gear.name.casefold().split())


def _changes(gear: Gear, item: Item) -> dict[str, Any]:
    """What an item says that its row does not; a field without a column, or an empty cell, changes nothing."""
    wanted: dict[str, Any] = {
        "about": item.about or gear.about,
        "structure": item.structure or gear.structure,
        "specs": {**read_specs(item.kind, gear.specs)[0], **item.specs},
    }
    if item.controls:
        wanted["controls"] = [control.model_dump(mode="json") for control in item.controls]
    before = {"about": gear.about, "structure": gear.structure, "controls": gear.controls,
              "specs": read_specs(item.kind, gear.specs)[0]}  # fmt: skip
    return {key: value for key, value in wanted.items() if before[key] != value}


def _known_price(offer: Offer, prices: list[Price]) -> bool:
    """True where this price is kept already; of a price without a day, where the one that counts says the same."""
    same = [p for p in prices if p.kind == offer.kind and (not offer.source or p.source == offer.source)]
    if offer.on_date is None:
        counts = current_price(same)
        same = [counts] if counts is not None else []
    else:
        same = [p for p in same if p.on_date == offer.on_date]
    return any((p.price_minor, p.currency) == (offer.price_minor, offer.currency) for p in same)


def _report(plan: _Plan, fates: list[tuple[int, Item, Fate, str]], day: str, *, done: bool) -> ShelfImport:
    words = [fate for _, _, fate, _ in fates]
    problems = plan.reading.problems
    kept = {number for number, _, _, _ in fates}
    return ShelfImport(
        done=done,
        encoding=plan.encoding,
        separator=plan.separator,
        columns=plan.columns,
        targets=[*TARGETS, SPEC, *spec_targets(), LEAVE],
        old_encodings=list(OLD_ENCODINGS),
        new=words.count("new"),
        changed=words.count("changed"),
        same=words.count("same"),
        undated=sum(offer.on_date is None for _, item, _, _ in fates for offer in item.offers),
        undated_day=day,
        left_out=len({p.row for p in problems if p.lost and p.row not in kept}),
        rows=[RowView(row=n, kind=i.kind, name=i.name, fate=f, text=t) for n, i, f, t in fates[:SHOWN_ROWS]],
        problems=[ProblemView.model_validate(problem) for problem in problems[:SHOWN_PROBLEMS]],
        more_problems=max(0, len(problems) - SHOWN_PROBLEMS),
    )
