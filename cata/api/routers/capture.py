"""Capture: takes in order, long recordings, slates, latency, rehearsal and re-amping."""

from __future__ import annotations

from typing import Annotated

from anyio import to_thread
from fastapi import APIRouter, Query, Request
from fastapi.responses import FileResponse, Response
from pydantic import BaseModel, Field

from cata.api.deps import WS, Id, Work
from cata.api.once import FileOnce
from cata.api.receiving import AUDIO_BODY, FileName, incoming
from cata.api.veil import OF_RECORDING
from cata.services.capture import asking, reamping, recordings, rehearsing, steps
from cata.services.capture import slates as slating
from cata.services.capture.rehearsing import RehearsalIn
from cata.services.capture.views import LatencyView, PieceView, RecordingView, RehearsalView
from cata.services.flights.views import FlightView, ProposalView
from cata.services.standing import flight as standing

router = APIRouter(prefix="/api", tags=["capture"])


class Pieces(BaseModel):
    """All cuts of a recording."""

    pieces: list[PieceView] = Field(max_length=999)


@router.get("/flights/{flight_id}/takes/in-order")
def in_order(ws: WS, flight_id: Id) -> list[ProposalView]:
    """Which open planned takes the recordings would be, sorted by name and taken in the order of the plan."""
    return [standing.proposal_view(one) for one in steps.in_order(ws, flight_id)]


@router.get("/flights/{flight_id}/recordings")
def list_recordings(ws: WS, flight_id: Id) -> list[RecordingView]:
    """The long recordings of a flight."""
    return recordings.list_recordings(ws, flight_id)


@router.post("/flights/{flight_id}/recordings", status_code=201, openapi_extra=AUDIO_BODY)
async def add_recording(
    ws: WS,
    flight_id: Id,
    request: Request,
    name: FileName,
    takes: Annotated[int, Query(ge=0, le=999)] = 0,
    slates: bool = False,
    reamped: bool = False,
) -> RecordingView:
    """Take one long recording, its bytes as the body; 0 takes means those still open.

    It is acknowledged when it is safe on the disk; the takes in it are looked for in the background.
    """
    async with incoming(ws, request, name) as received:
        takes = await to_thread.run_sync(recordings.check_long, ws, received.path, flight_id, takes, slates)
        kept = await to_thread.run_sync(ws.vault.keep, received)
    evidence = "re-amped" if reamped else "played"
    return await to_thread.run_sync(recordings.add_recording, ws, flight_id, name, kept, takes, slates, evidence)


@router.get("/recordings/{recording_id}", dependencies=[OF_RECORDING])
def get_recording(ws: WS, recording_id: Id) -> RecordingView:
    """A long recording with its picture and cuts."""
    return recordings.get_recording(ws, recording_id)


@router.put("/recordings/{recording_id}/pieces")
def change_pieces(ws: WS, recording_id: Id, data: Pieces) -> RecordingView:
    """Move, add or remove cuts."""
    return recordings.change_pieces(ws, recording_id, data.pieces)


@router.post("/recordings/{recording_id}/takes", status_code=202)
def make_takes(ws: WS, recording_id: Id) -> RecordingView:
    """Make takes of the cuts in the background; what was made before is left as it is."""
    return recordings.make_takes(ws, recording_id)


@router.delete("/recordings/{recording_id}", status_code=204)
def remove_recording(ws: WS, recording_id: Id) -> None:
    """Remove a long recording; its takes stay."""
    recordings.remove_recording(ws, recording_id)


@router.get("/slates/{number}", response_class=Response)
def slate(number: Annotated[int, Field(ge=1, le=999)], end: bool = False) -> Response:
    """The slate tone of a take as WAV."""
    return Response(slating.slate_wav(number, end), media_type="audio/wav")


@router.post("/latency", openapi_extra=AUDIO_BODY)
async def latency(ws: WS, request: Request) -> LatencyView:
    """The round trip of an interface, from a recording in which slate 1 was played half a second after its start."""
    async with incoming(ws, request, "latency.wav") as received:
        return await to_thread.run_sync(slating.measure_latency, ws, received.path)


@router.post("/flights/{flight_id}/rehearse", status_code=202)
def rehearse(ws: WS, flight_id: Id, wish: RehearsalIn) -> RehearsalView:
    """Record the open planned takes with simulated gear, in the background."""
    return rehearsing.rehearse(ws, flight_id, wish)


@router.delete("/flights/{flight_id}/making")
def stop_making(ws: WS, work: Work, flight_id: Id) -> FlightView:
    """Make no more of the takes that were asked for; those that are made stay."""
    asking.stop_making(ws, flight_id)
    for duty in asking.MAKING:
        work.drop(flight_id, duty)
    return standing.get_flight(ws, flight_id, paused=work.is_paused(flight_id))


@router.get("/flights/{flight_id}/reamp", response_class=FileResponse)
def reamp(ws: WS, flight_id: Id, contender_id: Annotated[int, Query(ge=1, le=2**53)]) -> FileResponse:
    """The file to play through one contender: slate, dry take, closing slate for each of its open takes."""
    path = reamping.reamp_file(ws, flight_id, contender_id)
    return FileOnce(path, media_type="audio/wav", filename=f"reamp-flight-{flight_id}-contender-{contender_id}.wav")
