"""The order of takes as it stands after the audit: what cannot be used is to be played again."""

from __future__ import annotations

from cata.services.match.worst import to_play_again
from cata.services.plan.sheet import get_order
from cata.services.plan.views import OrderView
from cata.services.workspace import Workspace


def order_of(ws: Workspace, flight_id: int, *, short: bool = False) -> OrderView:
    """The order with what Match wants played again; ``short``: what is open alone, as an order for another day."""
    with ws.reading() as session:
        again = to_play_again(session, flight_id)
    return get_order(ws, flight_id, again, short=short)
