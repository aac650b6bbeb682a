"""How a flight stands: its table, its takes, and what is next."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy import func, or_
from sqlalchemy.orm import defer
from sqlmodel import Session, col, select

from cata.core.measure.registry import METHOD
from cata.services.capture.asking import MAKING
from cata.services.flights.rows import tests_of
from cata.services.flights.showing import contender_views, test_view
from cata.services.flights.views import (
    FailureView,
    FlightSummary,
    FlightView,
    MakingView,
    ProgressView,
    ProposalView,
    TakeState,
    TakeView,
)
from cata.services.match.audits import audits_current
from cata.services.match.worst import worst_findings
from cata.services.standing.steps import Standing, next_thing, steps_of
from cata.services.takes import analysis
from cata.services.takes.proposing import Proposal, proposals
from cata.services.takes.rows import failures_of
from cata.services.words import MOST_WORDS
from cata.services.workspace import Workspace, require
from cata.store.tables import Analysed, Asked, Contender, Flight, Take, Test


def _take(
    take: Take,
    analysed: Analysed | None,
    worst: dict[int, str],
    proposed: Mapping[int, Proposal],
    failed: Mapping[int, FailureView],
) -> TakeView:
    current = analysed is not None and analysed.method == METHOD and analysed.lead_in_s == take.lead_in_s
    refusal = analysed.refusal if analysed else ""
    failure = failed.get(take.id or 0) if not current else None
    proposal = proposed.get(take.id or 0)
    return TakeView(
        id=take.id or 0,
        contender_id=take.contender_id,
        test_id=take.test_id,
        repeat=take.repeat,
        aside=take.aside,
        filename=take.filename,
        duration_s=take.duration_s,
        rate_hz=take.rate_hz,
        channels=take.channels,
        codec=take.codec,
        lossy=take.lossy,
        notes=take.notes,
        state="failed" if failure else "refused" if refusal else "ready" if current else "waiting",
        refusal=failure.text if failure else refusal,
        worst=worst.get(take.id or 0, ""),
        proposal=proposal_view(proposal) if proposal else None,
    )


def proposal_view(proposal: Proposal) -> ProposalView:
    """A proposal as pages show it."""
    return ProposalView(
        take_id=proposal.take_id,
        contender_id=proposal.contender_id,
        test_id=proposal.test_id,
        repeat=proposal.repeat,
        confidence=proposal.confidence,
        why=proposal.why.words if proposal.why else "",
        code=proposal.why.code if proposal.why else "",
        replaces=proposal.replaces,
    )


def _takes(session: Session, flight_id: int) -> list[tuple[Take, Analysed | None]]:
    statement = (
        select(Take, Analysed)
        .join(Analysed, col(Analysed.take_id) == Take.id, isouter=True)
        .where(Take.flight_id == flight_id)
        .order_by(col(Take.id))
        .options(*(defer(getattr(Analysed, name)) for name in ("outline", "spectrum")))  # long: only pictures need them
    )
    return [(take, analysed) for take, analysed in session.exec(statement).all()]


@dataclass(frozen=True)
class Stand:
    """Of a take only what the steps need: its cell (None while unplaced), its repeat, its state, its worst finding."""

    cell: tuple[int | None, int] | None
    aside: bool
    repeat: int
    state: TakeState
    worst: str


def _stand(take: TakeView) -> Stand:
    cell = None if take.test_id is None else (take.contender_id, take.test_id)
    return Stand(cell, take.aside, take.repeat, take.state, take.worst)


def _standing(contenders: int, tests: int, takes: list[Stand], auditing: bool) -> Standing:
    worst = [take.worst for take in takes if take.cell is not None]
    return Standing(
        contenders=contenders,
        tests=tests,
        filled=len({take.cell for take in takes if take.cell is not None and take.repeat == 0}),
        loose=sum(take.cell is None and not take.aside for take in takes),
        waiting=sum(take.state == "waiting" for take in takes),
        faults=worst.count("fault"),
        checks=worst.count("check"),
        auditing=auditing,
    )


def get_flight(ws: Workspace, flight_id: int, *, paused: bool = False) -> FlightView:
    """A whole flight."""
    with ws.reading() as session:
        flight = require(session, Flight, flight_id)
        worst = worst_findings(session, flight_id)
        proposed = proposals(session, flight_id)
        failures = failures_of(session, flight_id)
        failed = {one.ident: one for one in failures if one.duty == analysis.DUTY}
        takes = [_take(take, analysed, worst, proposed, failed) for take, analysed in _takes(session, flight_id)]
        contenders = contender_views(session, flight_id)
        tests = [test_view(test) for test in tests_of(session, flight_id)]
        waiting = sum(take.state == "waiting" for take in takes)
        auditing = not waiting and bool(takes) and not audits_current(session, flight_id)
        standing = _standing(len(contenders), len(tests), [_stand(take) for take in takes], auditing)
        asked = session.exec(select(Asked).where(Asked.flight_id == flight_id)).all()
        todo, step = next_thing(standing)
        return FlightView(
            id=flight_id,
            name=flight.name,
            question=flight.question,
            link=flight.link,
            held=flight.held,
            school=flight.school,
            brief_id=flight.brief_id,
            contenders=contenders,
            tests=tests,
            takes=takes,
            steps=steps_of(standing),
            next_text=todo.words,
            next_code=todo.code,
            next_step=step,
            progress=ProgressView(
                done=len(takes) - waiting, total=len(takes), paused=paused and waiting > 0, auditing=auditing
            ),
            making=_making(asked),
            failures=failures,
        )


def _making(asked: Sequence[Asked]) -> MakingView | None:
    """Takes that somebody asked for and that are being made."""
    takes = [row for row in asked if row.duty in MAKING]
    return MakingView(left=len(takes), total=max(row.total for row in takes)) if takes else None


def _holding(statement: Any, query: str) -> Any:
    """Flights with all these words in their name or question."""
    places = (col(Flight.name), col(Flight.question))
    for word in query.split()[:MOST_WORDS]:
        statement = statement.where(or_(*(place.ilike(f"%{word}%") for place in places)))
    return statement


def count_flights(ws: Workspace, query: str = "") -> int:
    """How many flights there are with these words."""
    with ws.reading() as session:
        return int(session.exec(_holding(select(func.count(col(Flight.id))), query)).one())


def list_flights(ws: Workspace, query: str = "", *, limit: int = 200, offset: int = 0) -> list[FlightSummary]:
    """Flights, newest first, each with where it stands; a handful of queries however many there are."""
    key = ("flights", query, limit, offset)
    return ws.answers.remember_as_of(key, ws.revision(), lambda: _listed(ws, query, limit, offset))


def _listed(ws: Workspace, query: str, limit: int, offset: int) -> list[FlightSummary]:
    with ws.reading() as session:
        newest = _holding(select(Flight), query).order_by(col(Flight.id).desc())
        flights = session.exec(newest.limit(limit).offset(offset)).all()
        idents = [flight.id for flight in flights]
        rows: dict[int, int] = defaultdict(int)
        columns: dict[int, int] = defaultdict(int)
        for flight_id in session.exec(select(Contender.flight_id).where(col(Contender.flight_id).in_(idents))).all():
            rows[flight_id] += 1
        for flight_id in session.exec(select(Test.flight_id).where(col(Test.flight_id).in_(idents))).all():
            columns[flight_id] += 1
        takes = _light_takes(session, [ident or 0 for ident in idents])
        return [_summary(flight, rows, columns, takes[flight.id or 0]) for flight in flights]


def _light_takes(session: Session, flights: list[int]) -> dict[int, list[Stand]]:
    """Takes of several flights with only what a summary needs."""
    worst = worst_findings(session, *flights)
    wanted: Any = (Take.id, Take.flight_id, Take.contender_id, Take.test_id, Take.aside, Take.repeat, Analysed.method)
    statement = (
        select(*wanted)
        .join(Analysed, col(Analysed.take_id) == Take.id, isouter=True)
        .where(col(Take.flight_id).in_(flights))
    )
    found: dict[int, list[Stand]] = defaultdict(list)
    for take_id, flight_id, contender_id, test_id, aside, repeat, method in session.exec(statement).all():
        cell = None if test_id is None else (contender_id, test_id)
        state: TakeState = "ready" if method == METHOD else "waiting"
        found[flight_id].append(Stand(cell, aside, repeat, state, worst.get(take_id or 0, "")))
    return found


def _summary(flight: Flight, rows: dict[int, int], columns: dict[int, int], takes: list[Stand]) -> FlightSummary:
    ident = flight.id or 0
    standing = _standing(rows[ident], columns[ident], takes, auditing=False)
    todo, step = next_thing(standing)
    return FlightSummary(
        id=ident,
        name=flight.name,
        question=flight.question,
        link=flight.link,
        brief_id=flight.brief_id,
        contenders=standing.contenders,
        tests=standing.tests,
        takes=len(takes),
        cells=standing.cells,
        faults=standing.faults,
        next_text=todo.words,
        next_code=todo.code,
        next_step=step,
        steps=steps_of(standing),
    )
