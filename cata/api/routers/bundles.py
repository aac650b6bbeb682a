"""Bundles: a flight, a brief, a card or everything as one file, out and in."""

from __future__ import annotations

import secrets
from typing import Annotated

from anyio import to_thread
from fastapi import APIRouter, Query, Request
from fastapi.responses import FileResponse

from cata.api.deps import WS
from cata.api.once import FileOnce
from cata.api.receiving import AUDIO_BODY, incoming
from cata.api.veil import OF_ALL
from cata.services.bundle.merging import Brought, import_bundle
from cata.services.bundle.packing import export_bundle

router = APIRouter(prefix="/api/bundle", tags=["bundle"])
One = Annotated[int | None, Query(ge=1, le=2**53)]


@router.get("", dependencies=[OF_ALL], response_class=FileResponse)
def export(ws: WS, flight: One = None, brief: One = None, card: One = None) -> FileResponse:
    """A bundle of a flight, a brief, a card, or of everything."""
    path = ws.vault.root / "incoming" / f"{secrets.token_hex(8)}.zip"
    export_bundle(ws, path, flight=flight, brief=brief, card=card)
    return FileOnce(path, media_type="application/zip", filename="cata-bundle.zip")


@router.post("", openapi_extra=AUDIO_BODY)
async def bring_in(ws: WS, request: Request, dry_run: bool = False) -> Brought:
    """Bring a bundle in: its bytes as the body. With ``dry_run`` only say what would be done."""
    async with incoming(ws, request, "bundle.zip") as received:
        return await to_thread.run_sync(lambda: import_bundle(ws, received.path, dry_run=dry_run))
