"""Undo, events, and what the program knows: readings, sounds, rules."""

from __future__ import annotations

import asyncio
import queue
import threading
from collections.abc import AsyncIterable

from fastapi import APIRouter, Request
from fastapi.sse import EventSourceResponse, ServerSentEvent
from pydantic import BaseModel

from cata import __version__
from cata.api.deps import WS
from cata.core.brief import SOUNDS, Sound
from cata.core.match.finding import RULES
from cata.core.measure.registry import READINGS
from cata.demo.seed import is_seeded
from cata.services.upkeep import undoing
from cata.services.upkeep.views import UndoView

router = APIRouter(prefix="/api", tags=["meta"])

POLL_S = 0.1


class PartInfo(BaseModel):
    """A part of a reading that is not one number."""

    key: str
    name: str


class ReadingInfo(BaseModel):
    """A reading as the registry describes it."""

    key: str
    name: str
    unit: str
    family: str
    about: str
    needs: str
    source: str
    parts: list[PartInfo]


class SoundInfo(BaseModel):
    """A ready sound for a brief."""

    about: str
    sound: Sound


class RuleInfo(BaseModel):
    """A rule of the audit."""

    key: str
    name: str
    about: str


class Meta(BaseModel):
    """What the program knows; ``demo`` where the data is the demo's."""

    version: str
    demo: bool
    readings: list[ReadingInfo]
    sounds: list[SoundInfo]
    rules: list[RuleInfo]


@router.get("/meta")
def meta(ws: WS) -> Meta:
    """Readings, sounds and rules."""
    return Meta(
        version=__version__,
        demo=is_seeded(ws),
        readings=[
            ReadingInfo(
                key=r.key, name=r.name, unit=r.unit, family=r.family, about=r.about, needs=r.needs, source=r.source,
                parts=[PartInfo(key=key, name=name) for key, name in r.parts],
            )
            for r in READINGS
        ],
        sounds=[SoundInfo(about=s.about, sound=s.as_sound()) for s in SOUNDS],
        rules=[RuleInfo(key=r.key, name=r.name, about=r.about) for r in RULES],
    )  # fmt: skip


@router.get("/undo")
def undo_state(ws: WS) -> UndoView:
    """What can be undone and redone."""
    return undoing.state(ws)


@router.post("/undo")
def undo(ws: WS) -> UndoView:
    """Take the last action back."""
    return undoing.undo(ws)


@router.post("/redo")
def redo(ws: WS) -> UndoView:
    """Bring the last undone action back."""
    return undoing.redo(ws)


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
