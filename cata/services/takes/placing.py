"""Takes in cells: proposed by their names, placed by hand, in order, or all at once."""

from __future__ import annotations

from collections.abc import Callable

from sqlmodel import Session, select

from cata.core.names import SURE, Placement, find_grid, place
from cata.errors import Invalid
from cata.services.flights.rows import contenders_of, tests_of
from cata.services.flights.table import MAX_NAME, ContenderIn, TestIn, new_contender, new_test
from cata.services.workspace import Workspace, require
from cata.store.changes import remove
from cata.store.tables import Contender, Flight, Take, Test

Proposal = tuple[int | None, int | None, float]


def proposer(session: Session, flight_id: int) -> Callable[[Take], Proposal]:
    """What says of a flight's takes which cell (contender, test, confidence) their names speak for.

    The names of rows and columns are looked up once, however many takes there are.
    """
    rows, columns = contenders_of(session, flight_id), tests_of(session, flight_id)
    row_names, column_names = [row.name for row in rows], [column.name for column in columns]

    def propose(take: Take) -> Proposal:
        found: Placement = place(take.filename, row_names, column_names)
        contender = rows[found.contender].id if found.contender is not None else None
        test = columns[found.test].id if found.test is not None else None
        return contender, test, found.confidence

    return propose


def place_take(ws: Workspace, take_id: int, contender_id: int | None, test_id: int | None, repeat: int = 0) -> None:
    """Put a take into a cell, or out of the table with None; a take that was there changes places with it.

    ``repeat`` 0 is the take that counts, others are the cell played again.
    """
    with ws.acting("Place a take") as session:
        put(session, require(session, Take, take_id), contender_id, test_id, repeat)


def put(session: Session, take: Take, contender_id: int | None, test_id: int | None, repeat: int = 0) -> None:
    """:func:`place_take` inside a transaction."""
    if (contender_id is None) != (test_id is None):
        raise Invalid("a cell is a contender and a test: give both, or neither to take it out", "half_a_cell")
    if contender_id is not None and test_id is not None:
        contender, test = require(session, Contender, contender_id), require(session, Test, test_id)
        if contender.flight_id != take.flight_id or test.flight_id != take.flight_id:
            raise Invalid("the cell belongs to another flight", "other_flight")
        there = session.exec(
            select(Take).where(
                Take.contender_id == contender_id, Take.test_id == test_id, Take.id != take.id, Take.repeat == repeat
            )
        ).all()
        left = (take.contender_id, take.test_id, take.repeat)
        for other in there:
            # No cell is ever held twice, not even while two takes change places.
            _settle(session, take, (None, None, 0))
            _settle(session, other, left)
    _settle(session, take, (contender_id, test_id, repeat if contender_id is not None else 0))


def _settle(session: Session, take: Take, cell: tuple[int | None, int | None, int]) -> None:
    take.contender_id, take.test_id, take.repeat = cell
    session.add(take)
    session.flush()


def arrange(ws: Workspace, flight_id: int) -> int:
    """Place the unplaced takes of a flight by their names, making rows and columns where there are none; how many."""
    with ws.acting("Place takes by name") as session:
        flight = require(session, Flight, flight_id)
        loose = [t for t in session.exec(select(Take).where(Take.flight_id == flight_id)).all() if t.test_id is None]
        rows, columns = contenders_of(session, flight_id), tests_of(session, flight_id)
        if loose and not (rows and columns):
            return _arrange_new(session, flight, loose, bool(rows), bool(columns))
        placed, propose = 0, proposer(session, flight_id)
        for take in loose:
            contender, test, confidence = propose(take)
            if contender is None or test is None or confidence < SURE or _taken(session, contender, test):
                continue
            put(session, take, contender, test)
            placed += 1
        return placed


def _arrange_new(session: Session, flight: Flight, loose: list[Take], has_rows: bool, has_columns: bool) -> int:
    grid = find_grid([take.filename for take in loose])
    ident = flight.id or 0
    if not has_rows:
        for name in grid.contenders:
            new_contender(session, ident, ContenderIn(name=name[:MAX_NAME]))
    if not has_columns:
        for name in grid.tests:
            new_test(session, ident, TestIn(name=name[:120]))
    rows, columns = contenders_of(session, ident), tests_of(session, ident)
    propose = proposer(session, ident)
    for take, (row, column) in zip(loose, grid.cells, strict=True):
        if not has_rows and not has_columns:
            contender, test = rows[row].id, columns[column].id
        else:
            contender, test, _ = propose(take)
        if contender is not None and test is not None and not _taken(session, contender, test):
            put(session, take, contender, test)
    return sum(take.test_id is not None for take in loose)


def _taken(session: Session, contender_id: int, test_id: int) -> bool:
    statement = select(Take.id).where(Take.contender_id == contender_id, Take.test_id == test_id, Take.repeat == 0)
    return session.exec(statement).first() is not None


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
