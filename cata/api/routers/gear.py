"""Gear."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query

from cata.api.deps import WS, Id
from cata.services import gear
from cata.services.gear import GearIn, GearPatch, PriceIn
from cata.services.views import GearView

router = APIRouter(prefix="/api", tags=["gear"])


@router.get("/gear")
def list_gear(
    ws: WS,
    q: Annotated[str, Query(max_length=200)] = "",
    kind: Annotated[str, Query(max_length=40)] = "",
    limit: Annotated[int, Query(ge=1, le=500)] = 200,
    offset: Annotated[int, Query(ge=0, le=10**6)] = 0,
) -> list[GearView]:
    """Items of the shelf."""
    return gear.list_gear(ws, query=q, kind=kind, limit=limit, offset=offset)


@router.post("/gear", status_code=201)
def add_gear(ws: WS, data: GearIn) -> GearView:
    """Put an item on the shelf."""
    return gear.add_gear(ws, data)


@router.get("/gear/{gear_id}")
def get_gear(ws: WS, gear_id: Id) -> GearView:
    """One item."""
    return gear.get_gear(ws, gear_id)


@router.patch("/gear/{gear_id}")
def change_gear(ws: WS, gear_id: Id, patch: GearPatch) -> GearView:
    """Change an item."""
    return gear.change_gear(ws, gear_id, patch)


@router.delete("/gear/{gear_id}", status_code=204)
def remove_gear(ws: WS, gear_id: Id) -> None:
    """Take an item off the shelf."""
    gear.remove_gear(ws, gear_id)


@router.post("/gear/{gear_id}/prices", status_code=201)
def add_price(ws: WS, gear_id: Id, data: PriceIn) -> GearView:
    """Note a price."""
    return gear.add_price(ws, gear_id, data)


@router.delete("/prices/{price_id}")
def remove_price(ws: WS, price_id: Id) -> GearView:
    """Remove a price."""
    return gear.remove_price(ws, price_id)
