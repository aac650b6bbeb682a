"""The rows and columns of a flight, in their order."""

from __future__ import annotations

from sqlmodel import Session, col, select

from cata.store.tables import Contender, Planned, Test


def contenders_of(session: Session, flight_id: int) -> list[Contender]:
    """The contenders of a flight in order."""
    statement = select(Contender).where(Contender.flight_id == flight_id)
    return list(session.exec(statement.order_by(col(Contender.position), col(Contender.id))))


def tests_of(session: Session, flight_id: int) -> list[Test]:
    """The tests of a flight in order."""
    statement = select(Test).where(Test.flight_id == flight_id)
    return list(session.exec(statement.order_by(col(Test.position), col(Test.id))))


def planned_of(session: Session, flight_id: int) -> list[Planned]:
    """The planned takes of a flight in order."""
    statement = select(Planned).where(Planned.flight_id == flight_id)
    return list(session.exec(statement.order_by(col(Planned.position), col(Planned.id))))
