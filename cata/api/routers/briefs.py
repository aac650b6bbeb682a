"""Briefs."""

from __future__ import annotations

from fastapi import APIRouter

from cata.api.deps import WS, Id
from cata.services.choice import briefs, scales
from cata.services.choice.briefs import BriefIn, BriefPatch
from cata.services.choice.views import BriefView, SoundScale

router = APIRouter(prefix="/api/briefs", tags=["briefs"])


@router.get("")
def list_briefs(ws: WS) -> list[BriefView]:
    """All briefs."""
    return briefs.list_briefs(ws)


@router.post("", status_code=201)
def add_brief(ws: WS, data: BriefIn) -> BriefView:
    """Write a brief."""
    return briefs.add_brief(ws, data)


@router.get("/{brief_id}")
def get_brief(ws: WS, brief_id: Id) -> BriefView:
    """One brief."""
    return briefs.get_brief(ws, brief_id)


@router.get("/{brief_id}/scales")
def get_scales(ws: WS, brief_id: Id) -> list[SoundScale]:
    """What each range asks for in words, and where the contenders of its newest flight stand."""
    return scales.get_scales(ws, brief_id)


@router.patch("/{brief_id}")
def change_brief(ws: WS, brief_id: Id, patch: BriefPatch) -> BriefView:
    """Change a brief."""
    return briefs.change_brief(ws, brief_id, patch)


@router.delete("/{brief_id}", status_code=204)
def remove_brief(ws: WS, brief_id: Id) -> None:
    """Remove a brief."""
    briefs.remove_brief(ws, brief_id)
