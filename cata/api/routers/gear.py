"""Gear."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter, Path, Query
from fastapi.responses import Response
from pydantic import Base64Bytes, BaseModel, Field

from cata.api.deps import WS, Id
from cata.api.veil import OF_ALL
from cata.core.gear import GearKind, PriceKind
from cata.services.shelf import exporting, gear, importing, listing, prices
from cata.services.shelf.gear import GearIn, GearPatch
from cata.services.shelf.prices import PriceIn
from cata.services.shelf.views import GearName, GearView, KnownIn, ShelfImport
from cata.services.standing import known

router = APIRouter(prefix="/api", tags=["gear"])


class ShelfFileIn(BaseModel):
    """A file as base64, and how to read it; ``mapping`` is the target of each column in order."""

    content: Base64Bytes = Field(max_length=48 << 20)
    mapping: list[Annotated[str, Field(max_length=80)]] | None = Field(default=None, max_length=200)
    kind: GearKind | None = None
    currency: str = Field(default="EUR", pattern="^[A-Z]{3}$")
    old_encoding: Literal["cp1252", "cp1250", "cp1251", "mac_roman"] = "cp1252"
    on_date: str = Field(default="", pattern=r"^(\d{4}-\d{2}-\d{2})?$")
    dry_run: bool = True


@router.get("/gear")
def list_gear(
    ws: WS,
    response: Response,
    q: Annotated[str, Query(max_length=200)] = "",
    kind: Annotated[str, Query(max_length=40)] = "",
    price_kind: PriceKind | Literal[""] = "",
    currency: Annotated[str, Query(pattern="^([A-Z]{3})?$")] = "",
    at_most: Annotated[str, Query(max_length=40)] = "",
    measured: listing.Measured = "",
    spec: Annotated[str, Query(max_length=40)] = "",
    spec_from: Annotated[str, Query(max_length=40)] = "",
    spec_to: Annotated[str, Query(max_length=40)] = "",
    sort: listing.Sort = "kind",
    limit: Annotated[int, Query(ge=1, le=500)] = 200,
    offset: Annotated[int, Query(ge=0, le=10**6)] = 0,
) -> list[GearView]:
    """A page of the shelf; the header x-total-count says how many items there are."""
    wanted = listing.Wanted(
        query=q, kind=kind, price_kind=price_kind, currency=currency, at_most=at_most.strip(), measured=measured,
        spec=spec, spec_from=spec_from, spec_to=spec_to,
    )  # fmt: skip
    page, count = listing.list_gear(ws, wanted, sort=sort, limit=limit, offset=offset)
    response.headers["x-total-count"] = str(count)
    return page


@router.get("/gear-names")
def gear_names(ws: WS, kind: Annotated[str, Query(max_length=40)] = "") -> list[GearName]:
    """Every item by name, for choosing one."""
    return listing.names(ws, kind)


@router.post("/gear", status_code=201)
def add_gear(ws: WS, data: GearIn) -> GearView:
    """Put an item on the shelf."""
    return gear.add_gear(ws, data)


@router.post("/gear/import")
def import_gear(ws: WS, data: ShelfFileIn) -> ShelfImport:
    """Read a CSV or JSON file onto the shelf; with ``dry_run`` only say what would be done."""
    return importing.import_shelf(
        ws,
        data.content,
        mapping=data.mapping,
        kind=data.kind,
        currency=data.currency,
        old_encoding=data.old_encoding,
        on_date=data.on_date,
        dry_run=data.dry_run,
    )


@router.get("/gear/export.{form}", response_class=Response)
def export_gear(ws: WS, form: Literal["csv", "json"]) -> Response:
    """The whole shelf as a file."""
    content = exporting.export_csv(ws) if form == "csv" else exporting.export_json(ws)
    kind = "text/csv; charset=utf-8" if form == "csv" else "application/json"
    return Response(content, media_type=kind, headers={"content-disposition": f'attachment; filename="shelf.{form}"'})


@router.get("/gear/{gear_id}/known", dependencies=[OF_ALL])
def get_known(ws: WS, gear_id: Id) -> list[KnownIn]:
    """What every flight knows of an item, the newest first."""
    return known.known_of(ws, gear_id)


@router.get("/gear/{gear_id}")
def get_gear(ws: WS, gear_id: Id) -> GearView:
    """One item."""
    return gear.get_gear(ws, gear_id)


@router.patch("/gear/{gear_id}")
def change_gear(ws: WS, gear_id: Id, patch: GearPatch) -> GearView:
    """Change an item."""
    return gear.change_gear(ws, gear_id, patch)


class StartIn(BaseModel):
    """A position as a person writes it."""

    text: str = Field(min_length=1, max_length=60)


@router.put("/gear/{gear_id}/controls/{key}")
def set_start(ws: WS, gear_id: Id, key: Annotated[str, Path(max_length=40)], data: StartIn) -> GearView:
    """Where a control starts."""
    return gear.set_start(ws, gear_id, key, data.text)


@router.delete("/gear/{gear_id}", status_code=204)
def remove_gear(ws: WS, gear_id: Id) -> None:
    """Take an item off the shelf."""
    gear.remove_gear(ws, gear_id)


@router.post("/gear/{gear_id}/prices", status_code=201)
def add_price(ws: WS, gear_id: Id, data: PriceIn) -> GearView:
    """Note a price."""
    return gear.get_gear(ws, prices.add_price(ws, gear_id, data))


@router.delete("/prices/{price_id}")
def remove_price(ws: WS, price_id: Id) -> GearView:
    """Remove a price."""
    return gear.get_gear(ws, prices.remove_price(ws, price_id))
