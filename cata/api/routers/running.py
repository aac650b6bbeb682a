"""What is going on: who does the background work, and events as they happen."""

from __future__ import annotations

import asyncio
import queue
import threading
from collections.abc import AsyncIterable

from fastapi import APIRouter, Request
from fastapi.sse import EventSourceResponse, ServerSentEvent
from pydantic import BaseModel

from cata.api.deps import WS
from cata.said import Said

router = APIRouter(prefix="/api", tags=["running"])

POLL_S = 0.1


class WorkersView(BaseModel):
    """What does the background work: how many pieces of it at once, and why none goes on where none does."""

    room: int
    trouble: Said | None


@router.get("/workers")
def workers(ws: WS) -> WorkersView:
    """What does the background work."""
    return WorkersView(room=ws.workers.room, trouble=ws.trouble)


@router.get("/events", response_class=EventSourceResponse)
async def events(request: Request, ws: WS) -> AsyncIterable[ServerSentEvent]:
    """Server-sent events: changes, and the progress of background work."""
    stopping: threading.Event = request.app.state.stopping
    with ws.bus.listen() as listener:
        yield ServerSentEvent(comment="listening")
        while not stopping.is_set():
            try:
                yield ServerSentEvent(data=listener.get_nowait())
            except queue.Empty:
                await asyncio.sleep(POLL_S)
