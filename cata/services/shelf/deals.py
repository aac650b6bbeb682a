"""Deals: what somebody sells together for less than its parts."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from typing import Annotated

from pydantic import BaseModel, Field
from sqlmodel import Session, col, select

from cata.core.money import exponent, read_price, show_price
from cata.core.rates import Rate, convert
from cata.core.rig.parts import Bundle
from cata.errors import Invalid
from cata.services.shelf.views import DealView
from cata.services.workspace import Workspace, require
from cata.store.changes import remove
from cata.store.tables import Deal, DealItem, Gear


class DealIn(BaseModel):
    """Two items or more, and what they cost less together, as people write an amount."""

    items: list[Annotated[int, Field(ge=1, le=2**53)]] = Field(min_length=2, max_length=20)
    text: str = Field(min_length=1, max_length=60)
    currency: str = Field(default="EUR", pattern="^[A-Z]{3}$")
    on_date: str = Field(default="", pattern=r"^(\d{4}-\d{2}-\d{2})?$")
    source: str = Field(default="", max_length=200)


def list_deals(ws: Workspace) -> list[DealView]:
    """All deals, the newest first."""
    with ws.reading() as session:
        rows = session.exec(select(Deal).order_by(col(Deal.on_date).desc(), col(Deal.id).desc())).all()
        parts = _parts(session)
        return [_view(row, parts[row.id or 0]) for row in rows]


def add_deal(ws: Workspace, data: DealIn) -> list[DealView]:
    """Note a deal. Invalid for an amount of nothing, or fewer than two different items."""
    items = sorted(set(data.items))
    if len(items) < 2:
        raise Invalid("a deal is of two different items or more", "one_item")
    off_minor, currency = read_price(data.text, data.currency)
    if off_minor <= 0:
        raise Invalid("a deal takes something off", "no_discount")
    with ws.acting("Note a deal") as session:
        names = [require(session, Gear, ident, "item of gear").name for ident in items]
        row = Deal(name=" and ".join(names)[:400], off_minor=off_minor, currency=currency,
                   on_date=data.on_date or ws.now()[:10], source=data.source)  # fmt: skip
        session.add(row)
        session.flush()
        for ident, name in zip(items, names, strict=True):
            session.add(DealItem(deal_id=row.id or 0, gear_id=ident, name=name))
    return list_deals(ws)


def remove_deal(ws: Workspace, deal_id: int) -> list[DealView]:
    """Remove a deal."""
    with ws.acting("Remove a deal") as session:
        remove(session, require(session, Deal, deal_id))
    return list_deals(ws)


def bundles_of(session: Session, currency: str, rates: Sequence[Rate], owned: Sequence[int]) -> list[Bundle]:
    """Deals as a rig counts them: those whose items all have to be bought, as far as a rate leads to the currency."""
    found, parts = [], _parts(session)
    for row in session.exec(select(Deal).order_by(col(Deal.id))).all():
        items = [part.gear_id for part in parts[row.id or 0]]
        converted = convert(row.off_minor, row.currency, currency, rates)
        # Of what is no longer on the shelf nothing can be bought, so the deal holds no more.
        if converted is not None and None not in items and not set(items) & set(owned):
            found.append(Bundle(frozenset(ident for ident in items if ident is not None), converted.price_minor))
    return found


def _parts(session: Session) -> Mapping[int, list[DealItem]]:
    """What belongs to each deal."""
    found: dict[int, list[DealItem]] = defaultdict(list)
    for part in session.exec(select(DealItem).order_by(col(DealItem.id))).all():
        found[part.deal_id].append(part)
    return found


def _view(row: Deal, parts: Sequence[DealItem]) -> DealView:
    exponent(row.currency)
    return DealView(
        id=row.id or 0, items=[part.gear_id for part in parts],
        names=[part.name if part.gear_id is not None else f"{part.name} (no longer there)" for part in parts],
        off_minor=row.off_minor, currency=row.currency, text=show_price(row.off_minor, row.currency),
        on_date=row.on_date, source=row.source,
    )  # fmt: skip
