"""Takes that somebody asked for and that are made in the background: asked, stopped, counted."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from sqlmodel import Session, col, delete, select

from cata.services.workspace import Workspace
from cata.store.tables import Asked
from cata.tasks.shape import Due

CUT, REHEARSAL = "cut", "rehearsal"
MAKING = (CUT, REHEARSAL)


def ask_for(session: Session, duty: str, flight_id: int, wishes: Sequence[dict[str, Any]]) -> int:
    """Ask for pieces of work; what is asked for already is not asked for twice. How many are new."""
    known = [row.wish for row in session.exec(select(Asked).where(Asked.duty == duty, Asked.flight_id == flight_id))]
    fresh = [wish for wish in wishes if wish not in known]
    for wish in fresh:
        session.add(Asked(duty=duty, flight_id=flight_id, wish=wish, total=len(known) + len(fresh)))
    session.flush()
    return len(fresh)


def asked_of(session: Session, duty: str) -> list[Due]:
    """What was asked for and is not done, oldest first."""
    rows = session.exec(select(Asked).where(Asked.duty == duty).order_by(col(Asked.id))).all()
    return [Due(duty, row.id or 0, row.flight_id) for row in rows]


def by_whom(ws: Workspace, due: Due) -> str:
    """The browser that asked for a piece of work: what comes of it is its own to take back."""
    with ws.reading() as session:
        row = session.get(Asked, due.ident)
        return row.by if row is not None else ""


def done(session: Session, due: Due) -> bool:
    """Note that a piece of work is done; False where it is not asked for any more."""
    row = session.get(Asked, due.ident)
    if row is None:
        return False
    session.delete(row)
    session.flush()
    return True


def stop_making(ws: Workspace, flight_id: int) -> None:
    """Ask for no more takes of a flight; what was made stays."""
    with ws.writing() as session:
        session.exec(delete(Asked).where(col(Asked.flight_id) == flight_id, col(Asked.duty).in_(MAKING)))
    ws.changed("Stop making takes")
