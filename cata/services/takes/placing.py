"""Takes in cells: placed by their names, by hand, in order, or all at once; set aside and brought back."""

from __future__ import annotations

from collections.abc import Mapping

from pydantic import BaseModel, Field
from sqlmodel import Session, select

from cata.core.names import find_grid
from cata.core.words import plural
from cata.errors import Invalid
from cata.said import Said
from cata.services.flights.rows import contenders_of, tests_of
from cata.services.flights.table import MAX_NAME, ContenderIn, TestIn, new_contender, new_test
from cata.services.plan.cells import repeat_of
from cata.services.takes.proposing import loose_takes, proposals
from cata.services.workspace import Workspace, require
from cata.store.changes import remove
from cata.store.tables import Contender, Flight, Planned, Take, Test

MAX_TEST_NAME = 120


class CellIn(BaseModel):
    """A take and the cell it goes to; ``repeat`` 0 is the take that counts, others are the cell played again.

    ``replaces`` is the take that is known to step aside.
    """

    take_id: int = Field(ge=1, le=2**53)
    contender_id: int = Field(ge=1, le=2**53)
    test_id: int = Field(ge=1, le=2**53)
    repeat: int = Field(default=0, ge=0, le=99)
    replaces: int | None = Field(default=None, ge=1, le=2**53)


def place_take(ws: Workspace, take_id: int, contender_id: int | None, test_id: int | None, repeat: int = 0) -> None:
    """Put a take into a cell, or set it aside with None; a take that was there changes places with it."""
    with ws.acting("Set a take aside" if test_id is None else "Place a take") as session:
        take = require(session, Take, take_id)
        put(session, take, contender_id, test_id, repeat)
        if test_id is None:
            take.aside = True


def place_all(ws: Workspace, flight_id: int, cells: list[CellIn]) -> None:
    """Put takes into cells, all of them or none; Invalid where one of them would push out a take that is placed."""
    with ws.acting(f"Place {plural(len(cells), 'take')}") as session:
        require(session, Flight, flight_id)
        moved = {cell.take_id for cell in cells}
        for cell in cells:
            there = _there(session, cell.contender_id, cell.test_id, cell.repeat)
            if there is not None and there.id not in (*moved, cell.replaces):
                raise Invalid(f"{there.filename} is in one of these cells by now: look again", "cell_filled")
        for cell in cells:
            take = require(session, Take, cell.take_id)
            if take.flight_id != flight_id:
                raise Invalid("the take belongs to another flight", "other_flight")
            put(session, take, cell.contender_id, cell.test_id, cell.repeat)


def bring_back(ws: Workspace, take_id: int) -> None:
    """A take that was set aside wants a cell again."""
    with ws.acting("Bring a take back") as session:
        take = require(session, Take, take_id)
        take.aside = False
        session.add(take)


def _there(session: Session, contender_id: int, test_id: int, repeat: int) -> Take | None:
    cell = (Take.contender_id == contender_id, Take.test_id == test_id, Take.repeat == repeat)
    return session.exec(select(Take).where(*cell)).first()


def put(session: Session, take: Take, contender_id: int | None, test_id: int | None, repeat: int = 0) -> None:
    """:func:`place_take` inside a transaction. A take that gives its cell to one that had none steps aside."""
    if (contender_id is None) != (test_id is None):
        raise Invalid("a cell is a contender and a test: give both, or neither to take it out", "half_a_cell")
    if contender_id is not None and test_id is not None:
        contender, test = require(session, Contender, contender_id), require(session, Test, test_id)
        if contender.flight_id != take.flight_id or test.flight_id != take.flight_id:
            raise Invalid("the cell belongs to another flight", "other_flight")
        left = (take.contender_id, take.test_id, take.repeat)
        other = _there(session, contender_id, test_id, repeat)
        if other is not None and other.id != take.id:
            # No cell is ever held twice, not even while two takes change places.
            _settle(session, take, (None, None, 0))
            _settle(session, other, left)
            other.aside = left[1] is None
        if left[1] is None:
            _is_done(session, contender_id, test_id, repeat)
        take.aside = False
    _settle(session, take, (contender_id, test_id, repeat if contender_id is not None else 0))


def _is_done(session: Session, contender_id: int, test_id: int, repeat: int) -> None:
    """A planned take is done, for the first time or again, once a recording comes into its cell."""
    cell = (Planned.contender_id == contender_id, Planned.test_id == test_id, Planned.state != "done")
    for row in session.exec(select(Planned).where(*cell)).all():
        if repeat_of(row.anchor) == repeat:
            row.state = "done"
            session.add(row)


def _settle(session: Session, take: Take, cell: tuple[int | None, int | None, int]) -> None:
    take.contender_id, take.test_id, take.repeat = cell
    session.add(take)
    session.flush()


def arrange(ws: Workspace, flight_id: int) -> Said:
    """Place the takes that want a cell by their names, where name and cell are clear; what was done, in words.

    Rows and columns are made where there are none. Nothing that is placed moves.
    """
    with ws.acting("Place takes by name") as session:
        flight = require(session, Flight, flight_id)
        loose = loose_takes(session, flight_id)
        _make_table(session, flight, [take.filename for take in loose])
        found = proposals(session, flight_id)
        sure = [one for one in found.values() if one.sure]
        for one in sure:
            put(session, session.get_one(Take, one.take_id), one.contender_id, one.test_id)
        return _told(len(sure), len(loose) - len(sure))


def lay_out(ws: Workspace, flight_id: int, cells: Mapping[int, tuple[str, str]]) -> None:
    """Place takes into cells by the names of contender and test; rows and columns that are not there are made."""
    with ws.acting("Place takes as planned") as session:
        require(session, Flight, flight_id)
        rows = {one.name: one.id or 0 for one in contenders_of(session, flight_id)}
        columns = {one.name: one.id or 0 for one in tests_of(session, flight_id)}
        for take_id, (contender, test) in cells.items():
            row, column = contender[:MAX_NAME], test[:MAX_TEST_NAME]
            if row not in rows:
                rows[row] = new_contender(session, flight_id, ContenderIn(name=row)).id or 0
            if column not in columns:
                columns[column] = new_test(session, flight_id, TestIn(name=column)).id or 0
            put(session, session.get_one(Take, take_id), rows[row], columns[column])


def _told(placed: int, left: int) -> Said:
    numbers = {"placed": placed, "left": left}
    if not left:
        return Said("all_placed" if placed else "nothing_to_place", f"{plural(placed, 'take')} placed.", numbers)
    rest = f"{plural(left, 'recording')} not: each says why." if placed else "Each recording says why."
    return Said("some_left", f"{plural(placed, 'take') if placed else 'Nothing'} placed. {rest}", numbers)


def _make_table(session: Session, flight: Flight, names: list[str]) -> None:
    """Rows and columns from names, where a flight has none."""
    ident = flight.id or 0
    rows, columns = contenders_of(session, ident), tests_of(session, ident)
    if rows and columns:
        return
    grid = find_grid(names)
    if not rows:
        for name in grid.contenders:
            new_contender(session, ident, ContenderIn(name=name[:MAX_NAME]))
    if not columns:
        for name in grid.tests:
            new_test(session, ident, TestIn(name=name[:MAX_TEST_NAME]))


def remove_take(ws: Workspace, take_id: int) -> None:
    """Remove a take; its recording stays in the vault while it can be undone."""
    with ws.acting("Remove take") as session:
        remove(session, require(session, Take, take_id))


def declare_lead_in(ws: Workspace, take_id: int, lead_in_s: float) -> None:
    """Say how long the silence before the playing is; the noise floor is then measured there."""
    with ws.acting("Declare a lead-in") as session:
        take = require(session, Take, take_id)
        if not 0 <= lead_in_s <= take.duration_s:
            raise Invalid(
                f"a lead-in lies between 0 and the take's {take.duration_s:.1f} s, got {lead_in_s:g}", "out_of_range"
            )
        take.lead_in_s = lead_in_s
        session.add(take)
