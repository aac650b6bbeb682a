"""The planned takes that are still to record, and recordings put into their places."""

from __future__ import annotations

from sqlmodel import Session, col, select

from cata.errors import Conflict, Invalid
from cata.said import Said
from cata.services.plan.cells import repeat_of
from cata.services.takes.placing import put
from cata.services.takes.proposing import Proposal, loose_takes, takes_in_cells
from cata.services.workspace import Workspace, require
from cata.store.tables import Flight, Planned, Take


def open_steps(session: Session, flight_id: int) -> list[Planned]:
    """The planned takes that are not recorded, in order."""
    filled = takes_in_cells(session, flight_id)
    rows = session.exec(select(Planned).where(Planned.flight_id == flight_id).order_by(col(Planned.position))).all()
    return [
        row for row in rows
        if row.state == "redo" or (row.contender_id, row.test_id, repeat_of(row.anchor)) not in filled
    ]  # fmt: skip


def in_order(ws: Workspace, flight_id: int) -> list[Proposal]:
    """What the recordings that want a cell would be, if they were played in the order of the plan, sorted by name.

    Conflict where no planned take is open. Only open cells are proposed; a planned take that is to be done again is
    open, and says what it would replace.
    """
    with ws.reading() as session:
        require(session, Flight, flight_id)
        loose, steps = loose_takes(session, flight_id), open_steps(session, flight_id)
        if loose and not steps:
            raise Conflict(
                "there is no open take in the order; make an order on the plan, or place them by name", "nothing_open"
            )
        counts = {"recordings": len(loose), "open": len(steps)}
        fits = len(loose) == len(steps)
        words = f"In the order of the plan, {len(loose)} recordings for {len(steps)} open takes."
        why = None if fits else Said("uneven", f"{words} Is the first of them the first take?", counts)
        there = takes_in_cells(session, flight_id)
        found = []
        for take, step in zip(loose, steps, strict=False):
            cell = (step.contender_id, step.test_id, repeat_of(step.anchor))
            replaces = there[cell].id if cell in there else None
            found.append(Proposal(take.id or 0, *cell, 1.0 if fits else 0.5, why, replaces))
        return found


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
