"""Blind tastings. Before the reveal no answer here tells what is in a glass."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Path, Query
from fastapi.responses import Response

from cata.api.deps import WS, Id
from cata.services.tasting import pouring, revealing, tastings, veil
from cata.services.tasting.views import (
    AnswerIn,
    Revealed,
    TasterIn,
    TasterView,
    TastingIn,
    TastingView,
    TrialView,
)

router = APIRouter(prefix="/api/tastings", tags=["tastings"])
Ticket = Annotated[str, Path(pattern="^[0-9a-f]{32}$")]
NOT_KEPT = {"cache-control": "no-store"}
"""Every pouring is another: nothing of it is kept that a second could be held against."""


@router.get("")
def list_tastings(ws: WS, flight: Annotated[int | None, Query(ge=1, le=2**53)] = None) -> list[TastingView]:
    """All tastings, or those of a flight, the newest first."""
    return tastings.list_tastings(ws, flight)


@router.post("", status_code=201)
def add_tasting(ws: WS, data: TastingIn) -> TastingView:
    """Set up a tasting of a test."""
    return tastings.add_tasting(ws, data)


@router.get("/{tasting_id}")
def get_tasting(ws: WS, tasting_id: Id) -> TastingView:
    """One tasting: who listens, and how far."""
    return tastings.get_tasting(ws, tasting_id)


@router.delete("/{tasting_id}", status_code=204)
def remove_tasting(ws: WS, tasting_id: Id) -> None:
    """Take a tasting away."""
    tastings.remove_tasting(ws, tasting_id)


@router.post("/{tasting_id}/tasters", status_code=201)
def add_taster(ws: WS, tasting_id: Id, data: TasterIn) -> TasterView:
    """Somebody sits down to listen."""
    return tastings.add_taster(ws, tasting_id, data)


@router.get("/{tasting_id}/tasters/{taster_id}/trial")
def get_trial(ws: WS, tasting_id: Id, taster_id: Id) -> TrialView:
    """What this taster is asked now."""
    return pouring.get_trial(ws, tasting_id, taster_id)


@router.get("/{tasting_id}/tasters/{taster_id}/glass/{ticket}", response_class=Response)
def pour(ws: WS, tasting_id: Id, taster_id: Id, ticket: Ticket) -> Response:
    """The sound of a glass of the open trial."""
    sound = pouring.pour(ws, tasting_id, taster_id, ticket)
    return Response(sound, media_type="audio/wav", headers=NOT_KEPT)


@router.post("/{tasting_id}/tasters/{taster_id}/answers")
def answer(ws: WS, tasting_id: Id, taster_id: Id, data: AnswerIn) -> TrialView:
    """Answer the open trial; the next one comes back."""
    return pouring.answer(ws, tasting_id, taster_id, data)


@router.delete("/{tasting_id}/tasters/{taster_id}/answers/last")
def take_back(ws: WS, tasting_id: Id, taster_id: Id) -> TrialView:
    """Take the last answer back."""
    return pouring.take_back(ws, tasting_id, taster_id)


@router.post("/{tasting_id}/look")
def look(ws: WS, tasting_id: Id) -> TastingView:
    """Look at the takes of its flight all the same: the tasting says that somebody did."""
    return veil.look(ws, tasting_id)


@router.post("/{tasting_id}/reveal")
def reveal(ws: WS, tasting_id: Id) -> Revealed:
    """End the tasting and say what was in the glasses."""
    return revealing.reveal(ws, tasting_id)


@router.get("/{tasting_id}/revealed")
def get_revealed(ws: WS, tasting_id: Id) -> Revealed:
    """What a tasting came to, after its reveal only."""
    return revealing.get_revealed(ws, tasting_id)
