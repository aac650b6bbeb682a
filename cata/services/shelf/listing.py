"""The shelf as a list: found by words and filters, in an order, a page at a time."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass
from functools import lru_cache
from math import inf
from typing import Any, Literal

from sqlalchemy import or_
from sqlmodel import Session, col, select

from cata.core.gear import PriceKind
from cata.core.money import read_price
from cata.core.shelf.prices import PRICE_ORDER, current_price
from cata.errors import Invalid
from cata.services.shelf.gear import views_of
from cata.services.shelf.prices import prices_of
from cata.services.shelf.views import GearName, GearView
from cata.services.words import gear_with
from cata.services.workspace import Workspace
from cata.store.tables import Gear, Price, Probe

Sort = Literal["kind", "name", "price", "newest"]
SORTS: dict[Sort, str] = {"kind": "by kind", "name": "by name", "price": "by price", "newest": "newest first"}
Measured = Literal["", "yes", "no"]
WORDS = 8


@dataclass(frozen=True, kw_only=True)
class Wanted:
    """What is sought on the shelf.

    ``query``: words in the name, description, structure or specifications. ``price_kind``: which price counts (any
    where empty). ``currency``: with a price in it only. ``at_most``: a price up to an amount, as people write it.
    ``spec``: a field of the specification (or "structure") that is known; a number from ``spec_from`` to ``spec_to``,
    a text that holds ``spec_from``.
    """

    query: str = ""
    kind: str = ""
    price_kind: PriceKind | Literal[""] = ""
    currency: str = ""
    at_most: str = ""
    measured: Measured = ""
    spec: str = ""
    spec_from: str = ""
    spec_to: str = ""

    @property
    def price_kinds(self) -> tuple[PriceKind, ...]:
        """The kinds of price that count, the first that is known."""
        return (self.price_kind,) if self.price_kind else PRICE_ORDER

    @property
    def by_price(self) -> bool:
        """True where an item's price decides whether it is shown."""
        return bool(self.price_kind or self.currency or self.at_most)


EVERYTHING = Wanted()


def list_gear(
    ws: Workspace, wanted: Wanted = EVERYTHING, *, sort: Sort = "kind", limit: int = 200, offset: int = 0
) -> tuple[list[GearView], int]:
    """A page of the items that are wanted, and how many there are. By price, each currency stands by itself."""
    with ws.reading() as session:
        items = _matching(session, wanted)
        priced = _priced(session, items) if wanted.by_price or sort == "price" else {}
        if priced or wanted.by_price:
            counts = {ident: current_price(prices, wanted.price_kinds) for ident, prices in priced.items()}
            if wanted.by_price:
                items = [item for item in items if _affordable(counts.get(item.id or 0), wanted)]
            if sort == "price":
                items = _cheapest_first(items, counts)
        if sort != "price":
            items.sort(key=_order(sort))
        return views_of(session, items[offset : offset + limit]), len(items)


def _order(sort: Sort) -> Any:
    orders: dict[Sort, Any] = {
        "name": lambda item: (item.name, item.id),
        "newest": lambda item: -(item.id or 0),
    }
    return orders.get(sort, lambda item: (item.kind, item.name, item.id))


def _matching(session: Session, wanted: Wanted) -> list[Gear]:
    statement: Any = select(Gear)
    if wanted.kind:
        statement = statement.where(Gear.kind == wanted.kind)
    for word in wanted.query.split()[:WORDS]:
        pattern = f"%{word}%"
        places = (col(Gear.name), col(Gear.about), col(Gear.structure))
        # Beginnings of words in specifications, and letters that SQLite does not fold, come from the index.
        indexed = col(Gear.id).in_(gear_with(session, word))
        statement = statement.where(or_(indexed, *(place.ilike(pattern) for place in places)))
    if wanted.measured:
        probed = select(Probe.gear_id).where(col(Probe.gear_id).is_not(None)).distinct()
        inside = col(Gear.id).in_(probed)
        statement = statement.where(inside if wanted.measured == "yes" else ~inside)
    found = session.exec(statement).all()
    return [item for item in found if _specified(item, wanted)] if wanted.spec else list(found)


def _specified(item: Gear, wanted: Wanted) -> bool:
    value = item.structure if wanted.spec == "structure" else item.specs.get(wanted.spec)
    if value is None or value == "":
        return False
    if isinstance(value, bool):
        return wanted.spec_from.strip().casefold() in ("", "yes" if value else "no")
    if isinstance(value, int | float):
        return _end(wanted.spec_from, -inf) <= value <= _end(wanted.spec_to, inf)
    return wanted.spec_from.strip().casefold() in str(value).casefold()


def _end(text: str, otherwise: float) -> float:
    """An end of a range as people write it; Invalid where it is no number."""
    if not text.strip():
        return otherwise
    try:
        return float(text.strip().replace(",", "."))
    except ValueError as error:
        raise Invalid(f"“{text.strip()}” is no number", "no_number") from error


def _priced(session: Session, items: list[Gear]) -> dict[int, list[Price]]:
    return prices_of(session, [item.id or 0 for item in items])


def _affordable(price: Price | None, wanted: Wanted) -> bool:
    if price is None or (wanted.currency and price.currency != wanted.currency):
        return False
    if not wanted.at_most:
        return True
    most, currency = _amount(wanted.at_most, wanted.currency or price.currency)
    return price.currency == currency and price.price_minor <= most


@lru_cache(maxsize=64)
def _amount(text: str, currency: str) -> tuple[int, str]:
    return read_price(text, currency)


def _cheapest_first(items: list[Gear], counts: dict[int, Price | None]) -> list[Gear]:
    """Amounts of two currencies cannot be compared: the more usual one first, what has no price last."""
    usual = Counter(price.currency for price in counts.values() if price is not None)

    def place(item: Gear) -> tuple[bool, int, str, int, str, int]:
        price = counts.get(item.id or 0)
        if price is None:
            return True, 0, "", 0, item.name, item.id or 0
        return False, -usual[price.currency], price.currency, price.price_minor, item.name, item.id or 0

    return sorted(items, key=place)


def names(ws: Workspace, kind: str = "") -> list[GearName]:
    """All items by name, for choosing one."""
    with ws.reading() as session:
        statement: Any = select(Gear.id, Gear.kind, Gear.name).order_by(Gear.kind, Gear.name)
        if kind:
            statement = statement.where(Gear.kind == kind)
        return [GearName(id=ident, kind=of, name=name) for ident, of, name in session.exec(statement).all()]
