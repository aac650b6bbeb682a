"""Pickups heard by their open strings, and what cable and pots make of their coil."""

from __future__ import annotations

from typing import Annotated

from anyio import to_thread
from fastapi import APIRouter, Query, Request
from pydantic import BaseModel

from cata.api.deps import WS, Id
from cata.api.receiving import AUDIO_BODY, FileName, incoming, keep_sound
from cata.api.routers.probes import Noted
from cata.services.evidence import pickups, probing
from cata.services.evidence.pickup_views import PickupView
from cata.services.evidence.pickups import StringsIn
from cata.services.takes.receiving import check_incoming

router = APIRouter(prefix="/api", tags=["pickups"])


class ToneLevel(BaseModel):
    """The level of a steady tone: RMS in dBFS."""

    rms_dbfs: float


@router.post("/gear/{gear_id}/strings", status_code=201, openapi_extra=AUDIO_BODY)
async def add_strings(
    ws: WS, gear_id: Id, request: Request, name: FileName, stood: Annotated[StringsIn, Query()]
) -> Noted:
    """Take a recording of the six open strings through a pickup, low to high, in one round or several."""
    await to_thread.run_sync(pickups.check_pickup, ws, gear_id, stood)
    kept, _ = await keep_sound(ws, request, name, sounding=True)
    return Noted(probe_id=await to_thread.run_sync(pickups.add_strings, ws, gear_id, name, kept, stood))


@router.post("/gear/{gear_id}/strings/bench", status_code=201)
def strings_on_bench(ws: WS, gear_id: Id, data: StringsIn) -> Noted:
    """Have the bench play the strings of the pickup nearest to this one's specification."""
    return Noted(probe_id=pickups.strings_on_bench(ws, gear_id, data))


@router.get("/gear/{gear_id}/strings")
def get_strings(ws: WS, gear_id: Id, reference: Annotated[int | None, Query(ge=1, le=2**53)] = None) -> PickupView:
    """What a pickup's strings say, against those of all others."""
    return pickups.get_pickup(ws, gear_id, reference)


@router.patch("/strings/{probe_id}", status_code=204)
def change_strings(ws: WS, probe_id: Id, data: StringsIn) -> None:
    """Note otherwise how the pickup stood."""
    pickups.change_strings(ws, probe_id, data)


@router.post("/tone-level", openapi_extra=AUDIO_BODY)
async def tone_level(ws: WS, request: Request, name: FileName) -> ToneLevel:
    """The level of a recorded calibrating tone; nothing is kept."""
    async with incoming(ws, request, name) as received:
        await to_thread.run_sync(check_incoming, ws, received)
        return ToneLevel(rms_dbfs=await to_thread.run_sync(probing.tone_level, ws, received.path))
