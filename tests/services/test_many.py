"""Long lists cost a handful of queries, however long they are; other flights cost an open one nothing."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

import pytest
from sqlalchemy import event

from cata.core.measure.registry import METHOD
from cata.services.choice import choosing
from cata.services.evidence import readings
from cata.services.flights.rows import contenders_of
from cata.services.listen import tray
from cata.services.match import findings
from cata.services.plan import planning, sheet
from cata.services.shelf import listing
from cata.services.shelf.listing import Wanted
from cata.services.standing import flight as standing_of
from cata.services.workspace import Workspace
from cata.store.tables import Analysed, Contender, Flight, Gear, Planned, Price, Reading, Take, Test


@contextmanager
def statements(ws: Workspace) -> Iterator[list[str]]:
    """The SQL that runs inside."""
    seen: list[str] = []

    def note(_connection: Any, _cursor: Any, statement: str, *_rest: Any) -> None:
        seen.append(statement)

    event.listen(ws.engine, "before_cursor_execute", note)
    try:
        yield seen
    finally:
        event.remove(ws.engine, "before_cursor_execute", note)


def fill(ws: Workspace, items: int, flights: int) -> None:
    """Gear with two prices each, and flights of two contenders and two tests with a take in every cell."""
    with ws.writing() as session:
        for index in range(items):
            item = Gear(kind="pedal", name=f"Item {index:04d}", controls=[{"key": "drive", "name": "Drive"}])
            session.add(item)
            session.flush()
            for kind in ("new", "used"):
                session.add(Price(gear_id=item.id or 0, kind=kind, price_minor=100 + index))
        for index in range(flights):
            flight = Flight(name=f"Flight {index}", link="pedal")
            session.add(flight)
            session.flush()
            rows = [
                Contender(flight_id=flight.id or 0, name=name, position=place, gear_id=1)
                for place, name in enumerate(("Alder", "Birk"))
            ]
            columns = [Test(flight_id=flight.id or 0, name=name, position=i) for i, name in enumerate(("Riff", "Lead"))]
            session.add_all([*rows, *columns])
            session.flush()
            number = 0
            for row in rows:
                for column in columns:
                    number += 1
                    cell = {"flight_id": flight.id or 0, "contender_id": row.id or 0, "test_id": column.id or 0}
                    session.add(Take(digest=f"{index}-{number}", filename="x.wav", size_bytes=1, **cell))
                    session.add(Planned(number=number, position=number, **cell))


LOOKS: dict[str, Callable[[Workspace], Any]] = {
    "shelf": lambda ws: listing.list_gear(ws, limit=500)[0],
    "shelf by price": lambda ws: listing.list_gear(ws, sort="price", limit=500)[0],
    "names": lambda ws: listing.names(ws),
    "flights": lambda ws: standing_of.list_flights(ws, limit=500),
    "a plan": lambda ws: planning.get_plan(ws, 1),
    "an order": lambda ws: sheet.get_order(ws, 1),
    "a match": lambda ws: findings.get_match(ws, 1),
    "a flight": lambda ws: standing_of.get_flight(ws, 1),
}


@pytest.mark.parametrize("look", LOOKS)
def test_a_longer_list_takes_no_more_queries(ws: Workspace, look: str) -> None:
    fill(ws, items=3, flights=2)
    with statements(ws) as few:
        LOOKS[look](ws)
    fill(ws, items=120, flights=30)
    with statements(ws) as many:
        LOOKS[look](ws)
    assert len(many) == len(few) <= 30


WIDE: dict[str, Callable[[Workspace], Any]] = {
    "the flight": lambda ws: standing_of.get_flight(ws, 1),
    "the match": lambda ws: findings.get_match(ws, 1),
    "the tray": lambda ws: tray.get_tray(ws, 1, 1),
    "the readings": lambda ws: readings.get_readings(ws, 1, 1),
    "the choice": lambda ws: choosing.choose(ws, flight_id=1),
}


def widen(ws: Workspace, contenders: int) -> None:
    """More contenders for the first flight, each with gear and a read take."""
    with ws.writing() as session:
        for gear_id in range(2, 2 + contenders):
            place = len(contenders_of(session, 1))
            row = Contender(flight_id=1, name=f"More {gear_id}", position=place, gear_id=gear_id)
            session.add(row)
            session.flush()
            cell = {"flight_id": 1, "contender_id": row.id or 0, "test_id": 1}
            take = Take(digest=f"more-{gear_id}", filename="x.wav", size_bytes=1, **cell)
            session.add(take)
            session.flush()
            session.add(Analysed(take_id=take.id or 0, method=METHOD, spectrum=[0.0], outline=[0.5]))
            session.add(Reading(take_id=take.id or 0, key="loudness_lufs", result={"value": -20.0 - gear_id}))


@pytest.mark.parametrize("look", WIDE)
def test_a_wider_flight_takes_no_more_queries(ws: Workspace, look: str) -> None:
    fill(ws, items=40, flights=1)
    widen(ws, 2)
    with statements(ws) as few:
        WIDE[look](ws)
    widen(ws, 30)
    with statements(ws) as many:
        WIDE[look](ws)
    assert len(many) == len(few) <= 40, many


def test_pages_of_a_shelf_follow_each_other_without_gap_or_repeat(ws: Workspace) -> None:
    fill(ws, items=25, flights=0)
    for sort in ("kind", "name", "price", "newest"):
        pages = [listing.list_gear(ws, sort=sort, limit=10, offset=offset)[0] for offset in (0, 10, 20)]  # type: ignore[arg-type]
        names = [item.name for page in pages for item in page]
        assert len(names) == len(set(names)) == listing.list_gear(ws)[1] == 25
        if sort == "newest":
            assert names == sorted(names, reverse=True)
    assert listing.list_gear(ws, Wanted(query="item 002"))[1] == 6
    assert listing.list_gear(ws, Wanted(kind="amplifier"))[1] == 0


def test_items_without_a_price_come_last_by_price(ws: Workspace) -> None:
    fill(ws, items=2, flights=0)
    with ws.writing() as session:
        session.add(Gear(kind="pedal", name="Priceless"))
    assert [item.name for item in listing.list_gear(ws, sort="price")[0]] == ["Item 0000", "Item 0001", "Priceless"]
