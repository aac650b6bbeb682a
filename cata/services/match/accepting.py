"""Findings that a person looked at."""

from __future__ import annotations

from sqlmodel import select

from cata.services.workspace import Workspace, require
from cata.store.tables import Accepted, Take


def accept_finding(ws: Workspace, take_id: int, rule: str, accepted: bool) -> None:
    """Say that a finding was looked at and the take is kept, or take that back."""
    with ws.acting("Accept a finding" if accepted else "Open a finding again") as session:
        require(session, Take, take_id)
        row = session.exec(select(Accepted).where(Accepted.take_id == take_id, Accepted.rule == rule)).first()
        if accepted and row is None:
            session.add(Accepted(take_id=take_id, rule=rule))
        elif not accepted and row is not None:
            session.delete(row)
