"""The analysis of takes: which are due, and how fresh readings replace stale ones. It can always be done again."""

from __future__ import annotations

from typing import Any

from sqlmodel import Session, col, delete, select

from cata.core.measure.registry import METHOD, READINGS
from cata.core.measure.results import as_kept
from cata.errors import CataError
from cata.services.workspace import Workspace
from cata.store.tables import Analysed, Failure, Reading, Take
from cata.tasks import takes as tasks
from cata.tasks.shape import Due, Duty

DUTY = "take"


def _stale() -> Any:
    return (
        (col(Analysed.method).is_(None))
        | (col(Analysed.method) != METHOD)
        | (col(Analysed.lead_in_s) != col(Take.lead_in_s))
    )


def state_of(digest: str, lead_in_s: float) -> str:
    """What the readings of a take depend on."""
    return f"{METHOD}/{digest}/{lead_in_s:g}"


def due_takes(session: Session) -> list[Due]:
    """The takes without current readings, oldest first."""
    statement = (
        select(Take.id, Take.flight_id, Take.digest, Take.lead_in_s)
        .join(Analysed, col(Analysed.take_id) == Take.id, isouter=True)
        .where(_stale())
        .order_by(col(Take.id))
    )
    rows = session.exec(statement).all()
    return [Due(DUTY, ident or 0, flight, state_of(digest, lead)) for ident, flight, digest, lead in rows]


def waiting_flights(session: Session) -> dict[int, int]:
    """How many takes of each flight wait for their readings; those that failed do not wait."""
    failed = select(Failure.ident).where(Failure.duty == DUTY)
    statement = (
        select(Take.flight_id)
        .join(Analysed, col(Analysed.take_id) == Take.id, isouter=True)
        .where(_stale(), col(Take.id).not_in(failed))
    )
    found: dict[int, int] = {}
    for flight in session.exec(statement).all():
        found[flight] = found.get(flight, 0) + 1
    return found


def _changed(ws: Workspace, session: Session, take: Take) -> tuple[str, ...] | None:
    """The readings whose methods changed since a take was read; None where all of it is to be read."""
    known = session.get(Analysed, take.id)
    if known is None or known.refusal or known.lead_in_s != take.lead_in_s:
        return None
    if not ws.vault.copy_path(take.digest).exists():
        return None
    rows = session.exec(select(Reading.key, Reading.version).where(Reading.take_id == take.id)).all()
    versions = dict(rows)
    return tuple(reading.key for reading in READINGS if versions.get(reading.key) != reading.version)


def _payload(ws: Workspace, session: Session, due: Due) -> tasks.ToAnalyse:
    take = session.get_one(Take, due.ident)
    vault, digest = ws.vault, take.digest
    file, copy, features = map(ws.inside, (vault.path(digest), vault.copy_path(digest), vault.features_path(digest)))
    return tasks.ToAnalyse(file, copy, features, take.lead_in_s, _changed(ws, session, take))


def _keep(ws: Workspace, due: Due, found: tasks.Analysed) -> None:
    with ws.writing() as session:
        take = session.get(Take, due.ident)
        if take is None or state_of(take.digest, take.lead_in_s) != due.state:
            return
        if found.drawn is not None:
            _replace(session, take, Analysed(take_id=due.ident, method=METHOD, lead_in_s=take.lead_in_s,
                                             **vars(found.drawn)))  # fmt: skip
        else:
            session.get_one(Analysed, due.ident).method = METHOD
            mine = col(Reading.take_id) == take.id
            session.exec(delete(Reading).where(mine, col(Reading.key).in_(found.results)))
        for key, kept in as_kept(found.results).items():
            version = found.results[key].version
            session.add(Reading(take_id=due.ident, key=key, version=version, result=kept))


def _refuse(ws: Workspace, due: Due, error: CataError) -> None:
    with ws.writing() as session:
        take = session.get(Take, due.ident)
        if take is not None and state_of(take.digest, take.lead_in_s) == due.state:
            row = Analysed(take_id=due.ident, method=METHOD, lead_in_s=take.lead_in_s, refusal=error.message)
            _replace(session, take, row)


def _replace(session: Session, take: Take, row: Analysed) -> None:
    session.exec(delete(Reading).where(col(Reading.take_id) == take.id))
    session.merge(row)


ANALYSIS = Duty(DUTY, tasks.ANALYSE, due_takes, _payload, _keep, _refuse)
