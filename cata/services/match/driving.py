"""Equivalent drive: due when a flight is checked; kept among the readings of its takes."""

from __future__ import annotations

from typing import Any

from sqlmodel import Session, col, delete, select

from cata.core.measure.of_flights import EQUIVALENT_DRIVE, MOTION
from cata.core.measure.results import Result, Results, as_kept
from cata.core.motion.told import does
from cata.services.match.audits import OF_DRIVE, due_of, is_stale, takes_of, to_compare
from cata.services.match.worst import worst_findings
from cata.services.takes.rows import readings_of
from cata.services.workspace import Workspace
from cata.store.tables import Alignment, Audited, Flight, Reading, Take
from cata.tasks import drives as tasks
from cata.tasks.shape import Due, Duty

BEFORE_THE_SIGNAL = ("pickup", "guitar", "strings")
"""Where these are compared, takes may agree to the sample and yet not be made of one dry signal."""


def _payload(ws: Workspace, session: Session, due: Due) -> tuple[tasks.ToDrive, ...]:
    takes = takes_of(session, due)
    idents = [take.id or 0 for take, _ in takes]
    readings = readings_of(session, idents, (MOTION.key, "plr_db"), as_read=True)
    worst = worst_findings(session, due.flight_id)
    lags: dict[int, float | None] = {}
    if session.get_one(Flight, due.flight_id).link not in BEFORE_THE_SIGNAL:
        exact = select(Alignment.take_id, Alignment.lag_s).where(col(Alignment.take_id).in_(idents), Alignment.exact)
        lags = dict(session.exec(exact).all())
    return tuple(
        tasks.ToDrive(
            to_compare(ws, take, contender.name, readings[take.id or 0]),
            contender.is_bypass,
            # What moves fills its spectrum without any drive: no foot to stand on.
            worst.get(take.id or 0) == "fault" or bool(does(readings[take.id or 0])),
            lags.get(take.id or 0),
        )
        for take, contender in takes
    )


def _keep(ws: Workspace, due: Due, found: list[Result]) -> None:
    with ws.writing() as session:
        if not is_stale(session, due):
            return
        takes = takes_of(session, due)
        unplaced = select(Take.id).where(Take.flight_id == due.flight_id, col(Take.test_id).is_(None))
        key = EQUIVALENT_DRIVE.key
        for whose in (unplaced, [take.id for take, _ in takes]):
            owner: Any = col(Reading.take_id)
            session.exec(delete(Reading).where(owner.in_(whose), col(Reading.key) == key))
        for (take, _), one in zip(takes, found, strict=True):
            kept = as_kept(Results({key: one}))[key]
            session.add(Reading(take_id=take.id or 0, key=key, version=one.version, result=kept))
        session.merge(Audited(scope=f"{OF_DRIVE}:{due.ident}", flight_id=due.flight_id, state=due.state))


DRIVE = Duty(OF_DRIVE, tasks.DRIVE, due_of(OF_DRIVE), _payload, _keep)
