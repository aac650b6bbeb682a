"""Flights: the table of contenders and tests, edited in place."""

from __future__ import annotations

from typing import Annotated, TypeVar

from pydantic import BaseModel, Field
from sqlmodel import Session, select

from cata.core.gear import Control, read_position
from cata.core.match.gains import School
from cata.core.names import means_bypass
from cata.errors import Invalid
from cata.services.flights.rows import contenders_of, planned_of, tests_of
from cata.services.workspace import Workspace, require
from cata.store.changes import in_places, remove
from cata.store.tables import Brief, Contender, Flight, Gear, Test

COLOURS = 8
MAX_ROWS, MAX_COLUMNS = 40, 40
MAX_NAME, MAX_FLIGHT_NAME = 120, 160
Ident = Annotated[int, Field(ge=1, le=2**53)]
Placed = TypeVar("Placed", Contender, Test)


class FlightIn(BaseModel):
    """A new flight."""

    name: str = Field(min_length=1, max_length=MAX_FLIGHT_NAME)
    question: str = Field(default="", max_length=400)
    link: str = Field(default="pedal", max_length=40)
    held: str = Field(default="", max_length=4000)
    brief_id: Ident | None = None


class FlightPatch(BaseModel):
    """Changes to a flight."""

    name: str | None = Field(default=None, min_length=1, max_length=MAX_FLIGHT_NAME)
    question: str | None = Field(default=None, max_length=400)
    link: str | None = Field(default=None, max_length=40)
    held: str | None = Field(default=None, max_length=4000)
    school: School | None = None
    brief_id: Ident | None = None


class ContenderIn(BaseModel):
    """A new row, from the shelf or by name; an item of that name is meant, and "bypass" is the bypass, unless said."""

    name: str = Field(default="", max_length=MAX_NAME)
    gear_id: Ident | None = None
    is_bypass: bool | None = None


class ContenderPatch(BaseModel):
    """Changes to a row; ``settings`` are texts as a person types them, ``price_minor`` None clears an own price.

    ``item`` links it to the item of the shelf with that name.
    """

    name: str | None = Field(default=None, min_length=1, max_length=MAX_NAME)
    gear_id: Ident | None = None
    item: str | None = Field(default=None, min_length=1, max_length=MAX_NAME)
    is_bypass: bool | None = None
    price_minor: int | None = Field(default=None, ge=0, le=10**12)
    currency: str | None = Field(default=None, pattern="^[A-Z]{3}$")
    settings: dict[str, str] | None = None


class TestIn(BaseModel):
    """A new column."""

    name: str = Field(min_length=1, max_length=MAX_NAME)
    sound: str = Field(default="", max_length=40)
    about: str = Field(default="", max_length=400)


class TestPatch(BaseModel):
    """Changes to a column."""

    name: str | None = Field(default=None, min_length=1, max_length=MAX_NAME)
    sound: str | None = Field(default=None, max_length=40)
    about: str | None = Field(default=None, max_length=400)


def _require_brief(session: Session, brief_id: int | None) -> None:
    if brief_id is not None:
        require(session, Brief, brief_id)


def add_flight(ws: Workspace, data: FlightIn) -> int:
    """Begin a flight."""
    with ws.acting(f"Add flight {data.name}") as session:
        _require_brief(session, data.brief_id)
        flight = Flight(**data.model_dump(), created_at=ws.now())
        session.add(flight)
        session.flush()
    return flight.id or 0


def change_flight(ws: Workspace, flight_id: int, patch: FlightPatch) -> None:
    """Change a flight in place."""
    with ws.acting("Change flight") as session:
        flight = require(session, Flight, flight_id)
        _require_brief(session, patch.brief_id)
        for key, value in patch.model_dump(exclude_unset=True).items():
            if value is not None or key == "brief_id":
                setattr(flight, key, value)
        session.add(flight)


def remove_flight(ws: Workspace, flight_id: int) -> None:
    """Remove a flight with all that is in it; its recordings stay in the vault while it can be undone."""
    with ws.acting("Remove flight") as session:
        remove(session, require(session, Flight, flight_id))


def new_contender(session: Session, flight_id: int, data: ContenderIn) -> Contender:
    """Add a row inside a transaction."""
    rows = contenders_of(session, flight_id)
    if len(rows) >= MAX_ROWS:
        raise Invalid(f"a flight has at most {MAX_ROWS} contenders; split the comparison", "too_many")
    gear = require(session, Gear, data.gear_id, "item of gear") if data.gear_id is not None else None
    bypass = means_bypass(data.name) if data.is_bypass is None else data.is_bypass
    if gear is None and not bypass:
        gear = _item_named(session, data.name)
    name = data.name.strip() or (gear.name if gear else "")
    if not name:
        raise Invalid("a contender needs a name or an item from the shelf", "no_name")
    used = [row.colour for row in rows]
    colour = min(range(COLOURS), key=lambda c: (used.count(c), c))
    settings = _starts_of(gear) if gear else {}
    contender = Contender(
        flight_id=flight_id,
        gear_id=gear.id if gear else None,
        name=name,
        position=len(rows),
        colour=colour,
        is_bypass=bypass,
        settings=settings,
    )
    session.add(contender)
    session.flush()
    return contender


def _starts_of(gear: Gear) -> dict[str, float]:
    """Where the knobs of an item start."""
    return {one["key"]: one.get("default", 0.5) for one in gear.controls}


def _called(session: Session, name: str) -> list[int]:
    """The items of the shelf with this name."""
    # Not in SQL: SQLite folds the case of ASCII letters only.
    wanted = name.strip().casefold()
    rows = session.exec(select(Gear.id, Gear.name)).all()
    return [ident or 0 for ident, known in rows if known.strip().casefold() == wanted]


def _item_named(session: Session, name: str) -> Gear | None:
    """The one item of the shelf with this name; None where there is none, or more than one."""
    found = _called(session, name)
    return session.get(Gear, found[0]) if len(found) == 1 else None


def _meant(session: Session, name: str) -> int:
    """The item that a person means by its name; Invalid where it is not clear."""
    found = _called(session, name)
    if len(found) != 1:
        why = "more than one item is called that" if found else "no item is called that"
        raise Invalid(f"{why}: choose one from the list, or put it on the shelf first", "which_item")
    return found[0]


def new_test(session: Session, flight_id: int, data: TestIn) -> Test:
    """Add a column inside a transaction."""
    columns = tests_of(session, flight_id)
    if len(columns) >= MAX_COLUMNS:
        raise Invalid(f"a flight has at most {MAX_COLUMNS} tests", "too_many")
    test = Test(flight_id=flight_id, position=len(columns), **data.model_dump())
    session.add(test)
    session.flush()
    return test


def add_contender(ws: Workspace, flight_id: int, data: ContenderIn) -> int:
    """Add a row."""
    with ws.acting("Add contender") as session:
        require(session, Flight, flight_id)
        contender = new_contender(session, flight_id, data)
    return contender.id or 0


def change_contender(ws: Workspace, contender_id: int, patch: ContenderPatch) -> None:
    """Change a row in place; settings are read in the scale of their control."""
    with ws.acting("Change contender") as session:
        contender = require(session, Contender, contender_id)
        given = patch.model_dump(exclude_unset=True)
        settings = given.pop("settings", None)
        if name := given.pop("item", None):
            patch = patch.model_copy(update={"gear_id": _meant(session, name)})
            given["gear_id"] = patch.gear_id
        if patch.gear_id is not None and patch.gear_id != contender.gear_id:
            gear = require(session, Gear, patch.gear_id, "item of gear")
            contender.settings = _starts_of(gear) | contender.settings
        for key, value in given.items():
            if value is not None or key in ("price_minor", "gear_id"):
                setattr(contender, key, value)
        if settings:
            contender.settings = contender.settings | _read_settings(session, contender, settings)
        if contender.is_bypass:
            for other in contenders_of(session, contender.flight_id):
                if other.id != contender.id and other.is_bypass:
                    other.is_bypass = False
                    session.add(other)
        session.add(contender)


def _read_settings(session: Session, contender: Contender, texts: dict[str, str]) -> dict[str, float]:
    gear = session.get(Gear, contender.gear_id) if contender.gear_id else None
    controls = {c["key"]: Control.model_validate(c) for c in gear.controls} if gear else {}
    unknown = set(texts) - set(controls)
    if unknown:
        raise Invalid(f"{contender.name} has no control {', '.join(sorted(unknown))}", "no_control")
    return {key: read_position(controls[key], text) for key, text in texts.items()}


def remove_contender(ws: Workspace, contender_id: int) -> None:
    """Remove a row; its takes become unplaced."""
    with ws.acting("Remove contender") as session:
        contender = require(session, Contender, contender_id)
        remove(session, contender)
        in_places(session, contenders_of(session, contender.flight_id))
        in_places(session, planned_of(session, contender.flight_id))


def add_test(ws: Workspace, flight_id: int, data: TestIn) -> int:
    """Add a column."""
    with ws.acting("Add test") as session:
        require(session, Flight, flight_id)
        test = new_test(session, flight_id, data)
    return test.id or 0


def change_test(ws: Workspace, test_id: int, patch: TestPatch) -> None:
    """Change a column in place."""
    with ws.acting("Change test") as session:
        test = require(session, Test, test_id)
        for key, value in patch.model_dump(exclude_unset=True, exclude_none=True).items():
            setattr(test, key, value)
        session.add(test)


def remove_test(ws: Workspace, test_id: int) -> None:
    """Remove a column; its takes become unplaced."""
    with ws.acting("Remove test") as session:
        test = require(session, Test, test_id)
        remove(session, test)
        in_places(session, tests_of(session, test.flight_id))
        in_places(session, planned_of(session, test.flight_id))


def _moved(rows: list[Placed], ident: int, to: int) -> list[Placed]:
    row = next(row for row in rows if row.id == ident)
    rest = [other for other in rows if other.id != ident]
    rest.insert(max(0, min(to, len(rest))), row)
    return rest


def move_contender(ws: Workspace, contender_id: int, to: int) -> None:
    """Give a row another place (0 first)."""
    with ws.acting("Move contender") as session:
        contender = require(session, Contender, contender_id)
        in_places(session, _moved(contenders_of(session, contender.flight_id), contender_id, to))


def move_test(ws: Workspace, test_id: int, to: int) -> None:
    """Give a column another place (0 first)."""
    with ws.acting("Move test") as session:
        test = require(session, Test, test_id)
        in_places(session, _moved(tests_of(session, test.flight_id), test_id, to))
