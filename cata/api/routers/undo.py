"""Undo and redo of this browser's own actions."""

from __future__ import annotations

from fastapi import APIRouter

from cata.api.deps import WS
from cata.services.upkeep import undoing
from cata.services.upkeep.views import UndoView

router = APIRouter(prefix="/api", tags=["undo"])


@router.get("/undo")
def undo_state(ws: WS) -> UndoView:
    """What can be undone and redone."""
    return undoing.state(ws)


@router.post("/undo")
def undo(ws: WS, how: undoing.How = "all") -> UndoView:
    """Take the last action back. What stands in its way is said; then "rest" does what can be done, "skip" nothing."""
    return undoing.undo(ws, how)


@router.post("/redo")
def redo(ws: WS, how: undoing.How = "all") -> UndoView:
    """Bring the last undone action back; ``how`` as of the undo."""
    return undoing.redo(ws, how)


@router.delete("/undo", status_code=204)
def stop_undo(ws: WS) -> None:
    """Stop a long undo or redo of this browser; it can be gone on with."""
    undoing.stop(ws)
