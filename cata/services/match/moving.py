"""What moves by itself: due when a flight is checked; kept among the readings of its takes."""

from __future__ import annotations

from sqlmodel import Session, col, delete, select

from cata.core.measure.of_flights import MOTION as READING
from cata.core.measure.results import Result, Results, as_kept
from cata.services.flights.rows import tests_of
from cata.services.match.audits import OF_MOTION, due_of, is_stale, to_compare
from cata.services.match.worst import worst_findings
from cata.services.plan.setups import turns_knobs
from cata.services.takes.rows import placed_takes
from cata.services.workspace import Workspace
from cata.store.tables import Alignment, Audited, Contender, Reading, Take
from cata.tasks import motion as tasks
from cata.tasks.shape import Due, Duty


def _followed(session: Session, flight_id: int) -> list[tuple[Take, Contender, float]]:
    """The takes that can be held against others of their test: lined up, and not to be recorded again."""
    worst = worst_findings(session, flight_id)
    lags = dict(session.exec(select(Alignment.take_id, Alignment.lag_s)).all())
    found = []
    for test in tests_of(session, flight_id):
        if turns_knobs(test):
            continue
        for take, contender in placed_takes(session, test.id or 0):
            lag = lags.get(take.id or 0)
            if lag is not None and worst.get(take.id or 0) != "fault":
                found.append((take, contender, lag))
    return found


def _payload(ws: Workspace, session: Session, due: Due) -> tuple[tasks.ToFollow, ...]:
    return tuple(
        tasks.ToFollow(
            to_compare(ws, take, contender.name, Results()),
            contender.id or 0,
            take.test_id or 0,
            contender.is_bypass,
            lag,
        )
        for take, contender, lag in _followed(session, due.ident)
    )


def _keep(ws: Workspace, due: Due, found: list[Result]) -> None:
    with ws.writing() as session:
        if not is_stale(session, due):
            return
        key = READING.key
        mine = select(Take.id).where(Take.flight_id == due.ident)
        session.exec(delete(Reading).where(col(Reading.take_id).in_(mine), col(Reading.key) == key))
        for (take, _, _), one in zip(_followed(session, due.ident), found, strict=True):
            kept = as_kept(Results({key: one}))[key]
            session.add(Reading(take_id=take.id or 0, key=key, version=one.version, result=kept))
        session.merge(Audited(scope=f"{OF_MOTION}:{due.ident}", flight_id=due.flight_id, state=due.state))


MOTION = Duty(OF_MOTION, tasks.MOTION, due_of(OF_MOTION), _payload, _keep)
