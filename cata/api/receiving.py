"""Recordings as request bodies: written to a safe place as they come in, flushed, and gone unless they are kept."""

from __future__ import annotations

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from typing import Annotated, Any

from anyio import to_thread
from fastapi import Query, Request

from cata.services.takes.receiving import check_incoming
from cata.services.workspace import Workspace
from cata.store.vault import Incoming, Kept
from cata.tasks.takes import Facts

AUDIO_BODY: dict[str, Any] = {
    "requestBody": {
        "required": True,
        "content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}},
    }
}
FileName = Annotated[str, Query(min_length=1, max_length=1000)]


@asynccontextmanager
async def incoming(ws: Workspace, request: Request, name: str) -> AsyncIterator[Incoming]:
    """The body as a file on the disk; it is gone afterwards unless it was kept."""
    with ws.vault.receive("." + name.rsplit(".", 1)[-1] if "." in name else "") as received:
        async for chunk in request.stream():
            await to_thread.run_sync(received.write, chunk)
        await to_thread.run_sync(received.flush)
        yield received


async def keep_sound(ws: Workspace, request: Request, name: str, *, sounding: bool = False) -> tuple[Kept, Facts]:
    """Keep the body if it is a sound file, and say what it is; BadAudio with the reason otherwise.

    ``sounding``: nothing but zeros is refused too.
    """
    async with incoming(ws, request, name) as received:
        facts = await to_thread.run_sync(lambda: check_incoming(ws, received, sounding=sounding))
        return await to_thread.run_sync(ws.vault.keep, received), facts
