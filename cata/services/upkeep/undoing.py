"""Undo and redo of a person's actions."""

from __future__ import annotations

from cata.services.upkeep.views import UndoView
from cata.services.workspace import Workspace
from cata.store import changes
from cata.store import undo as turning


def state(ws: Workspace) -> UndoView:
    """What can be undone and redone now."""
    with ws.reading() as session:
        undo, redo = changes.labels(session)
        return UndoView(undo=undo, redo=redo)


def undo(ws: Workspace) -> UndoView:
    """Take the last action back."""
    with ws.writing() as session:
        change = turning.undo(session)
    if change is not None:
        ws.changed(f"Undo: {change.label}")
    return state(ws)


def redo(ws: Workspace) -> UndoView:
    """Bring the last undone action back."""
    with ws.writing() as session:
        change = turning.redo(session)
    if change is not None:
        ws.changed(f"Redo: {change.label}")
    return state(ws)
