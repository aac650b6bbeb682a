"""Prices: what an item costs, new, used or offered, with date and source."""

from __future__ import annotations

from collections.abc import Iterable

from pydantic import BaseModel, Field
from sqlmodel import Session, col, select

from cata.core.gear import PriceKind
from cata.core.money import exponent, read_price, show_price
from cata.core.rates import convert
from cata.errors import Invalid
from cata.services.shelf.rates import rates_of
from cata.services.shelf.views import PriceView
from cata.services.workspace import Workspace, require
from cata.store.tables import Gear, Price


class PriceIn(BaseModel):
    """A price: as people write it in ``text``, or in minor units (cents) of an ISO 4217 currency."""

    kind: PriceKind = "new"
    price_minor: int | None = Field(default=None, ge=0, le=10**12)
    text: str = Field(default="", max_length=60)
    currency: str = Field(default="EUR", pattern="^[A-Z]{3}$")
    on_date: str = Field(default="", pattern=r"^(\d{4}-\d{2}-\d{2})?$")
    source: str = Field(default="", max_length=200)


def price_view(price: Price) -> PriceView:
    """A price with its text."""
    return PriceView(
        id=price.id or 0,
        kind=price.kind,
        price_minor=price.price_minor,
        currency=price.currency,
        text=show_price(price.price_minor, price.currency),
        on_date=price.on_date,
        source=price.source,
    )


def prices_of(session: Session, items: Iterable[int]) -> dict[int, list[Price]]:
    """All prices of some items, newest by their date first, in one query."""
    found: dict[int, list[Price]] = {ident: [] for ident in items}
    newest_first = (col(Price.on_date).desc(), col(Price.price_minor), col(Price.id).desc())
    statement = select(Price).where(col(Price.gear_id).in_(found)).order_by(*newest_first)
    for price in session.exec(statement).all():
        found[price.gear_id].append(price)
    return found


class AmountView(BaseModel):
    """An amount that was typed, as it was read."""

    price_minor: int
    currency: str
    text: str


def read_amount(ws: Workspace, text: str, currency: str) -> AmountView:
    """What somebody typed into a field that holds this currency. Invalid where it is no amount, or of another one."""
    minor, written = read_price(text, currency)
    if written != currency:
        with ws.reading() as session:
            there = convert(minor, written, currency, rates_of(session))
        hint = f"about {show_price(there.price_minor, currency)}" if there is not None else f"write it in {currency}"
        raise Invalid(f"{show_price(minor, written)} is not in {currency}: {hint}", "other_currency")
    return AmountView(price_minor=minor, currency=currency, text=show_price(minor, currency))


def _amount(data: PriceIn) -> tuple[int, str]:
    if data.text.strip():
        return read_price(data.text, data.currency)
    if data.price_minor is None:
        raise Invalid("a price needs an amount", "no_price")
    exponent(data.currency)
    return data.price_minor, data.currency


def add_price(ws: Workspace, gear_id: int, data: PriceIn) -> int:
    """Note a price; older ones stay as its history, that of one day, kind and source is corrected. The item's id."""
    with ws.acting("Add a price") as session:
        require(session, Gear, gear_id, "item of gear")
        minor, currency = _amount(data)
        day = data.on_date or ws.now()[:10]
        same = select(Price).where(
            Price.gear_id == gear_id, Price.kind == data.kind, Price.on_date == day, Price.source == data.source
        )
        row = session.exec(same).first() or Price(
            gear_id=gear_id, kind=data.kind, price_minor=minor, on_date=day, source=data.source
        )
        row.price_minor, row.currency = minor, currency
        session.add(row)
    return gear_id


def remove_price(ws: Workspace, price_id: int) -> int:
    """Remove a price. Its item's id."""
    with ws.acting("Remove a price") as session:
        price = require(session, Price, price_id)
        gear_id = price.gear_id
        session.delete(price)
    return gear_id
