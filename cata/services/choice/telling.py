"""Where the take that would tell most would be played."""

from __future__ import annotations

from cata.core.choose.next import Tells
from cata.services.choice.pooling import Gathered
from cata.services.choice.views import NextTake


def where(told: Gathered, tells: Tells) -> NextTake | None:
    """In which flight and test a take would be played: where the item stands, else where most others do."""
    cells = [cell for cell, sound in told.sounds.items() if sound == tells.sound]
    if not cells:
        return None
    mine = told.flights.get(tells.ident, set())
    cell = max(cells, key=lambda one: (told.flight_of[one] in mine, told.counts[one], one))
    flight = told.flight_of[cell]
    return NextTake(
        gear_id=tells.ident, flight_id=flight, flight_name=told.names[flight], test_id=cell, test=told.tests[str(cell)],
        chance=tells.chance, again=tells.again, minutes=told.minutes[cell],
    )  # fmt: skip
