"""Decision cards."""

from __future__ import annotations

from fastapi import APIRouter
from fastapi.responses import HTMLResponse, Response

from cata.api.deps import WS, Id
from cata.api.veil import OF_ALL
from cata.documents.card import card_style
from cata.services.card import cards
from cata.services.card.views import CardChanges, CardIn, CardLine, CardPatch, CardView

router = APIRouter(prefix="/api/cards", tags=["cards"])
NO_SOURCE = "default-src 'none'; style-src 'unsafe-inline'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'"
"""A document of its own brings its style with it and loads nothing."""


@router.get("")
def list_cards(ws: WS) -> list[CardLine]:
    """All kept cards, the newest first."""
    return cards.list_cards(ws)


@router.post("", dependencies=[OF_ALL], status_code=201)
def keep_card(ws: WS, data: CardIn) -> CardView:
    """Make a card of a choice as it stands now, and keep it."""
    return cards.keep_card(ws, data)


@router.get("/style.css", response_class=Response)
def style() -> Response:
    """The style of a card's document."""
    return Response(card_style(), media_type="text/css")


@router.get("/{card_id}")
def get_card(ws: WS, card_id: Id) -> CardView:
    """A kept card with its document."""
    return cards.get_card(ws, card_id)


@router.get("/{card_id}/changes", dependencies=[OF_ALL])
def get_changes(ws: WS, card_id: Id) -> CardChanges:
    """What would be said otherwise today."""
    return cards.changes_of(ws, card_id)


@router.get("/{card_id}/file", response_class=HTMLResponse)
def get_file(ws: WS, card_id: Id) -> HTMLResponse:
    """The card as one HTML file that needs nothing beside it."""
    headers = {"content-disposition": f'inline; filename="card-{card_id}.html"', "content-security-policy": NO_SOURCE}
    return HTMLResponse(cards.card_html(ws, card_id), headers=headers)


@router.patch("/{card_id}")
def rename_card(ws: WS, card_id: Id, patch: CardPatch) -> CardView:
    """Give a card another name."""
    return cards.rename_card(ws, card_id, patch)


@router.delete("/{card_id}", status_code=204)
def remove_card(ws: WS, card_id: Id) -> None:
    """Take a card away."""
    cards.remove_card(ws, card_id)
