"""The planned takes that are still to record, and recordings put into their places."""

from __future__ import annotations

import re
from typing import Any

from sqlmodel import Session, col, select

from cata.errors import Conflict, Invalid
from cata.services.plan.cells import repeat_of
from cata.services.takes.placing import put
from cata.services.workspace import Workspace, require
from cata.store.tables import Flight, Planned, Take


def natural(name: str) -> list[Any]:
    """A sorting key that puts take 2 before take 10."""
    return [int(part) if part.isdigit() else part for part in re.split(r"(\d+)", name.casefold())]


def open_steps(session: Session, flight_id: int) -> list[Planned]:
    """The planned takes that are not recorded, in order."""
    filled = {
        (take.contender_id, take.test_id, take.repeat)
        for take in session.exec(select(Take).where(Take.flight_id == flight_id, col(Take.test_id).is_not(None))).all()
    }
    rows = session.exec(select(Planned).where(Planned.flight_id == flight_id).order_by(col(Planned.position))).all()
    return [
        row for row in rows
        if row.state == "redo" or (row.contender_id, row.test_id, repeat_of(row.anchor)) not in filled
    ]  # fmt: skip


def place_in_order(ws: Workspace, flight_id: int) -> int:
    """Put the unplaced takes, sorted by name, into the open planned takes in their order; how many."""
    with ws.acting("Place takes in order") as session:
        require(session, Flight, flight_id)
        loose = session.exec(select(Take).where(Take.flight_id == flight_id, col(Take.test_id).is_(None))).all()
        steps = open_steps(session, flight_id)
        if loose and not steps:
            raise Conflict(
                "there is no open take in the order; make an order on the plan, or place them by name", "nothing_open"
            )
        count = 0
        for take, step in zip(sorted(loose, key=lambda take: natural(take.filename)), steps, strict=False):
            fill(session, take, step)
            count += 1
        return count


def fill(session: Session, take: Take, step: Planned) -> None:
    """Put a take where it was planned; the planned take is done."""
    put(session, take, step.contender_id, step.test_id, repeat_of(step.anchor))
    step.state = "done"
    session.add(step)
    session.flush()


def place_planned(ws: Workspace, take_id: int, planned_id: int) -> None:
    """Put a take that was just recorded into its planned place; what was there before is kept, unplaced."""
    with ws.acting("Record a take") as session:
        take = require(session, Take, take_id)
        step = require(session, Planned, planned_id, "planned take")
        if step.flight_id != take.flight_id:
            raise Invalid("the planned take belongs to another flight", "other_flight")
        fill(session, take, step)
