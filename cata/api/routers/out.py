"""Results to take out as tables: CSV in UTF-8, as every spreadsheet opens it. As JSON they are the pages' answers."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query
from fastapi.responses import FileResponse, Response

from cata.api.deps import WS, Id
from cata.api.once import FileOnce
from cata.api.veil import OF_FLIGHT
from cata.services.shown.page import make_page, zipped
from cata.services.shown.reel import reel_zip
from cata.services.standing import tables

router = APIRouter(prefix="/api/out", tags=["out"])


def _csv(content: bytes, name: str) -> Response:
    headers = {"content-disposition": f'attachment; filename="{name}.csv"'}
    return Response(content, media_type="text/csv; charset=utf-8", headers=headers)


@router.get("/flights/{flight_id}/takes.csv", response_class=Response)
def takes(ws: WS, flight_id: Id) -> Response:
    """Every recording of a flight."""
    return _csv(tables.takes_csv(ws, flight_id), f"takes-{flight_id}")


@router.get("/flights/{flight_id}/match.csv", dependencies=[OF_FLIGHT], response_class=Response)
def match(ws: WS, flight_id: Id) -> Response:
    """What Match found."""
    return _csv(tables.match_csv(ws, flight_id), f"match-{flight_id}")


@router.get("/flights/{flight_id}/readings/{test_id}.csv", dependencies=[OF_FLIGHT], response_class=Response)
def readings(
    ws: WS, flight_id: Id, test_id: Id, against: Annotated[int | None, Query(ge=1, le=2**53)] = None
) -> Response:
    """All readings of a test."""
    return _csv(tables.readings_csv(ws, flight_id, test_id, against), f"readings-{flight_id}-{test_id}")


@router.get("/gear/{gear_id}/measured.csv", response_class=Response)
def measured(ws: WS, gear_id: Id) -> Response:
    """What was measured of an item."""
    return _csv(tables.evidence_csv(ws, gear_id), f"measured-{gear_id}")


@router.get("/briefs/{brief_id}.csv", response_class=Response)
def brief(ws: WS, brief_id: Id) -> Response:
    """A brief."""
    return _csv(tables.brief_csv(ws, brief_id), f"brief-{brief_id}")


@router.get("/tastings/{tasting_id}.csv", response_class=Response)
def tasting(ws: WS, tasting_id: Id) -> Response:
    """Every answer of a revealed tasting."""
    return _csv(tables.tasting_csv(ws, tasting_id), f"tasting-{tasting_id}")


def _zip(content: bytes, name: str) -> Response:
    return Response(content, media_type="application/zip",
                    headers={"content-disposition": f'attachment; filename="{name}.zip"'})  # fmt: skip


@router.get("/flights/{flight_id}/page.zip", dependencies=[OF_FLIGHT], response_class=Response)
def listening_page(ws: WS, flight_id: Id, blind: bool = False, prices: bool = True) -> Response:
    """A flight as a page to listen to, from a disk or any host."""
    return _zip(zipped(make_page(ws, flight_id, blind=blind, prices=prices)), f"listen-{flight_id}")


@router.get("/flights/{flight_id}/reel.zip", response_class=FileResponse, dependencies=[OF_FLIGHT])
def reel(ws: WS, flight_id: Id) -> FileResponse:
    """A flight as a reel of FLAC with its chapters."""
    path = reel_zip(ws, flight_id, ws.vault.root / "incoming")
    return FileOnce(path, media_type="application/zip", filename=f"reel-{flight_id}.zip")
