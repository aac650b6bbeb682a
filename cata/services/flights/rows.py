"""The rows and columns of a flight, in their order."""

from __future__ import annotations

from sqlmodel import Session, col, select

from cata.store.tables import Brief, Contender, Flight, Planned, Test


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


def rules_of(session: Session, flight: Flight) -> dict[str, str]:
    """The schools a flight follows, by question: its own, else those of its brief."""
    brief = session.get(Brief, flight.brief_id) if flight.brief_id else None
    return {**(brief.need.get("schools", {}) if brief is not None else {}), **flight.rules}
