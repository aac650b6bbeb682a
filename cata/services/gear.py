"""The shelf: gear with its controls and prices."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence

from pydantic import BaseModel, Field
from sqlmodel import Session, col, select

from cata.core.gear import Control, GearKind, PriceKind, show_position, show_price
from cata.services.views import FlightRef, GearView, PriceView
from cata.services.workspace import Workspace, require
from cata.store.tables import Contender, Flight, Gear, Price


class GearIn(BaseModel):
    """What a person says of an item."""

    kind: GearKind
    name: str = Field(min_length=1, max_length=120)
    about: str = Field(default="", max_length=4000)
    structure: str = Field(default="", max_length=400)
    controls: list[Control] = Field(default_factory=list, max_length=40)
    specs: dict[str, str] = Field(default_factory=dict, max_length=60)


class GearPatch(BaseModel):
    """Some of it, changed."""

    kind: GearKind | None = None
    name: str | None = Field(default=None, min_length=1, max_length=120)
    about: str | None = Field(default=None, max_length=4000)
    structure: str | None = Field(default=None, max_length=400)
    controls: list[Control] | None = Field(default=None, max_length=40)
    specs: dict[str, str] | None = Field(default=None, max_length=60)


class PriceIn(BaseModel):
    """A price in minor units (cents) of an ISO 4217 currency."""

    kind: PriceKind = "new"
    price_minor: int = Field(ge=0, le=10**12)
    currency: str = Field(default="EUR", pattern="^[A-Z]{3}$")
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


def best_price(prices: list[Price]) -> Price | None:
    """The lowest price, the newest among equals."""
    return min(prices, key=lambda price: (price.price_minor, -(price.id or 0)), default=None)


def _view(gear: Gear, prices: list[Price], flights: list[FlightRef]) -> GearView:
    controls = [Control.model_validate(control) for control in gear.controls]
    best = best_price(prices)
    return GearView(
        id=gear.id or 0,
        kind=gear.kind,
        name=gear.name,
        about=gear.about,
        structure=gear.structure,
        controls=controls,
        control_texts=[show_position(control, control.default) for control in controls],
        specs=gear.specs,
        prices=[price_view(price) for price in prices],
        best_price=price_view(best) if best else None,
        flights=flights,
    )


def _views(session: Session, items: Sequence[Gear]) -> list[GearView]:
    """Several items with their prices and flights, in three queries."""
    idents = [item.id for item in items]
    prices: dict[int, list[Price]] = defaultdict(list)
    for price in session.exec(select(Price).where(col(Price.gear_id).in_(idents)).order_by(col(Price.id).desc())):
        prices[price.gear_id].append(price)
    flights: dict[int, list[FlightRef]] = defaultdict(list)
    statement = select(Flight, Contender.gear_id).join(Contender).where(col(Contender.gear_id).in_(idents)).distinct()
    for flight, gear_id in session.exec(statement.order_by(col(Flight.id))):
        flights[gear_id or 0].append(FlightRef(id=flight.id or 0, name=flight.name))
    return [_view(item, prices[item.id or 0], flights[item.id or 0]) for item in items]


def prices_of(session: Session, gear_id: int) -> list[Price]:
    """All prices of an item, newest first."""
    return list(session.exec(select(Price).where(Price.gear_id == gear_id).order_by(col(Price.id).desc())))


def list_gear(ws: Workspace, *, query: str = "", kind: str = "", limit: int = 200, offset: int = 0) -> list[GearView]:
    """Items whose name or description holds the words, by kind and name."""
    with ws.reading() as session:
        statement = select(Gear).order_by(col(Gear.kind), col(Gear.name)).limit(limit).offset(offset)
        if kind:
            statement = statement.where(Gear.kind == kind)
        for word in query.split()[:8]:
            pattern = f"%{word}%"
            statement = statement.where(col(Gear.name).ilike(pattern) | col(Gear.about).ilike(pattern))
        return _views(session, session.exec(statement).all())


def get_gear(ws: Workspace, gear_id: int) -> GearView:
    """One item."""
    with ws.reading() as session:
        return _views(session, [require(session, Gear, gear_id, "item of gear")])[0]


def add_gear(ws: Workspace, data: GearIn) -> GearView:
    """Put an item on the shelf."""
    with ws.acting(f"Add {data.name}") as session:
        gear = Gear(**data.model_dump(), created_at=ws.now())
        session.add(gear)
        session.flush()
    return get_gear(ws, gear.id or 0)


def change_gear(ws: Workspace, gear_id: int, patch: GearPatch) -> GearView:
    """Change an item in place."""
    with ws.acting("Change gear") as session:
        gear = require(session, Gear, gear_id, "item of gear")
        for key, value in patch.model_dump(exclude_unset=True, exclude_none=True).items():
            setattr(gear, key, value)
        session.add(gear)
    return get_gear(ws, gear_id)


def remove_gear(ws: Workspace, gear_id: int) -> None:
    """Take an item off the shelf; contenders that used it keep their name and settings."""
    with ws.acting("Remove gear") as session:
        gear = require(session, Gear, gear_id, "item of gear")
        for contender in session.exec(select(Contender).where(Contender.gear_id == gear_id)).all():
            contender.gear_id = None
            session.add(contender)
        for price in prices_of(session, gear_id):
            session.delete(price)
        session.flush()
        session.delete(gear)


def add_price(ws: Workspace, gear_id: int, data: PriceIn) -> GearView:
    """Note a price; older ones stay as its history."""
    with ws.acting("Add a price") as session:
        require(session, Gear, gear_id, "item of gear")
        session.add(Price(gear_id=gear_id, **data.model_dump(), on_date=ws.now()[:10]))
    return get_gear(ws, gear_id)


def remove_price(ws: Workspace, price_id: int) -> GearView:
    """Remove a price."""
    with ws.acting("Remove a price") as session:
        price = require(session, Price, price_id)
        gear_id = price.gear_id
        session.delete(price)
    return get_gear(ws, gear_id)
