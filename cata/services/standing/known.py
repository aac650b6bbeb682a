"""What all flights together know of an item."""

from __future__ import annotations

from sqlmodel import Session, col, select

from cata.services.flights.showing import contender_views
from cata.services.flights.views import ContenderView
from cata.services.match.worst import worst_findings
from cata.services.shelf.views import KnownIn
from cata.services.verdict.teaching import get_verdict
from cata.services.workspace import Workspace, require
from cata.store.tables import Contender, Flight, Gear, Take, Test

SPOKEN = 5
"""So many flights are asked for sentences; the rest are named."""


def known_of(ws: Workspace, gear_id: int) -> list[KnownIn]:
    """Every flight an item was part of, the newest first: its setting, its takes, and what was said of it."""
    with ws.reading() as session:
        require(session, Gear, gear_id, "item of gear")
        statement = select(Flight).join(Contender).where(Contender.gear_id == gear_id).distinct()
        flights = session.exec(statement.order_by(col(Flight.id).desc())).all()
        found = [
            (one.id, _known(session, flight, one))
            for flight in flights
            for one in contender_views(session, flight.id or 0)
            if one.gear_id == gear_id
        ]
    for contender_id, known in found[:SPOKEN]:
        if known.takes:
            known.said = [
                one.said
                for one in get_verdict(ws, known.flight_id).sentences
                if one.said.numbers.get("contender") == contender_id or str(contender_id) in one.said.numbers
            ]
    return [known for _, known in found]


def _known(session: Session, flight: Flight, one: ContenderView) -> KnownIn:
    placed = select(Take.id).where(Take.contender_id == one.id, col(Take.test_id).is_not(None), Take.repeat == 0)
    takes = session.exec(placed).all()
    tests = session.exec(select(Test.id).where(Test.flight_id == flight.id)).all()
    worst = worst_findings(session, flight.id or 0)
    return KnownIn(
        flight_id=flight.id or 0,
        flight=flight.name,
        letter=one.letter,
        colour=one.colour,
        setting=", ".join(f"{knob.name} {knob.text}" for knob in one.settings),
        takes=len(takes),
        cells=len(tests),
        to_redo=sum(worst.get(take or 0) == "fault" for take in takes),
    )
