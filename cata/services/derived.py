"""Derived rows: which are due, and how fresh ones replace them. They can always be computed again."""

from __future__ import annotations

import hashlib
import json
from collections import defaultdict
from collections.abc import Iterable
from typing import Any

from sqlmodel import Session, col, delete, select

from cata.core.measure.registry import BY_KEY, METHOD
from cata.store.tables import Alignment, Analysed, Audited, Contender, Finding, Flight, Reading, Take, Test

AUDIT_VERSION = "3"


def tests_of(session: Session, flight_id: int) -> list[Test]:
    """The tests of a flight in order."""
    return list(
        session.exec(select(Test).where(Test.flight_id == flight_id).order_by(col(Test.position), col(Test.id)))
    )


def placed_takes(session: Session, test_id: int, *, repeats: bool = False) -> list[tuple[Take, Contender]]:
    """The usable takes of a test with their contenders, in the contenders' order.

    The take that counts for each cell; with ``repeats`` also those that played a cell again.
    """
    statement = (
        select(Take, Contender)
        .join(Contender, col(Contender.id) == Take.contender_id)
        .join(Analysed, col(Analysed.take_id) == Take.id)
        .where(Take.test_id == test_id, Analysed.refusal == "")
        .order_by(col(Contender.position), col(Contender.id), col(Take.repeat))
    )
    if not repeats:
        statement = statement.where(Take.repeat == 0)
    return [(take, contender) for take, contender in session.exec(statement).all()]


def readings_of(session: Session, takes: Iterable[int], keys: Iterable[str] = ()) -> dict[int, dict[str, Reading]]:
    """The stored readings of some takes by key; of these keys only, or of all. One question for all of them."""
    found: dict[int, dict[str, Reading]] = {take: {} for take in takes}
    statement = select(Reading).where(col(Reading.take_id).in_(found))
    if wanted := list(keys):
        statement = statement.where(col(Reading.key).in_(wanted))
    for row in session.exec(statement).all():
        found[row.take_id][row.key] = row
    return found


def _state(parts: Any) -> str:
    return hashlib.sha256(json.dumps([METHOD, AUDIT_VERSION, parts]).encode()).hexdigest()[:16]


def due_takes(session: Session, flight_id: int | None = None) -> list[tuple[int, int]]:
    """(take, flight) of the takes without current readings, oldest first; of one flight, or of all."""
    statement = (
        select(Take.id, Take.flight_id)
        .join(Analysed, col(Analysed.take_id) == Take.id, isouter=True)
        .where(
            (col(Analysed.method).is_(None))
            | (col(Analysed.method) != METHOD)
            | (col(Analysed.lead_in_s) != col(Take.lead_in_s))
        )
        .order_by(col(Take.id))
    )
    if flight_id is not None:
        statement = statement.where(Take.flight_id == flight_id)
    return [(take or 0, flight) for take, flight in session.exec(statement).all()]


def due_audits(session: Session, flight_id: int | None = None) -> list[tuple[str, int, int, str]]:
    """(kind, id, flight, state) of tests, then flights, whose audit does not stand for their present takes.

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
    due: list[tuple[str, int, int, str]] = []
    columns = mine(select(Test).order_by(col(Test.position), col(Test.id)), Test.flight_id)
    for test in session.exec(columns).all():
        parts = takes[test.id or 0]
        flights[test.flight_id].append([test.id, test.name, test.position, parts])
        if known.get(f"test:{test.id}") != _state(parts):
            due.append(("test", test.id or 0, test.flight_id, _state(parts)))
    for ident, whole in flights.items():
        if known.get(f"flight:{ident}") != _state(whole):
            due.append(("flight", ident, ident, _state(whole)))
    return due


def audits_current(session: Session, flight_id: int) -> bool:
    """True when nothing of a flight is due for analysis or audit."""
    return not due_takes(session, flight_id) and not due_audits(session, flight_id)


def store_analysis(session: Session, take_id: int, result: dict[str, Any]) -> None:
    """Replace a take's readings by those of a fresh analysis."""
    session.exec(delete(Reading).where(col(Reading.take_id) == take_id))
    session.merge(
        Analysed(
            take_id=take_id,
            method=METHOD,
            lead_in_s=session.get_one(Take, take_id).lead_in_s,
            refusal=result.get("refused", ""),
            copy_gain_db=result.get("copy_gain_db", 0.0),
            outline=result.get("outline", []),
            spectrum=result.get("spectrum", []),
        )
    )
    values, flags, refusals = (result.get(name, {}) for name in ("readings", "flags", "refusals"))
    for key, reading in BY_KEY.items():
        if key in values or key in refusals:
            session.add(
                Reading(
                    take_id=take_id,
                    key=key,
                    value=values.get(key),
                    flag=flags.get(key, ""),
                    refusal=refusals.get(key, ""),
                    version=reading.version,
                )
            )


def store_test_audit(session: Session, test_id: int, flight_id: int, takes: list[int], result: dict[str, Any]) -> None:
    """Replace the findings and alignments of a test; ``takes`` are those that were audited, in order."""
    session.exec(delete(Finding).where(col(Finding.test_id) == test_id))
    session.exec(delete(Alignment).where(col(Alignment.take_id).in_(takes)))
    _add_findings(session, flight_id, test_id, takes, result["findings"])
    reference = result["reference"]
    if reference is None:
        return
    itself = Alignment(
        take_id=takes[reference],
        reference_id=takes[reference],
        lag_s=0.0,
        exact=True,
        polarity="same",
        same_phrase="yes",
    )
    for row in [itself, *_alignments(takes, takes[reference], result["matches"])]:
        if session.get(Take, row.take_id) is not None:
            session.add(row)


def _alignments(takes: list[int], reference_id: int, matches: dict[int, dict[str, Any]]) -> list[Alignment]:
    return [
        Alignment(
            take_id=takes[index],
            reference_id=reference_id,
            lag_s=None if match["lag_ms"] is None else match["lag_ms"] / 1000,
            exact=match["lag_exact"],
            polarity=match["polarity"],
            tempo_ratio=match["tempo_ratio"],
            tuning_cents=match["tuning_difference_cents"],
            same_phrase=match["same_phrase"],
        )
        for index, match in matches.items()
    ]


def store_flight_audit(session: Session, flight_id: int, takes: list[int], result: list[dict[str, Any]]) -> None:
    """Replace the findings that stand for the whole flight."""
    session.exec(delete(Finding).where(col(Finding.flight_id) == flight_id, col(Finding.test_id).is_(None)))
    _add_findings(session, flight_id, None, takes, result)


def _add_findings(
    session: Session, flight_id: int, test_id: int | None, takes: list[int], found: list[dict[str, Any]]
) -> None:
    for one in found:
        if session.get(Take, takes[one["take"]]) is not None:
            session.add(
                Finding(
                    flight_id=flight_id,
                    test_id=test_id,
                    take_id=takes[one["take"]],
                    rule=one["rule"],
                    severity=one["severity"],
                    text=one["text"],
                    advice=one["advice"],
                    picture=one["picture"],
                )
            )
