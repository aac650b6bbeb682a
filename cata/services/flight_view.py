"""How a flight stands: its table, its steps, and the next useful thing to do."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from sqlalchemy import func
from sqlalchemy.orm import defer
from sqlmodel import Session, col, select

from cata.core.gear import Control, show_position
from cata.core.measure.registry import METHOD
from cata.core.money import show_price
from cata.services.derived import audits_current, tests_of
from cata.services.flights import contenders_of
from cata.services.gear import best_price, prices_of
from cata.services.takes import Proposal, proposer
from cata.services.views import (
    ContenderView,
    FlightSummary,
    FlightView,
    ProgressView,
    ProposalView,
    SettingView,
    StepState,
    StepView,
    TakeState,
    TakeView,
    TestView,
)
from cata.services.workspace import Workspace, require
from cata.store.tables import Accepted, Analysed, Contender, Finding, Flight, Gear, Price, Take, Test

LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmn"
SEVERITIES = ("fault", "check", "note")


@dataclass(frozen=True)
class Standing:
    """The counts from which the steps follow."""

    contenders: int
    tests: int
    filled: int
    loose: int
    waiting: int
    faults: int
    checks: int
    auditing: bool

    @property
    def cells(self) -> int:
        """Cells of the table."""
        return self.contenders * self.tests


def plural(count: int, word: str) -> str:
    """A count with its noun."""
    return f"{count} {word}" if count == 1 else f"{count} {word}s"


def steps_of(standing: Standing) -> list[StepView]:
    """The way through a flight: each step with its state and what is open there."""
    s = standing
    planned = s.contenders >= 2 and s.tests >= 1
    complete = planned and s.filled == s.cells
    analysed = s.filled > 0 and s.waiting == 0 and not s.auditing
    plan: tuple[StepState, str] = (
        ("done", f"{s.contenders} x {s.tests}") if planned else ("open", "two contenders, one test")
    )
    if not planned and not s.filled:
        takes: tuple[StepState, str] = ("todo", "drop recordings")
    elif complete and not s.loose:
        takes = ("done", plural(s.filled, "take"))
    else:
        missing = s.cells - s.filled
        takes = ("open", f"{missing} missing" if missing else f"{s.loose} not placed")
    if not s.filled:
        match: tuple[StepState, str] = ("todo", "nothing to check yet")
    elif s.faults or s.checks:
        match = ("open", f"{s.faults} to redo" if s.faults else f"{s.checks} to look at")
    else:
        match = ("done", "matched") if analysed else ("todo", "checking")
    later: StepState = "done" if analysed else "todo"
    return [
        StepView(key="plan", label="Plan", state=plan[0], text=plan[1]),
        StepView(key="takes", label="Takes", state=takes[0], text=takes[1]),
        StepView(key="match", label="Match", state=match[0], text=match[1]),
        StepView(key="listen", label="Listen", state=later, text="in sync" if analysed else "when takes are ready"),
        StepView(key="readings", label="Readings", state=later, text="ready" if analysed else "when takes are ready"),
    ]


def next_thing(standing: Standing) -> tuple[str, str]:
    """The next useful thing to do, and the step where it is done."""
    s = standing
    if s.contenders == 0 and s.filled == 0 and s.loose == 0:
        return "Drop your recordings, or name the contenders", "takes"
    if s.loose:
        return f"{plural(s.loose, 'recording')} to place", "takes"
    if s.contenders < 2:
        return "Add a second contender", "plan"
    if s.tests < 1:
        return "Add a test", "plan"
    if s.filled < s.cells:
        return f"{plural(s.cells - s.filled, 'take')} to record", "takes"
    if s.waiting or s.auditing:
        return "Takes are being read", "match"
    if s.faults:
        return f"{plural(s.faults, 'take')} to redo", "match"
    if s.checks:
        return f"{plural(s.checks, 'finding')} to look at", "match"
    return "Listen, then look at the readings", "listen"


def worst_findings(session: Session, *flights: int) -> dict[int, str]:
    """The worst severity of each take's findings that nobody accepted (notes left out)."""
    accepted = set(session.exec(select(Accepted.take_id, Accepted.rule)).all())
    worst: dict[int, str] = {}
    # Without their pictures, which are most of a finding.
    found = select(Finding.take_id, Finding.rule, Finding.severity).where(
        col(Finding.flight_id).in_(flights), Finding.severity != "note"
    )
    for take_id, rule, severity in session.exec(found).all():
        if (take_id, rule) not in accepted and worst.get(take_id) != "fault":
            worst[take_id] = severity
    return worst


def _contender(contender: Contender, index: int, gear: Gear | None, prices: list[Price]) -> ContenderView:
    price, currency, own = contender.price_minor, contender.currency, contender.price_minor is not None
    best = best_price(prices) if price is None else None
    if best is not None:
        price, currency = best.price_minor, best.currency
    controls = [Control.model_validate(c) for c in gear.controls] if gear else []
    return ContenderView(
        id=contender.id or 0,
        name=contender.name,
        letter=LETTERS[index % len(LETTERS)],
        colour=contender.colour,
        position=contender.position,
        is_bypass=contender.is_bypass,
        gear_id=contender.gear_id,
        price_minor=price,
        own_price=own,
        currency=currency,
        price_text=show_price(price, currency) if price is not None else "",
        settings=[_setting(control, contender.settings.get(control.key, control.default)) for control in controls],
    )


def _setting(control: Control, position: float) -> SettingView:
    return SettingView(
        key=control.key,
        name=control.name,
        text=show_position(control, position),
        position=position,
        scale=control.scale,
        labels=control.labels,
    )


def contender_views(session: Session, flight_id: int) -> list[ContenderView]:
    """The rows of a flight with letters, prices and knobs."""
    rows = contenders_of(session, flight_id)
    wanted = {row.gear_id for row in rows if row.gear_id is not None}
    items = {item.id or 0: item for item in session.exec(select(Gear).where(col(Gear.id).in_(wanted))).all()}
    prices = prices_of(session, items)
    return [
        _contender(row, index, items.get(row.gear_id or 0), prices.get(row.gear_id or 0, []))
        for index, row in enumerate(rows)
    ]


def test_view(test: Test) -> TestView:
    """A column."""
    return TestView(id=test.id or 0, name=test.name, position=test.position, sound=test.sound, about=test.about)


def _take(
    take: Take, analysed: Analysed | None, worst: dict[int, str], propose: Callable[[Take], Proposal]
) -> TakeView:
    current = analysed is not None and analysed.method == METHOD and analysed.lead_in_s == take.lead_in_s
    refusal = analysed.refusal if analysed else ""
    proposal = None
    if take.test_id is None:
        contender, test, confidence = propose(take)
        proposal = ProposalView(contender_id=contender, test_id=test, confidence=confidence)
    return TakeView(
        id=take.id or 0,
        contender_id=take.contender_id,
        test_id=take.test_id,
        repeat=take.repeat,
        filename=take.filename,
        duration_s=take.duration_s,
        rate_hz=take.rate_hz,
        channels=take.channels,
        codec=take.codec,
        lossy=take.lossy,
        notes=take.notes,
        state="refused" if refusal else "ready" if current else "waiting",
        refusal=refusal,
        worst=worst.get(take.id or 0, ""),
        proposal=proposal,
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
    repeat: int
    state: TakeState
    worst: str


def _stand(take: TakeView) -> Stand:
    cell = None if take.test_id is None else (take.contender_id, take.test_id)
    return Stand(cell, take.repeat, take.state, take.worst)


def _standing(contenders: int, tests: int, takes: list[Stand], auditing: bool) -> Standing:
    worst = [take.worst for take in takes if take.cell is not None]
    return Standing(
        contenders=contenders,
        tests=tests,
        filled=len({take.cell for take in takes if take.cell is not None and take.repeat == 0}),
        loose=sum(take.cell is None for take in takes),
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
        propose = proposer(session, flight_id)
        takes = [_take(take, analysed, worst, propose) for take, analysed in _takes(session, flight_id)]
        contenders = contender_views(session, flight_id)
        tests = [test_view(test) for test in tests_of(session, flight_id)]
        waiting = sum(take.state == "waiting" for take in takes)
        auditing = not waiting and bool(takes) and not audits_current(session, flight_id)
        standing = _standing(len(contenders), len(tests), [_stand(take) for take in takes], auditing)
        text, step = next_thing(standing)
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
            next_text=text,
            next_step=step,
            progress=ProgressView(
                done=len(takes) - waiting, total=len(takes), paused=paused and waiting > 0, auditing=auditing
            ),
        )


def count_flights(ws: Workspace) -> int:
    """How many flights there are."""
    with ws.reading() as session:
        return session.exec(select(func.count(col(Flight.id)))).one()


def list_flights(ws: Workspace, *, limit: int = 200, offset: int = 0) -> list[FlightSummary]:
    """Flights, newest first, each with where it stands; a handful of queries however many there are."""
    with ws.reading() as session:
        flights = session.exec(select(Flight).order_by(col(Flight.id).desc()).limit(limit).offset(offset)).all()
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
    wanted: Any = (Take.id, Take.flight_id, Take.contender_id, Take.test_id, Take.repeat, Analysed.method)
    statement = (
        select(*wanted)
        .join(Analysed, col(Analysed.take_id) == Take.id, isouter=True)
        .where(col(Take.flight_id).in_(flights))
    )
    found: dict[int, list[Stand]] = defaultdict(list)
    for take_id, flight_id, contender_id, test_id, repeat, method in session.exec(statement).all():
        cell = None if test_id is None else (contender_id, test_id)
        state: TakeState = "ready" if method == METHOD else "waiting"
        found[flight_id].append(Stand(cell, repeat, state, worst.get(take_id or 0, "")))
    return found


def _summary(flight: Flight, rows: dict[int, int], columns: dict[int, int], takes: list[Stand]) -> FlightSummary:
    ident = flight.id or 0
    standing = _standing(rows[ident], columns[ident], takes, auditing=False)
    text, step = next_thing(standing)
    return FlightSummary(
        id=ident,
        name=flight.name,
        question=flight.question,
        link=flight.link,
        contenders=standing.contenders,
        tests=standing.tests,
        takes=len(takes),
        cells=standing.cells,
        faults=standing.faults,
        next_text=text,
        next_step=step,
        steps=steps_of(standing),
    )
