"""Flights: the table, and what follows from it."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter, Query, Response
from pydantic import BaseModel, Field

from cata.api.deps import WS, Id, Work
from cata.api.veil import OF_FLIGHT
from cata.core.match.gains import School
from cata.services.evidence import readings
from cata.services.evidence.reading_views import ReadingsView
from cata.services.flights import table
from cata.services.flights.table import (
    ContenderIn,
    ContenderPatch,
    FlightIn,
    FlightPatch,
    TestIn,
    TestPatch,
)
from cata.services.flights.views import FlightSummary, FlightView
from cata.services.listen import tray
from cata.services.listen.views import TrayView
from cata.services.match import findings
from cata.services.match.views import MatchView
from cata.services.standing import flight as standing
from cata.services.upkeep import sweeping
from cata.services.verdict import teaching
from cata.services.verdict.views import DifferencesView, PlaceView, Proof, VerdictView
from cata.services.workspace import Workspace, require
from cata.store.tables import Contender, Test
from cata.tasks.runner import Runner

router = APIRouter(prefix="/api", tags=["flights"])
Moment = Annotated[float | None, Query(ge=-3600, le=36_000)]
OptionalId = Annotated[int | None, Query(ge=1, le=2**53)]


class MoveTo(BaseModel):
    """A new place, 0 first."""

    to: int = Field(ge=0, le=1000)


def _view(ws: Workspace, work: Runner, flight_id: int) -> FlightView:
    return standing.get_flight(ws, flight_id, paused=work.is_paused(flight_id))


def _flight_of(ws: Workspace, model: type[Contender] | type[Test], ident: int) -> int:
    with ws.reading() as session:
        return require(session, model, ident).flight_id


@router.get("/flights")
def list_flights(
    ws: WS,
    response: Response,
    q: Annotated[str, Query(max_length=200)] = "",
    limit: Annotated[int, Query(ge=1, le=500)] = 200,
    offset: Annotated[int, Query(ge=0, le=10**6)] = 0,
) -> list[FlightSummary]:
    """A page of the flights with these words, and where each stands; x-total-count says how many there are."""
    response.headers["x-total-count"] = str(standing.count_flights(ws, q))
    return standing.list_flights(ws, q, limit=limit, offset=offset)


@router.post("/flights", status_code=201)
def add_flight(ws: WS, work: Work, data: FlightIn) -> FlightView:
    """Begin a flight."""
    return _view(ws, work, table.add_flight(ws, data))


@router.get("/flights/{flight_id}")
def get_flight(ws: WS, work: Work, flight_id: Id) -> FlightView:
    """A whole flight."""
    return _view(ws, work, flight_id)


@router.patch("/flights/{flight_id}")
def change_flight(ws: WS, work: Work, flight_id: Id, patch: FlightPatch) -> FlightView:
    """Change a flight."""
    table.change_flight(ws, flight_id, patch)
    return _view(ws, work, flight_id)


@router.delete("/flights/{flight_id}", status_code=204)
def remove_flight(ws: WS, flight_id: Id) -> None:
    """Remove a flight."""
    table.remove_flight(ws, flight_id)


@router.post("/flights/{flight_id}/contenders", status_code=201)
def add_contender(ws: WS, work: Work, flight_id: Id, data: ContenderIn) -> FlightView:
    """Add a row."""
    table.add_contender(ws, flight_id, data)
    return _view(ws, work, flight_id)


@router.patch("/contenders/{contender_id}")
def change_contender(ws: WS, work: Work, contender_id: Id, patch: ContenderPatch) -> FlightView:
    """Change a row."""
    table.change_contender(ws, contender_id, patch)
    return _view(ws, work, _flight_of(ws, Contender, contender_id))


@router.post("/contenders/{contender_id}/move")
def move_contender(ws: WS, work: Work, contender_id: Id, move: MoveTo) -> FlightView:
    """Give a row another place."""
    table.move_contender(ws, contender_id, move.to)
    return _view(ws, work, _flight_of(ws, Contender, contender_id))


@router.delete("/contenders/{contender_id}")
def remove_contender(ws: WS, work: Work, contender_id: Id) -> FlightView:
    """Remove a row; its takes become unplaced."""
    flight_id = _flight_of(ws, Contender, contender_id)
    table.remove_contender(ws, contender_id)
    return _view(ws, work, flight_id)


@router.post("/flights/{flight_id}/tests", status_code=201)
def add_test(ws: WS, work: Work, flight_id: Id, data: TestIn) -> FlightView:
    """Add a column."""
    table.add_test(ws, flight_id, data)
    return _view(ws, work, flight_id)


@router.patch("/tests/{test_id}")
def change_test(ws: WS, work: Work, test_id: Id, patch: TestPatch) -> FlightView:
    """Change a column."""
    table.change_test(ws, test_id, patch)
    return _view(ws, work, _flight_of(ws, Test, test_id))


@router.post("/tests/{test_id}/move")
def move_test(ws: WS, work: Work, test_id: Id, move: MoveTo) -> FlightView:
    """Give a column another place."""
    table.move_test(ws, test_id, move.to)
    return _view(ws, work, _flight_of(ws, Test, test_id))


@router.delete("/tests/{test_id}")
def remove_test(ws: WS, work: Work, test_id: Id) -> FlightView:
    """Remove a column; its takes become unplaced."""
    flight_id = _flight_of(ws, Test, test_id)
    table.remove_test(ws, test_id)
    return _view(ws, work, flight_id)


@router.get("/flights/{flight_id}/match", dependencies=[OF_FLIGHT])
def get_match(ws: WS, flight_id: Id) -> MatchView:
    """What the audit found."""
    return findings.get_match(ws, flight_id)


@router.get("/flights/{flight_id}/tray/{test_id}", dependencies=[OF_FLIGHT])
def get_tray(
    ws: WS, flight_id: Id, test_id: Id, school: School | None = None, from_s: Moment = None, to_s: Moment = None
) -> TrayView:
    """The takes of a test with gains and lags, ready for the player."""
    return tray.get_tray(ws, flight_id, test_id, school, from_s, to_s)


@router.get("/flights/{flight_id}/readings/{test_id}", dependencies=[OF_FLIGHT])
def get_readings(ws: WS, flight_id: Id, test_id: Id, against: OptionalId = None) -> ReadingsView:
    """Readings of a test, as they are or against one contender."""
    return readings.get_readings(ws, flight_id, test_id, against)


@router.get("/flights/{flight_id}/differences/{test_id}", dependencies=[OF_FLIGHT])
def get_differences(ws: WS, flight_id: Id, test_id: Id) -> DifferencesView:
    """How the contenders of a test differ, in sentences: what is heard best and is surest first."""
    return teaching.get_differences(ws, flight_id, test_id)


@router.get("/flights/{flight_id}/verdict", dependencies=[OF_FLIGHT])
def get_verdict(ws: WS, flight_id: Id) -> VerdictView:
    """What a flight taught, in at most ten sentences with their proof."""
    return teaching.get_verdict(ws, flight_id)


@router.post("/flights/{flight_id}/place", dependencies=[OF_FLIGHT])
def find_place(ws: WS, flight_id: Id, proof: Proof) -> PlaceView:
    """Where two takes show what a sentence says of them."""
    return teaching.find_place(ws, flight_id, proof)


@router.post("/flights/{flight_id}/work/{what}", status_code=202)
def control_work(ws: WS, work: Work, flight_id: Id, what: Literal["cancel", "continue", "retry"]) -> FlightView:
    """Stop ("cancel") the background work on a flight, go on ("continue"), or try again what failed ("retry")."""
    if what == "cancel":
        work.pause(flight_id)
    elif what == "retry":
        sweeping.retry(ws, flight_id)
    else:
        work.resume(flight_id)
    return _view(ws, work, flight_id)
