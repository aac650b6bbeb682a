"""What can be undone."""

from __future__ import annotations

from pydantic import BaseModel


class UndoView(BaseModel):
    """What can be undone and redone now."""

    undo: str | None
    redo: str | None
