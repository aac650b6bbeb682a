"""Audits: which are due, and how fresh findings replace stale ones. They can always be done again."""

from __future__ import annotations

import hashlib
import json
from collections import defaultdict
from collections.abc import Mapping, Sequence
from typing import Any

from sqlmodel import Session, col, delete, select

from cata.core.match.audit import TestAudit
from cata.core.match.evidence import Source
from cata.core.match.finding import Finding as Found
from cata.core.match.pair import PairMatch
from cata.core.measure.of_flights import FLIGHT_READINGS, STROKES
from cata.core.measure.registry import METHOD
from cata.core.measure.results import Result, Results, as_kept
from cata.core.versioned import version_of
from cata.services.flights.rows import contenders_of, tests_of
from cata.services.plan.setups import turns_knobs
from cata.services.takes.analysis import waiting_flights
from cata.services.takes.rows import placed_takes, readings_of
from cata.services.workspace import Workspace
from cata.store.tables import Alignment, Analysed, Audited, Contender, Failure, Finding, Flight, Reading, Take, Test
from cata.tasks import audits as tasks
from cata.tasks.shape import Due, Duty

RULES, DRIVE = ("cata.core.match", "cata.core.drive.grain"), ("cata.core.drive",)
MOTION = ("cata.core.motion",)
OF_TEST, OF_FLIGHT, OF_MOTION, OF_DRIVE = "test", "flight", "motion", "drive"
NEEDS = {OF_TEST: (), OF_FLIGHT: (OF_TEST,), OF_MOTION: (OF_TEST, OF_FLIGHT), OF_DRIVE: (OF_TEST, OF_FLIGHT, OF_MOTION)}


def _state(parts: Any) -> str:
    versions = [METHOD, version_of(*RULES), *(one.version for one in FLIGHT_READINGS)]
    return hashlib.sha256(json.dumps([versions, parts]).encode()).hexdigest()[:16]


def stale_audits(session: Session, flight_id: int | None = None) -> list[Due]:
    """Tests, then flights, whose audit does not stand for their present takes, then tests whose drive does not.

    Of one flight, or of all.
    """

    def mine(statement: Any, column: Any) -> Any:
        return statement if flight_id is None else statement.where(column == flight_id)

    audited = session.exec(mine(select(Audited.scope, Audited.state), Audited.flight_id)).all()
    known: dict[str, str] = dict(audited)
    takes: dict[int, list[list[Any]]] = defaultdict(list)
    # Columns, not rows: pages ask for this with every answer.
    who = (Contender.id, Contender.name, Contender.position, Contender.is_bypass)
    wanted: Any = (Take.test_id, Take.id, Take.digest, Take.lead_in_s, *who, Take.repeat)
    statement = (
        select(*wanted)
        .join(Contender, col(Contender.id) == Take.contender_id)
        .join(Analysed, col(Analysed.take_id) == Take.id)
        .where(col(Take.test_id).is_not(None), Analysed.refusal == "")
        .order_by(col(Contender.position), col(Contender.id), col(Take.repeat))
    )
    for test_id, *parts in session.exec(mine(statement, Take.flight_id)).all():
        takes[test_id].append(parts)
    flights: dict[int, list[Any]] = {ident: [] for ident in session.exec(mine(select(Flight.id), Flight.id)).all()}
    due: list[Due] = []
    columns = mine(select(Test).order_by(col(Test.position), col(Test.id)), Test.flight_id)
    for test in session.exec(columns).all():
        parts = takes[test.id or 0]
        flights[test.flight_id].append([test.id, test.name, test.position, parts])
        if known.get(f"{OF_TEST}:{test.id}") != _state(parts):
            due.append(Due(OF_TEST, test.id or 0, test.flight_id, _state(parts)))
    for ident, whole in flights.items():
        state = _state(whole)
        if known.get(f"{OF_FLIGHT}:{ident}") != state:
            due.append(Due(OF_FLIGHT, ident, ident, state))
        # What is to be recorded again, and so no part of it, comes from the audit of the whole flight.
        state = _state([version_of(*MOTION), state])
        if known.get(f"{OF_MOTION}:{ident}") != state:
            due.append(Due(OF_MOTION, ident, ident, state))
        state = _state([version_of(*DRIVE), state])
        for test_id, *_ in whole:
            if known.get(f"{OF_DRIVE}:{test_id}") != state:
                due.append(Due(OF_DRIVE, test_id, ident, state))
    return due


def due_audits(session: Session) -> list[Due]:
    """What can be audited now: tests whose flight has all its readings, then what needs other audits and has them."""
    waiting = waiting_flights(session)
    due = [one for one in stale_audits(session) if one.flight_id not in waiting]
    failed = {(row.duty, row.ident, row.state) for row in session.exec(select(Failure)).all()}
    open_ = {(one.flight_id, one.duty) for one in due if (one.duty, one.ident, one.state) not in failed}
    return [one for one in due if not any((one.flight_id, duty) in open_ for duty in NEEDS[one.duty])]


def due_of(duty: str) -> Any:
    """The due work of one kind."""
    return lambda session: [one for one in due_audits(session) if one.duty == duty]


def audits_current(session: Session, flight_id: int) -> bool:
    """True when nothing of a flight is due for analysis or audit (what failed is not due)."""
    if flight_id in waiting_flights(session):
        return False
    failed = {(row.duty, row.ident, row.state) for row in session.exec(select(Failure)).all()}
    return all((one.duty, one.ident, one.state) in failed for one in stale_audits(session, flight_id))


def takes_of(session: Session, due: Due) -> list[tuple[Take, Contender]]:
    """The takes of a test, those that played a cell again too."""
    return placed_takes(session, due.ident, repeats=True)


def to_compare(ws: Workspace, take: Take, name: str, results: Results) -> tasks.ToCompare:
    """A take as the work on it wants it."""
    source = Source(take.codec, take.lossy, take.rate_hz, take.channels)
    vault, digest = ws.vault, take.digest
    file, copy, features = map(ws.inside, (vault.path(digest), vault.copy_path(digest), vault.features_path(digest)))
    return tasks.ToCompare(name, source, file, copy, features, results)


def _test_payload(ws: Workspace, session: Session, due: Due) -> tasks.TestToAudit:
    takes = takes_of(session, due)
    prefer = next((i for i, (_, contender) in enumerate(takes) if contender.is_bypass), None)
    readings = readings_of(session, [take.id or 0 for take, _ in takes], as_read=True)
    rows = []
    for take, contender in takes:
        name = f"{contender.name} (again, {take.repeat + 1})" if take.repeat else contender.name
        rows.append(to_compare(ws, take, name, readings[take.id or 0]))
    return tasks.TestToAudit(tuple(rows), prefer)


def is_stale(session: Session, due: Due) -> bool:
    """True where the data is still as it was when the work was handed out."""
    return due in stale_audits(session, due.flight_id)


def _keep_test(ws: Workspace, due: Due, audit: TestAudit) -> None:
    with ws.writing() as session:
        if not is_stale(session, due):
            return
        takes = [take.id or 0 for take, _ in takes_of(session, due)]
        session.exec(delete(Finding).where(col(Finding.test_id) == due.ident))
        session.exec(delete(Alignment).where(col(Alignment.take_id).in_(takes)))
        _add_findings(session, due.flight_id, due.ident, takes, audit.findings)
        if audit.reference is not None:
            reference = takes[audit.reference]
            session.add(
                Alignment(take_id=reference, reference_id=reference, lag_s=0.0, exact=True, polarity="same",
                          same_phrase="yes")
            )  # fmt: skip
            session.add_all(_alignments(takes, reference, audit.matches))
        _keep_strokes(session, due.flight_id, takes, audit.strokes)
        session.merge(Audited(scope=f"{OF_TEST}:{due.ident}", flight_id=due.flight_id, state=due.state))


def _keep_strokes(session: Session, flight_id: int, takes: Sequence[int], strokes: Mapping[str, float]) -> None:
    """Among the readings of each take of a test: what the strokes of its phrase leave open."""
    unplaced = select(Take.id).where(Take.flight_id == flight_id, col(Take.test_id).is_(None))
    for whose in (unplaced, takes):
        owner: Any = col(Reading.take_id)
        session.exec(delete(Reading).where(owner.in_(whose), col(Reading.key) == STROKES.key))
    if strokes:
        result = as_kept(Results({STROKES.key: Result(value={**strokes}, version=STROKES.version)}))[STROKES.key]
        session.add_all(
            Reading(take_id=take, key=STROKES.key, version=STROKES.version, result=result) for take in takes
        )


def _alignments(takes: Sequence[int], reference_id: int, matches: Mapping[int, PairMatch]) -> list[Alignment]:
    return [
        Alignment(
            take_id=takes[index],
            reference_id=reference_id,
            lag_s=None if match.lag_ms is None else match.lag_ms / 1000,
            exact=match.lag_exact,
            doubt_s=None if match.lag_doubt_ms is None else match.lag_doubt_ms / 1000,
            polarity=match.polarity,
            tempo_ratio=match.tempo_ratio,
            tuning_cents=match.tuning_difference_cents,
            same_phrase=match.same_phrase,
        )
        for index, match in matches.items()
    ]


def _cells(session: Session, flight_id: int) -> list[tuple[Take, Contender, Test, int, int]]:
    """The takes whose place in the table can be judged: those that no fault of their own has spoilt already."""
    spoilt = set(
        session.exec(
            select(Finding.take_id).where(
                Finding.flight_id == flight_id, Finding.severity == "fault", col(Finding.test_id).is_not(None)
            )
        )
    )
    rows = {contender.id: index for index, contender in enumerate(contenders_of(session, flight_id))}
    return [
        (take, contender, test, rows[contender.id], column)
        for column, test in enumerate(tests_of(session, flight_id))
        if not turns_knobs(test)
        for take, contender in placed_takes(session, test.id or 0)
        if take.id not in spoilt
    ]


def _flight_payload(ws: Workspace, session: Session, due: Due) -> tuple[tasks.Placed, ...]:
    cells = _cells(session, due.ident)
    readings = readings_of(session, [take.id or 0 for take, *_ in cells], ("third_octaves_db", "plr_db"), as_read=True)
    return tuple(
        tasks.Placed(
            row, column, contender.name, test.name, to_compare(ws, take, contender.name, readings[take.id or 0])
        )
        for take, contender, test, row, column in cells
    )


def _keep_flight(ws: Workspace, due: Due, found: list[Found]) -> None:
    with ws.writing() as session:
        if not is_stale(session, due):
            return
        takes = [take.id or 0 for take, *_ in _cells(session, due.ident)]
        session.exec(delete(Finding).where(col(Finding.flight_id) == due.ident, col(Finding.test_id).is_(None)))
        _add_findings(session, due.ident, None, takes, found)
        session.merge(Audited(scope=f"{OF_FLIGHT}:{due.ident}", flight_id=due.ident, state=due.state))


def _add_findings(
    session: Session, flight_id: int, test_id: int | None, takes: Sequence[int], found: Sequence[Found]
) -> None:
    for one in found:
        whole = one.as_json()
        session.add(
            Finding(
                flight_id=flight_id, test_id=test_id, take_id=takes[one.take],
                **{key: whole[key] for key in ("rule", "severity", "text", "advice", "picture", "numbers")},
            )
        )  # fmt: skip


TEST_AUDIT = Duty(OF_TEST, tasks.AUDIT_TEST, due_of(OF_TEST), _test_payload, _keep_test)
FLIGHT_AUDIT = Duty(OF_FLIGHT, tasks.AUDIT_FLIGHT, due_of(OF_FLIGHT), _flight_payload, _keep_flight)
