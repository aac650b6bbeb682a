"""Answers that are asked for sooner or later, worked out while nobody waits: then Choose opens at once."""

from __future__ import annotations

from cata.services.choice.choosing import choose, kinds_to_choose
from cata.services.choice.counting import begin_beside
from cata.services.choice.rigs import find_rigs
from cata.services.workspace import Workspace


def look_ahead(ws: Workspace) -> None:
    """Every kind that was compared, ranked for the oldest brief, and its rig; what is known already costs nothing."""
    with ws.reading() as session:
        kinds = kinds_to_choose(session)
    if kinds:
        begin_beside(ws)
    for kind in kinds:
        choose(ws, kind)
    if kinds:
        find_rigs(ws)
