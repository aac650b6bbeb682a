"""Takes: upload, place, hear."""

from __future__ import annotations

from typing import Annotated

from anyio import to_thread
from fastapi import APIRouter, Query, Request
from fastapi.responses import FileResponse
from pydantic import BaseModel, Field

from cata.api.deps import WS, Id, Work
from cata.api.receiving import AUDIO_BODY, FileName, keep_sound
from cata.api.veil import OF_TAKE
from cata.said import Said
from cata.services.capture import steps
from cata.services.flights.views import FlightView
from cata.services.listen import tray
from cata.services.match import accepting, lags
from cata.services.standing import flight as standing
from cata.services.takes import placing, receiving
from cata.services.workspace import Workspace, require
from cata.store.tables import Flight, Take

router = APIRouter(prefix="/api", tags=["takes"])


class Received(BaseModel):
    """A recording that is safe in the vault."""

    take_id: int
    filename: str
    notes: list[str]


class PlaceIn(BaseModel):
    """A cell, or None twice to set the take aside."""

    contender_id: int | None = Field(default=None, ge=1, le=2**53)
    test_id: int | None = Field(default=None, ge=1, le=2**53)
    repeat: int = Field(default=0, ge=0, le=99)


class Cells(BaseModel):
    """Takes and where each goes."""

    cells: list[placing.CellIn] = Field(max_length=2000)


class Arranged(BaseModel):
    """What was placed by name and what was not, and the flight as it stands then."""

    done: Said
    flight: FlightView


class LeadIn(BaseModel):
    """Length of the silence before the playing."""

    lead_in_s: float = Field(ge=0, le=60)


class Placement(BaseModel):
    """How much later a take begins than the one it is held against, in seconds; None: as measured."""

    lag_s: float | None = Field(default=None, ge=-36_000, le=36_000)


class Acceptance(BaseModel):
    """Whether a finding was looked at and the take is kept; ``always``: it is what the contender does."""

    rule: str = Field(max_length=60)
    accepted: bool = True
    always: bool = False
    reason: str = Field(default="", max_length=200)


def _flight_of(ws: Workspace, take_id: int) -> int:
    with ws.reading() as session:
        return require(session, Take, take_id).flight_id


@router.post("/flights/{flight_id}/takes", status_code=201, openapi_extra=AUDIO_BODY)
async def upload(
    ws: WS,
    flight_id: Id,
    request: Request,
    name: FileName,
    lead_in_s: Annotated[float, Query(ge=0, le=60)] = 0.0,
    planned_id: Annotated[int | None, Query(ge=1, le=2**53)] = None,
    contender_id: Annotated[int | None, Query(ge=1, le=2**53)] = None,
    test_id: Annotated[int | None, Query(ge=1, le=2**53)] = None,
    repeat: Annotated[int, Query(ge=0, le=99)] = 0,
) -> Received:
    """Take one recording: its bytes as the body. It is acknowledged when it is safe on the disk.

    With ``planned_id`` it goes straight into the planned take's place, with contender and test into their cell; the
    take that was there steps aside.
    """
    await to_thread.run_sync(_require_flight, ws, flight_id)
    kept, facts = await keep_sound(ws, request, name)
    take_id = await to_thread.run_sync(receiving.add_take, ws, flight_id, name, kept, facts, lead_in_s)
    if planned_id is not None:
        await to_thread.run_sync(steps.place_planned, ws, take_id, planned_id)
    elif contender_id is not None and test_id is not None:
        await to_thread.run_sync(placing.place_take, ws, take_id, contender_id, test_id, repeat)
    return Received(take_id=take_id, filename=receiving.clean_name(name), notes=facts.notes)


def _require_flight(ws: Workspace, flight_id: int) -> None:
    with ws.reading() as session:
        require(session, Flight, flight_id)


@router.post("/flights/{flight_id}/takes/arrange")
def arrange(ws: WS, work: Work, flight_id: Id) -> Arranged:
    """Place the unplaced takes by their names, where name and cell are clear."""
    done = placing.arrange(ws, flight_id)
    return Arranged(done=done, flight=standing.get_flight(ws, flight_id, paused=work.is_paused(flight_id)))


@router.post("/flights/{flight_id}/takes/place")
def place_all(ws: WS, work: Work, flight_id: Id, data: Cells) -> FlightView:
    """Put takes into cells, all or none; none that is placed is pushed out unless it is named."""
    placing.place_all(ws, flight_id, data.cells)
    return standing.get_flight(ws, flight_id, paused=work.is_paused(flight_id))


@router.post("/takes/{take_id}/bring-back")
def bring_back(ws: WS, work: Work, take_id: Id) -> FlightView:
    """A take that was set aside wants a cell again."""
    placing.bring_back(ws, take_id)
    flight_id = _flight_of(ws, take_id)
    return standing.get_flight(ws, flight_id, paused=work.is_paused(flight_id))


@router.post("/takes/{take_id}/place")
def place(ws: WS, work: Work, take_id: Id, cell: PlaceIn) -> FlightView:
    """Put a take into a cell, or set it aside."""
    placing.place_take(ws, take_id, cell.contender_id, cell.test_id, cell.repeat)
    flight_id = _flight_of(ws, take_id)
    return standing.get_flight(ws, flight_id, paused=work.is_paused(flight_id))


@router.delete("/takes/{take_id}")
def remove(ws: WS, work: Work, take_id: Id) -> FlightView:
    """Remove a take."""
    flight_id = _flight_of(ws, take_id)
    placing.remove_take(ws, take_id)
    return standing.get_flight(ws, flight_id, paused=work.is_paused(flight_id))


@router.post("/takes/{take_id}/lead-in", status_code=204)
def lead_in(ws: WS, take_id: Id, data: LeadIn) -> None:
    """Declare the silence before the playing."""
    placing.declare_lead_in(ws, take_id, data.lead_in_s)


@router.post("/takes/{take_id}/line-up", status_code=204)
def line_up(ws: WS, take_id: Id, data: Placement) -> None:
    """Line a take up by hand with the reference of its test, or as measured again."""
    lags.line_up_by_hand(ws, take_id, data.lag_s)


@router.post("/takes/{take_id}/accept", status_code=204)
def accept(ws: WS, take_id: Id, data: Acceptance) -> None:
    """Keep a take in spite of a finding, or open the finding again."""
    accepting.accept_finding(ws, take_id, data.rule, data.accepted, always=data.always, reason=data.reason)


@router.get("/takes/{take_id}/audio", dependencies=[OF_TAKE], response_class=FileResponse)
def audio(ws: WS, take_id: Id) -> FileResponse:
    """The listening copy: 48 kHz FLAC. Its address carries the content's digest, so it may be kept for good."""
    return FileResponse(
        tray.listening_copy(ws, take_id),
        media_type="audio/flac",
        headers={"cache-control": "private, max-age=31536000, immutable"},
    )
