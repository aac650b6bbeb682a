"""A flight's own noise: differences under it are not trusted, and anchors that moved are told."""

from __future__ import annotations

import pytest
from sqlmodel import Session

from cata.core.measure.registry import BY_KEY, METHOD
from cata.services.evidence import readings
from cata.services.flights import table
from cata.services.flights.table import ContenderIn, FlightIn, TestIn
from cata.services.match import findings
from cata.services.match.repeating import flight_repeats
from cata.services.workspace import Workspace
from cata.store.tables import Analysed, Planned, Reading, Take

LOUDNESS, CENTROID = "loudness_lufs", "centroid_hz"


def a_flight(ws: Workspace) -> tuple[int, list[int], int]:
    """Two contenders in one test; (flight, contenders, test)."""
    flight = table.add_flight(ws, FlightIn(name="Drives", link="pedal"))
    rows = [table.add_contender(ws, flight, ContenderIn(name=name)) for name in ("Alder", "Birk")]
    return flight, rows, table.add_test(ws, flight, TestIn(name="Riff"))


def put(session: Session, flight: int, row: int, test: int, repeat: int = 0, **values: float) -> int:
    """A take with these readings."""
    take = Take(
        flight_id=flight,
        contender_id=row,
        test_id=test,
        repeat=repeat,
        digest=f"{row}-{test}-{repeat}",
        filename="x.wav",
        size_bytes=1,
    )
    session.add(take)
    session.flush()
    session.add(Analysed(take_id=take.id or 0, method=METHOD))
    for key, number in values.items():
        session.add(Reading(take_id=take.id or 0, key=key, version=BY_KEY[key].version, result={"value": number}))
    session.flush()
    return take.id or 0


def cell(ws: Workspace, flight: int, test: int, key: str) -> readings.CellReading:
    rows = readings.get_readings(ws, flight, test, against=1).rows
    return next(row for row in rows if row.key == key).cells[1]


def test_without_repeats_hearing_and_what_takes_usually_scatter_by_bound_a_difference(ws: Workspace) -> None:
    flight, (alder, birk), test = a_flight(ws)
    with ws.writing() as session:
        put(session, flight, alder, test, loudness_lufs=-20.0)
        put(session, flight, birk, test, loudness_lufs=-17.0)
        assert flight_repeats(session, flight).takes == 0
    assert cell(ws, flight, test, LOUDNESS).trust == "heard"
    assert findings.get_match(ws, flight).repeatability.code == "not_measured"


def test_a_difference_within_the_flights_own_noise_is_not_trusted(ws: Workspace) -> None:
    flight, (alder, birk), test = a_flight(ws)
    with ws.writing() as session:
        for repeat, level in enumerate((-20.0, -17.5, -21.5)):
            put(session, flight, alder, test, repeat, loudness_lufs=level)
        put(session, flight, birk, test, loudness_lufs=-18.0)
        found = flight_repeats(session, flight)
    assert (found.takes, found.cells) == (3, 1)
    assert found.bands[LOUDNESS].band > 2.0
    shown = cell(ws, flight, test, LOUDNESS)
    assert shown.trust == "unsure"
    row = next(r for r in readings.get_readings(ws, flight, test).rows if r.key == LOUDNESS)
    assert row.repeat_text.startswith("±")
    known = findings.get_match(ws, flight).repeatability
    assert (known.code, known.numbers) == ("few_repeats", {"takes": 3, "cells": 1})


def test_the_take_that_counts_is_the_one_that_is_compared(ws: Workspace) -> None:
    flight, (alder, birk), test = a_flight(ws)
    with ws.writing() as session:
        put(session, flight, alder, test, loudness_lufs=-20.0)
        put(session, flight, alder, test, 1, loudness_lufs=-20.1)
        put(session, flight, birk, test, loudness_lufs=-14.0)
    assert len(readings.get_readings(ws, flight, test).spectra) == 2
    assert cell(ws, flight, test, LOUDNESS).difference == pytest.approx(6.0)


def test_anchors_that_move_one_way_are_a_finding_and_are_not_taken_for_noise(ws: Workspace) -> None:
    flight, (alder, birk), test = a_flight(ws)
    with ws.writing() as session:
        for number, (repeat, place, hz) in enumerate(((0, 0, 1000.0), (1, 9, 1100.0), (2, 18, 1200.0)), start=1):
            put(session, flight, alder, test, repeat, centroid_hz=hz, loudness_lufs=-20.0)
            session.add(
                Planned(
                    flight_id=flight, number=number, contender_id=alder, test_id=test, anchor=repeat + 1, position=place
                )
            )
        put(session, flight, birk, test, centroid_hz=1010.0, loudness_lufs=-20.0)
        found = flight_repeats(session, flight)
    assert [moved.key for moved in found.moved] == [CENTROID]
    assert found.moved[0].drift.change == pytest.approx(200.0)
    assert found.bands[CENTROID].sd == pytest.approx(0.0, abs=1e-6)
    (finding,) = [f for f in findings.get_match(ws, flight).findings if f.rule == "drift"]
    assert finding.severity == "check"
    assert "+200 Hz" in finding.text


def test_anchors_that_only_scatter_are_no_drift(ws: Workspace) -> None:
    flight, (alder, _), test = a_flight(ws)
    with ws.writing() as session:
        for repeat, hz in enumerate((1000.0, 1130.0, 1060.0)):
            put(session, flight, alder, test, repeat, centroid_hz=hz)
        assert flight_repeats(session, flight).moved == ()
