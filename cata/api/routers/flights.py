"""Flights: the table, and what follows from it."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query, Response
from pydantic import BaseModel, Field

from cata.api.deps import WS, Id, Work
from cata.core.brief import Need
from cata.services import choice, flight_view, flights, matching, readings, tray
from cata.services.analyst import Analyst
from cata.services.flights import (
    ContenderIn,
    ContenderPatch,
    FlightIn,
    FlightPatch,
    School,
    TestIn,
    TestPatch,
)
from cata.services.views import ChoiceView, FlightSummary, FlightView, MatchView, ReadingsView, TrayView
from cata.services.workspace import Workspace, require
from cata.store.tables import Contender, Test

router = APIRouter(prefix="/api", tags=["flights"])
OptionalId = Annotated[int | None, Query(ge=1, le=2**53)]


class MoveTo(BaseModel):
    """A new place, 0 first."""

    to: int = Field(ge=0, le=1000)


def _view(ws: Workspace, work: Analyst, flight_id: int) -> FlightView:
    return flight_view.get_flight(ws, flight_id, paused=work.is_paused(flight_id))


def _flight_of(ws: Workspace, model: type[Contender] | type[Test], ident: int) -> int:
    with ws.reading() as session:
        return require(session, model, ident).flight_id


@router.get("/flights")
def list_flights(
    ws: WS,
    response: Response,
    limit: Annotated[int, Query(ge=1, le=500)] = 200,
    offset: Annotated[int, Query(ge=0, le=10**6)] = 0,
) -> list[FlightSummary]:
    """A page of flights with where each stands; the header x-total-count says how many there are."""
    response.headers["x-total-count"] = str(flight_view.count_flights(ws))
    return flight_view.list_flights(ws, limit=limit, offset=offset)


@router.post("/flights", status_code=201)
def add_flight(ws: WS, work: Work, data: FlightIn) -> FlightView:
    """Begin a flight."""
    return _view(ws, work, flights.add_flight(ws, data))


@router.get("/flights/{flight_id}")
def get_flight(ws: WS, work: Work, flight_id: Id) -> FlightView:
    """A whole flight."""
    return _view(ws, work, flight_id)


@router.patch("/flights/{flight_id}")
def change_flight(ws: WS, work: Work, flight_id: Id, patch: FlightPatch) -> FlightView:
    """Change a flight."""
    flights.change_flight(ws, flight_id, patch)
    return _view(ws, work, flight_id)


@router.delete("/flights/{flight_id}", status_code=204)
def remove_flight(ws: WS, flight_id: Id) -> None:
    """Remove a flight."""
    flights.remove_flight(ws, flight_id)


@router.post("/flights/{flight_id}/contenders", status_code=201)
def add_contender(ws: WS, work: Work, flight_id: Id, data: ContenderIn) -> FlightView:
    """Add a row."""
    flights.add_contender(ws, flight_id, data)
    return _view(ws, work, flight_id)


@router.patch("/contenders/{contender_id}")
def change_contender(ws: WS, work: Work, contender_id: Id, patch: ContenderPatch) -> FlightView:
    """Change a row."""
    flights.change_contender(ws, contender_id, patch)
    return _view(ws, work, _flight_of(ws, Contender, contender_id))


@router.post("/contenders/{contender_id}/move")
def move_contender(ws: WS, work: Work, contender_id: Id, move: MoveTo) -> FlightView:
    """Give a row another place."""
    flights.move_contender(ws, contender_id, move.to)
    return _view(ws, work, _flight_of(ws, Contender, contender_id))


@router.delete("/contenders/{contender_id}")
def remove_contender(ws: WS, work: Work, contender_id: Id) -> FlightView:
    """Remove a row; its takes become unplaced."""
    flight_id = _flight_of(ws, Contender, contender_id)
    flights.remove_contender(ws, contender_id)
    return _view(ws, work, flight_id)


@router.post("/flights/{flight_id}/tests", status_code=201)
def add_test(ws: WS, work: Work, flight_id: Id, data: TestIn) -> FlightView:
    """Add a column."""
    flights.add_test(ws, flight_id, data)
    return _view(ws, work, flight_id)


@router.patch("/tests/{test_id}")
def change_test(ws: WS, work: Work, test_id: Id, patch: TestPatch) -> FlightView:
    """Change a column."""
    flights.change_test(ws, test_id, patch)
    return _view(ws, work, _flight_of(ws, Test, test_id))


@router.post("/tests/{test_id}/move")
def move_test(ws: WS, work: Work, test_id: Id, move: MoveTo) -> FlightView:
    """Give a column another place."""
    flights.move_test(ws, test_id, move.to)
    return _view(ws, work, _flight_of(ws, Test, test_id))


@router.delete("/tests/{test_id}")
def remove_test(ws: WS, work: Work, test_id: Id) -> FlightView:
    """Remove a column; its takes become unplaced."""
    flight_id = _flight_of(ws, Test, test_id)
    flights.remove_test(ws, test_id)
    return _view(ws, work, flight_id)


@router.get("/flights/{flight_id}/match")
def get_match(ws: WS, flight_id: Id) -> MatchView:
    """What the audit found."""
    return matching.get_match(ws, flight_id)


@router.get("/flights/{flight_id}/tray/{test_id}")
def get_tray(ws: WS, flight_id: Id, test_id: Id, school: School | None = None) -> TrayView:
    """The takes of a test with gains and lags, ready for the player."""
    return tray.get_tray(ws, flight_id, test_id, school)


@router.get("/flights/{flight_id}/readings/{test_id}")
def get_readings(ws: WS, flight_id: Id, test_id: Id, against: OptionalId = None) -> ReadingsView:
    """Readings of a test, as they are or against one contender."""
    return readings.get_readings(ws, flight_id, test_id, against)


@router.get("/flights/{flight_id}/choice")
def get_choice(ws: WS, flight_id: Id) -> ChoiceView:
    """The ranking for the flight's brief."""
    return choice.choose(ws, flight_id)


@router.post("/flights/{flight_id}/choice")
def try_choice(ws: WS, flight_id: Id, need: Need) -> ChoiceView:
    """The ranking for another need, which is not kept."""
    return choice.choose(ws, flight_id, need)


@router.post("/flights/{flight_id}/work/{what}", status_code=202)
def control_work(ws: WS, work: Work, flight_id: Id, what: str) -> FlightView:
    """Cancel ("cancel") the background work on a flight, or go on with it ("continue")."""
    if what == "cancel":
        work.pause(flight_id)
    else:
        work.resume(flight_id)
    return _view(ws, work, flight_id)
