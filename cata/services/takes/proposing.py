"""Where takes that are in no cell may belong: by their names, or in the order of the plan."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Any

from sqlmodel import Session, col, select

from cata.core.names import BYPASS_NAMES, SURE, counter_of, place
from cata.said import Said
from cata.services.flights.rows import contenders_of, tests_of
from cata.store.tables import Contender, Take, Test

CellKey = tuple[int, int, int]


@dataclass(frozen=True)
class Proposal:
    """A cell for a take (contender, test, repeat; None where nothing is proposed), how sure, and what is to be said.

    ``replaces`` is the take that would step aside.
    """

    take_id: int
    contender_id: int | None
    test_id: int | None
    repeat: int = 0
    confidence: float = 0.0
    why: Said | None = None
    replaces: int | None = None

    @property
    def sure(self) -> bool:
        """Whether it needs nobody's word: the name is clear and the cell is free."""
        return not self.open and self.confidence >= SURE and self.repeat == 0

    @property
    def open(self) -> bool:
        """Whether no cell is proposed."""
        return self.contender_id is None or self.test_id is None


def natural(name: str) -> list[Any]:
    """A sorting key that puts take 2 before take 10."""
    return [int(part) if part.isdigit() else part for part in re.split(r"(\d+)", name.casefold())]


def loose_takes(session: Session, flight_id: int) -> list[Take]:
    """The takes that want a cell, in the order of their names; those that were set aside are not among them."""
    statement = select(Take).where(Take.flight_id == flight_id, col(Take.test_id).is_(None), col(Take.aside).is_(False))
    return sorted(session.exec(statement).all(), key=lambda take: natural(take.filename))


def takes_in_cells(session: Session, flight_id: int) -> dict[CellKey, Take]:
    """The takes that are placed, by contender, test and repeat."""
    placed = select(Take).where(Take.flight_id == flight_id, col(Take.test_id).is_not(None))
    return {(take.contender_id or 0, take.test_id or 0, take.repeat): take for take in session.exec(placed).all()}


def proposals(session: Session, flight_id: int) -> dict[int, Proposal]:
    """A proposal for each take that wants a cell, by its name; no cell is proposed twice.

    A take whose cell is filled is proposed as the cell played again; the only take left, for the only cell left.
    """
    loose = loose_takes(session, flight_id)
    if not loose:
        return {}
    table = _Table(session, flight_id)
    # Of two for one cell take 1 comes before take 2, and else what came in first.
    loose.sort(key=lambda take: (counter_of(take.filename), take.id or 0))
    found = {take.id or 0: table.proposal(take) for take in loose}
    unknown = [one for one in found.values() if one.open and (one.why is None or one.why.code != "twice")]
    if len(unknown) == 1 and len(table.free()) == 1:
        contender, test, _ = table.free()[0]
        why = Said("only_left", "It is the only recording left, and this the only cell.")
        found[unknown[0].take_id] = Proposal(unknown[0].take_id, contender, test, 0, 0.5, why)
    return found


class _Table:
    """The cells of a flight as they are filled, the proposals made so far included."""

    def __init__(self, session: Session, flight_id: int) -> None:
        self.rows, self.columns = contenders_of(session, flight_id), tests_of(session, flight_id)
        self.filled = takes_in_cells(session, flight_id)
        self._row_names = [(row.name, *BYPASS_NAMES) if row.is_bypass else row.name for row in self.rows]
        self._column_names = [column.name for column in self.columns]

    def free(self) -> list[CellKey]:
        cells = [(row.id or 0, column.id or 0, 0) for row in self.rows for column in self.columns]
        return [cell for cell in cells if cell not in self.filled]

    def proposal(self, take: Take) -> Proposal:
        ident = take.id or 0
        found = place(take.filename, self._row_names, self._column_names)
        row = self.rows[found.contender] if found.contender is not None else None
        column = self.columns[found.test] if found.test is not None else None
        named = (row.id, column.id) if row is not None and column is not None else None
        for (contender_id, test_id, _), other in self.filled.items():
            if other.digest == take.digest and named in (None, (contender_id, test_id)):
                words = f"The same recording as {other.filename}, which has its place."
                return Proposal(ident, None, None, why=Said("twice", words))
        if row is None or column is None:
            contender, test = row.id if row else None, column.id if column else None
            return Proposal(ident, contender, test, 0, found.confidence, found.why)
        return self._in_cell(take, row, column, found.confidence, found.why)

    def _in_cell(self, take: Take, row: Contender, column: Test, confidence: float, why: Said | None) -> Proposal:
        cell = (row.id or 0, column.id or 0)
        repeat = 0
        while (*cell, repeat) in self.filled:
            repeat += 1
        if repeat:
            there = self.filled[(*cell, 0)]
            why = Said(
                "filled", f"{row.name}, {column.name} has {there.filename}: this would be the cell played again."
            )
        self.filled[(*cell, repeat)] = take
        return Proposal(take.id or 0, *cell, repeat, confidence, why)
