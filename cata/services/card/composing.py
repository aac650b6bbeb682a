"""A choice made into a card: from the whole shelf, from a flight, or a rig."""

from __future__ import annotations

from cata.core.brief import Need
from cata.core.card.card import Card
from cata.services.card.of_item import of_item
from cata.services.card.of_rig import of_rig
from cata.services.card.views import CardIn
from cata.services.choice import choosing, rigs
from cata.services.plan.setups import chain_names
from cata.services.workspace import Workspace


def compose(ws: Workspace, asked: CardIn, need: Need | None = None) -> Card:
    """The card of what was asked for; ``need`` instead of what the brief says now. Conflict where nothing is chosen."""
    day = ws.now()[:10]
    if asked.source == "rig":
        money, locked = asked.budget_minor, asked.locked
        return of_rig(day, asked, rigs.seek(ws, asked.brief_id, need, budget_minor=money, locked=locked, curve=False))
    flight_id = asked.flight_id if asked.source == "flight" else None
    here = choosing.stand(ws, asked.kind or "", asked.brief_id, need, flight_id=flight_id)
    if here.flight is None:
        return of_item(day, asked, here)
    with ws.reading() as session:
        chains = chain_names(session, here.flight)
    chosen = asked.chosen or (here.ranked[0].candidate.ident if here.ranked else 0)
    return of_item(day, asked, here, chains.get(chosen, ()))
