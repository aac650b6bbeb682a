"""The shelf: gear with its controls and prices."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence

from pydantic import BaseModel, Field
from sqlmodel import Session, col, select

from cata.core.gear import Control, GearKind, read_position, show_position
from cata.core.shelf.prices import current_price
from cata.core.specs import fields_of, read_specs, show_value
from cata.errors import Invalid
from cata.services.shelf.prices import price_view, prices_of
from cata.services.shelf.views import FlightRef, GearView, SpecView
from cata.services.workspace import Workspace, require
from cata.store.changes import remove
from cata.store.tables import Contender, Flight, Gear, Price


class GearIn(BaseModel):
    """What a person says of an item."""

    kind: GearKind
    name: str = Field(min_length=1, max_length=120)
    about: str = Field(default="", max_length=4000)
    structure: str = Field(default="", max_length=400)
    controls: list[Control] = Field(default_factory=list, max_length=40)
    specs: dict[str, float | bool | str] = Field(default_factory=dict, max_length=60)


class GearPatch(BaseModel):
    """Some of it, changed."""

    kind: GearKind | None = None
    name: str | None = Field(default=None, min_length=1, max_length=120)
    about: str | None = Field(default=None, max_length=4000)
    structure: str | None = Field(default=None, max_length=400)
    controls: list[Control] | None = Field(default=None, max_length=40)
    specs: dict[str, float | bool | str] | None = Field(default=None, max_length=60)


def _view(gear: Gear, prices: list[Price], flights: list[FlightRef]) -> GearView:
    controls = [Control.model_validate(control) for control in gear.controls]
    best = current_price(prices)
    return GearView(
        id=gear.id or 0,
        kind=gear.kind,
        name=gear.name,
        about=gear.about,
        structure=gear.structure,
        controls=controls,
        control_texts=[show_position(control, control.default) for control in controls],
        specs=_spec_views(gear),
        prices=[price_view(price) for price in prices],
        price=price_view(best) if best else None,
        flights=flights,
    )


def _spec_views(gear: Gear) -> list[SpecView]:
    """Every field of the kind, filled or not, then what was kept as text."""
    kind: GearKind = gear.kind  # type: ignore[assignment]
    specs, _ = read_specs(kind, gear.specs)
    fields = fields_of(kind)
    rows = [
        SpecView(
            key=field.key,
            name=field.name,
            type=field.type,
            unit=field.unit,
            choices=list(field.choices),
            value=specs.get(field.key),
            text=show_value(field, specs[field.key]) if field.key in specs else "",
        )
        for field in fields
    ]
    known = {field.key for field in fields}
    return rows + [
        SpecView(key=label, name=label, type="text", unit="", choices=[], value=value, text=str(value))
        for label, value in specs.items()
        if label not in known
    ]


def _checked_specs(kind: str, given: dict[str, float | bool | str]) -> dict[str, float | bool | str]:
    """Specifications as they are kept; Invalid with the first that does not fit its field."""
    specs, problems = read_specs(kind, given)  # type: ignore[arg-type]
    for why in problems.values():
        raise Invalid.of(why)
    return specs


def views_of(session: Session, items: Sequence[Gear]) -> list[GearView]:
    """Several items with their prices and flights, in three queries."""
    idents = [item.id or 0 for item in items]
    prices = prices_of(session, idents)
    flights: dict[int, list[FlightRef]] = defaultdict(list)
    statement = select(Flight, Contender.gear_id).join(Contender).where(col(Contender.gear_id).in_(idents)).distinct()
    for flight, gear_id in session.exec(statement.order_by(col(Flight.id))):
        flights[gear_id or 0].append(FlightRef(id=flight.id or 0, name=flight.name))
    return [_view(item, prices[item.id or 0], flights[item.id or 0]) for item in items]


def get_gear(ws: Workspace, gear_id: int) -> GearView:
    """One item."""
    with ws.reading() as session:
        return views_of(session, [require(session, Gear, gear_id, "item of gear")])[0]


def add_gear(ws: Workspace, data: GearIn) -> GearView:
    """Put an item on the shelf."""
    with ws.acting(f"Add {data.name}") as session:
        given = data.model_dump() | {"specs": _checked_specs(data.kind, data.specs)}
        gear = Gear(**given, created_at=ws.now())
        session.add(gear)
        session.flush()
    return get_gear(ws, gear.id or 0)


def change_gear(ws: Workspace, gear_id: int, patch: GearPatch) -> GearView:
    """Change an item in place."""
    with ws.acting("Change gear") as session:
        gear = require(session, Gear, gear_id, "item of gear")
        for key, value in patch.model_dump(exclude_unset=True, exclude_none=True).items():
            setattr(gear, key, value)
        if patch.specs is not None:
            gear.specs = _checked_specs(gear.kind, patch.specs)
        session.add(gear)
    return get_gear(ws, gear_id)


def set_start(ws: Workspace, gear_id: int, key: str, text: str) -> GearView:
    """Where a control starts, as a person writes it."""
    with ws.acting("Set where a knob starts") as session:
        gear = require(session, Gear, gear_id, "item of gear")
        controls = [Control.model_validate(control) for control in gear.controls]
        if key not in {control.key for control in controls}:
            raise Invalid(f"{gear.name} has no control {key}", "no_control")
        gear.controls = [
            (c.model_copy(update={"default": read_position(c, text)}) if c.key == key else c).model_dump(mode="json")
            for c in controls
        ]
        session.add(gear)
    return get_gear(ws, gear_id)


def remove_gear(ws: Workspace, gear_id: int) -> None:
    """Take an item off the shelf; contenders that used it keep their name and settings."""
    with ws.acting("Remove gear") as session:
        remove(session, require(session, Gear, gear_id, "item of gear"))
