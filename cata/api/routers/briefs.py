"""Briefs."""

from __future__ import annotations

from fastapi import APIRouter

from cata.api.deps import WS, Id
from cata.api.veil import OF_ALL
from cata.core.gear import GearKind
from cata.services.brief import briefs
from cata.services.brief.briefs import BriefIn, BriefPatch, ShowsIn
from cata.services.brief.views import BriefView
from cata.services.ranges import pointing, scales
from cata.services.ranges.pointing import PointIn
from cata.services.ranges.views import PointedView, SoundScale

router = APIRouter(prefix="/api/briefs", tags=["briefs"])


@router.get("")
def list_briefs(ws: WS) -> list[BriefView]:
    """All briefs."""
    return briefs.list_briefs(ws)


@router.post("", status_code=201)
def add_brief(ws: WS, data: BriefIn) -> BriefView:
    """Write a brief."""
    return briefs.add_brief(ws, data)


@router.post("/point", dependencies=[OF_ALL])
def point(ws: WS, data: PointIn) -> PointedView:
    """Ranges from takes that are liked and not, with how sure that leaves each."""
    return pointing.point(ws, data)


@router.get("/{brief_id}")
def get_brief(ws: WS, brief_id: Id) -> BriefView:
    """One brief."""
    return briefs.get_brief(ws, brief_id)


@router.get("/{brief_id}/scales", dependencies=[OF_ALL])
def get_scales(ws: WS, brief_id: Id, kind: GearKind | None = None) -> list[SoundScale]:
    """What each range asks for in words, and where the shelf's items of a kind stand on it."""
    return scales.get_scales(ws, brief_id, kind or "")


@router.patch("/{brief_id}")
def change_brief(ws: WS, brief_id: Id, patch: BriefPatch) -> BriefView:
    """Change a brief."""
    return briefs.change_brief(ws, brief_id, patch)


@router.put("/{brief_id}/shows")
def say_shows(ws: WS, brief_id: Id, data: ShowsIn) -> BriefView:
    """Say for this brief which sounds some tests show."""
    return briefs.say_shows(ws, brief_id, data)


@router.delete("/{brief_id}", status_code=204)
def remove_brief(ws: WS, brief_id: Id) -> None:
    """Remove a brief."""
    briefs.remove_brief(ws, brief_id)
