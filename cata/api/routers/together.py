"""Takes of a flight together: one tone, blends."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query
from fastapi.responses import Response
from pydantic import Field

from cata.api.deps import WS, Id
from cata.api.veil import OF_FLIGHT
from cata.services.listen.views import TrayView
from cata.services.together import aiming, blending, takes, toned
from cata.services.together.aiming import AimView
from cata.services.together.blending import BlendView, CombView, LayersView
from cata.services.together.takes import ToneView

router = APIRouter(prefix="/api/flights/{flight_id}/together/{test_id}", tags=["together"], dependencies=[OF_FLIGHT])
Ident = Annotated[int, Field(ge=1, le=2**53)]
Who = Annotated[int, Query(ge=1, le=2**53)]
Maybe = Annotated[int | None, Query(ge=1, le=2**53)]


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
    ws: WS, flight_id: Id, test_id: Id, first: Who, second: Who, target: Maybe = None, sound: Maybe = None
) -> BlendView:
    """Two takes mixed: lag, polarity, comb, and the level of the second that comes nearest to a third or a sound."""
    return blending.blend_takes(ws, flight_id, test_id, first, second, target, sound)


@router.get("/comb")
def comb(
    ws: WS, flight_id: Id, test_id: Id, first: Who, second: Who,
    gain_db: Annotated[float, Query(ge=-60, le=40)] = 0.0, inverted: bool = False, lined_up: bool = False,
) -> CombView:  # fmt: skip
    """What the sum of two takes gains and loses over frequency."""
    return blending.comb_of(
        ws, flight_id, test_id, first, second, gain_db=gain_db, inverted=inverted, lined_up=lined_up
    )


@router.get("/layers")
def layers(ws: WS, flight_id: Id, test_id: Id, of: Annotated[list[Ident], Query(max_length=8)]) -> LayersView:
    """What two to four takes gain as layers."""
    return blending.layers_of(ws, flight_id, test_id, of)
