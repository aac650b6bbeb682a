"""Takes of a flight together: one tone, blends."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query
from fastapi.responses import Response

from cata.api.deps import WS, Id
from cata.services.listen.views import TrayView
from cata.services.together import aiming, takes, toned
from cata.services.together.aiming import AimView
from cata.services.together.takes import BlendView, ToneView

router = APIRouter(prefix="/api/flights/{flight_id}/together/{test_id}", tags=["together"])
Who = Annotated[int, Query(ge=1, le=2**53)]


@router.get("/tone")
def one_tone(ws: WS, flight_id: Id, test_id: Id, reference: Who) -> list[ToneView]:
    """How far an equaliser brings every contender to the tone of one, and what remains."""
    return takes.one_tone(ws, flight_id, test_id, reference)


@router.get("/tray")
def toned_tray(ws: WS, flight_id: Id, test_id: Id, reference: Who) -> TrayView:
    """The takes of a test in the tone of one of them, equally loud."""
    return toned.toned_tray(ws, flight_id, test_id, reference)


@router.get("/target/{bed_id}")
def hold_against(ws: WS, flight_id: Id, test_id: Id, bed_id: Id) -> AimView:
    """How far every contender is from a sound that somebody is after."""
    return aiming.hold_against(ws, flight_id, test_id, bed_id)


@router.get("/target/{bed_id}/tray")
def tray_with(ws: WS, flight_id: Id, test_id: Id, bed_id: Id) -> TrayView:
    """The takes of a test with a target beside them, equally loud."""
    return aiming.tray_with(ws, flight_id, test_id, bed_id)


@router.get("/toned/{contender_id}.wav", response_class=Response)
def toned_sound(ws: WS, flight_id: Id, test_id: Id, contender_id: Id, reference: Who) -> Response:
    """A take in the tone of another. Its address carries the contents' digests, so it may be kept for good."""
    headers = {"cache-control": "private, max-age=31536000, immutable"}
    content = toned.toned_sound(ws, flight_id, test_id, contender_id, reference)
    return Response(content, media_type="audio/wav", headers=headers)


@router.get("/impulse.wav", response_class=Response)
def impulse(ws: WS, flight_id: Id, test_id: Id, contender: Who, reference: Who) -> Response:
    """The equaliser as an impulse response."""
    headers = {"content-disposition": f'attachment; filename="tone-{contender}-to-{reference}.wav"'}
    content = takes.impulse(ws, flight_id, test_id, contender, reference)
    return Response(content, media_type="audio/wav", headers=headers)


@router.get("/blend")
def blend(
    ws: WS, flight_id: Id, test_id: Id, first: Who, second: Who,
    target: Annotated[int | None, Query(ge=1, le=2**53)] = None,
) -> BlendView:  # fmt: skip
    """Two takes mixed: lag, polarity, comb, and the best level of the second."""
    return takes.blend_takes(ws, flight_id, test_id, first, second, target)
