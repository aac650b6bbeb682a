"""Answers that are asked for sooner or later, worked out while nobody waits: then Choose opens at once."""

from __future__ import annotations

from cata.services.choice.shelf import choose_from_shelf, kinds_to_choose
from cata.services.workspace import Workspace


def look_ahead(ws: Workspace) -> None:
    """Every kind that was compared, ranked for the oldest brief, as things stand; what is known already costs nothing.

    For what it rests on see :meth:`cata.services.workspace.Workspace.remember`.
    """
    with ws.reading() as session:
        kinds = kinds_to_choose(session)
    for kind in kinds:
        choose_from_shelf(ws, kind)
