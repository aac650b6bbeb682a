"""One more take, put into the order of a flight: of a contender it has, or of an item that it did not have yet."""

from __future__ import annotations

from pydantic import BaseModel, Field
from sqlmodel import Session, select

from cata.core.plan.chain import PART_KINDS
from cata.core.plan.setup import CHANGE_S
from cata.errors import Invalid
from cata.services.flights.rows import contenders_of, planned_of
from cata.services.flights.table import ContenderIn, new_contender
from cata.services.plan.cells import repeat_of
from cata.services.plan.setups import condition_of
from cata.services.workspace import Workspace, require
from cata.store.changes import in_places
from cata.store.tables import Contender, Flight, Gear, Planned, Take, Test

KNOBS = 4
"""How many knobs of a pedal or an amplifier are set anew, on average."""


class OneMoreIn(BaseModel):
    """Of which item, or of which contender of the flight, in which test."""

    gear_id: int | None = Field(default=None, ge=1, le=2**53)
    contender_id: int | None = Field(default=None, ge=1, le=2**53)
    test_id: int = Field(ge=1, le=2**53)


class OneMore(BaseModel):
    """The planned take, its flight, and about how many minutes it needs."""

    planned_id: int
    flight_id: int
    minutes: float


def one_more(ws: Workspace, flight_id: int, data: OneMoreIn) -> OneMore:
    """Put a take of an item in a test first among what is open; a cell that was played gets a repeat.

    Invalid where the test is of another flight.
    """
    with ws.reading() as session:
        if data.contender_id is not None:
            name = require(session, Contender, data.contender_id).name
        else:
            name = require(session, Gear, data.gear_id or 0, "item of gear").name
    with ws.acting(f"One more take of {name}") as session:
        flight, test = require(session, Flight, flight_id), require(session, Test, data.test_id)
        if test.flight_id != flight_id:
            raise Invalid("the test is of another flight", "other_flight")
        wanted = [one for one in contenders_of(session, flight_id) if data.contender_id in (None, one.id)]
        if data.contender_id is not None and not wanted:
            raise Invalid("the contender is of another flight", "other_flight")
        row = next((one for one in wanted if data.contender_id or one.gear_id == data.gear_id), None)
        contender = row or new_contender(session, flight_id, ContenderIn(gear_id=data.gear_id))
        planned = _planned(session, flight_id, contender, test)
        minutes = minutes_for(flight.link, test)
    return OneMore(planned_id=planned.id or 0, flight_id=flight_id, minutes=minutes)


def minutes_for(kind: str, test: Test) -> float:
    """About how long one take lasts with the change-over to it: swapped, set, played, in minutes."""
    part = PART_KINDS.get(kind, kind)  # type: ignore[call-overload]
    change_s = CHANGE_S.get(part, CHANGE_S["other"]) + KNOBS * CHANGE_S["knob"]
    return round((change_s + condition_of(test).seconds) / 60, 1)


def _planned(session: Session, flight_id: int, contender: Contender, test: Test) -> Planned:
    rows = planned_of(session, flight_id)
    mine = [row for row in rows if (row.contender_id, row.test_id) == (contender.id, test.id)]
    there = session.exec(select(Take.repeat).where(Take.contender_id == contender.id, Take.test_id == test.id)).all()
    played = set(there)
    waiting = next((row for row in mine if repeat_of(row.anchor) not in played), None)
    if waiting is None:
        # The first planned take of a cell has anchor 0; what plays it again counts on from 2.
        again = max([*played, *(repeat_of(row.anchor) for row in mine)], default=-1) + 1
        number = max((row.number for row in rows), default=0) + 1
        waiting = Planned(
            flight_id=flight_id, number=number, contender_id=contender.id or 0, test_id=test.id or 0,
            anchor=again + 1 if again else 0, position=len(rows) + 1,
        )  # fmt: skip
        session.add(waiting)
        session.flush()
    others = [row for row in rows if row is not waiting]
    cells = select(Take.contender_id, Take.test_id, Take.repeat).where(Take.flight_id == flight_id)
    done = set(session.exec(cells).all())
    first = next(
        (at for at, row in enumerate(others) if (row.contender_id, row.test_id, repeat_of(row.anchor)) not in done),
        len(others),
    )
    in_places(session, [*others[:first], waiting, *others[first:]])
    return waiting
