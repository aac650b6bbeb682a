"""Beds that takes are heard against."""

from __future__ import annotations

from typing import Annotated

from anyio import to_thread
from fastapi import APIRouter, Query, Request
from fastapi.responses import FileResponse

from cata.api.deps import WS, Id
from cata.api.receiving import AUDIO_BODY, FileName, keep_sound
from cata.api.veil import OF_FLIGHT
from cata.services.together import beds, stems
from cata.services.together.beds import BedPatch, BedView, BesideView
from cata.services.together.stems import StemPatch, StemView

router = APIRouter(prefix="/api", tags=["beds"])


@router.get("/beds")
def list_beds(ws: WS, kind: beds.Kind = "bed") -> list[BedView]:
    """All beds, or all targets, by name."""
    return beds.list_beds(ws, kind)


@router.post("/beds", status_code=201, openapi_extra=AUDIO_BODY)
async def add_bed(ws: WS, request: Request, name: FileName, kind: beds.Kind = "bed") -> BedView:
    """Take one bed or target: its bytes as the body."""
    kept, facts = await keep_sound(ws, request, name)
    return await to_thread.run_sync(beds.add_bed, ws, name, kept, facts, kind)


@router.patch("/beds/{bed_id}")
def change_bed(ws: WS, bed_id: Id, patch: BedPatch) -> BedView:
    """Give a bed another name or tempo."""
    return beds.change_bed(ws, bed_id, patch)


@router.delete("/beds/{bed_id}", status_code=204)
def remove_bed(ws: WS, bed_id: Id) -> None:
    """Take a bed away."""
    beds.remove_bed(ws, bed_id)


@router.get("/beds/{bed_id}/audio", response_class=FileResponse)
def audio(ws: WS, bed_id: Id) -> FileResponse:
    """The listening copy: 48 kHz FLAC."""
    headers = {"cache-control": "private, max-age=31536000, immutable"}
    return FileResponse(beds.bed_copy(ws, bed_id), media_type="audio/flac", headers=headers)


@router.get("/beds/{bed_id}/stems")
def list_stems(ws: WS, bed_id: Id) -> list[StemView]:
    """The stems of a bed; none where it is one recording."""
    return stems.list_stems(ws, bed_id)


@router.post("/beds/{bed_id}/stems", status_code=201, openapi_extra=AUDIO_BODY)
async def add_stem(ws: WS, request: Request, bed_id: Id, name: FileName) -> BedView:
    """Lay one more recording into a bed: its bytes as the body."""
    kept, _ = await keep_sound(ws, request, name)
    return await to_thread.run_sync(stems.add_stem, ws, bed_id, name, kept)


@router.patch("/stems/{stem_id}")
def change_stem(ws: WS, stem_id: Id, patch: StemPatch) -> BedView:
    """Give a stem another level or place."""
    return stems.change_stem(ws, stem_id, patch)


@router.delete("/stems/{stem_id}")
def remove_stem(ws: WS, stem_id: Id) -> BedView:
    """Take a stem out of its bed."""
    return stems.remove_stem(ws, stem_id)


@router.get("/flights/{flight_id}/beside/{test_id}", dependencies=[OF_FLIGHT])
def beside(
    ws: WS, flight_id: Id, test_id: Id, bed: Annotated[int, Query(ge=1, le=2**53)],
    relation: Annotated[float, Query(ge=-30, le=30)] = 0.0,
) -> BesideView:  # fmt: skip
    """A bed beside the takes of a test, each of them so many LU above it, and how well they are heard."""
    return beds.beside(ws, flight_id, test_id, bed, relation)
