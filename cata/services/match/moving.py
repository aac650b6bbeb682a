"""What moves by itself: due when a flight is checked; kept among the readings of its takes."""

from __future__ import annotations

from sqlmodel import Session, col, delete, select

from cata.core.measure.of_flights import MOTION as READING
from cata.core.measure.results import Result, Results, as_kept
from cata.core.motion.told import BY_MOTION
from cata.services.flights.rows import tests_of
from cata.services.match.audits import OF_MOTION, due_of, is_stale, to_compare
from cata.services.match.lags import lags_of
from cata.services.match.worst import to_play_again
from cata.services.plan.setups import turns_knobs
from cata.services.takes.rows import placed_takes
from cata.services.workspace import Workspace
from cata.store.tables import Audited, Contender, Reading, Take
from cata.tasks import motion as tasks
from cata.tasks.shape import Due, Duty


def _followed(session: Session, flight_id: int) -> list[tuple[Take, Contender, float]]:
    """The takes that can be held against others of their test: lined up, and not spoilt by more than motion does."""
    spoilt = to_play_again(session, flight_id, but=BY_MOTION)
    tests = [test for test in tests_of(session, flight_id) if not turns_knobs(test)]
    placed = [pair for test in tests for pair in placed_takes(session, test.id or 0)]
    lags = lags_of(session, [take.id or 0 for take, _ in placed])
    return [
        (take, contender, lined_up.lag_s)
        for take, contender in placed
        if (lined_up := lags.get(take.id or 0)) is not None and lined_up.lag_s is not None
        if take.id not in spoilt
    ]


def _payload(ws: Workspace, session: Session, due: Due) -> tuple[tasks.ToFollow, ...]:
    return tuple(
        tasks.ToFollow(
            take.id or 0,
            to_compare(ws, take, contender.name, Results()),
            contender.id or 0,
            take.test_id or 0,
            contender.is_bypass,
            lag,
        )
        for take, contender, lag in _followed(session, due.ident)
    )


def _keep(ws: Workspace, due: Due, found: dict[int, Result]) -> None:
    with ws.writing() as session:
        if not is_stale(session, due):
            return
        key = READING.key
        mine = select(Take.id).where(Take.flight_id == due.ident)
        session.exec(delete(Reading).where(col(Reading.take_id).in_(mine), col(Reading.key) == key))
        # Whoever kept a take, or lined it up by hand meanwhile, changed none of what was found of the others.
        for take_id in session.exec(mine.where(col(Take.id).in_(found))).all():
            kept = as_kept(Results({key: found[take_id or 0]}))[key]
            session.add(Reading(take_id=take_id or 0, key=key, version=READING.version, result=kept))
        session.merge(Audited(scope=f"{OF_MOTION}:{due.ident}", flight_id=due.flight_id, state=due.state))


MOTION = Duty(OF_MOTION, tasks.MOTION, due_of(OF_MOTION), _payload, _keep)
