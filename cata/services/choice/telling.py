"""What a page asks beside a ranking: where the next take would be played, and which test shows which sound."""

from __future__ import annotations

from cata.core.brief import Need
from cata.core.choose.next import Tells
from cata.core.choose.showing import By
from cata.services.choice.pooling import Gathered
from cata.services.choice.views import NextTake, SoundName, TestShows


def where(told: Gathered, tells: Tells) -> NextTake | None:
    """In which flight and test a take would be played: where the item stands, else where most others do."""
    cells = [cell for cell, shows in told.shows.items() if tells.sound in shows.sounds]
    if not cells:
        return None
    mine = told.flights.get(tells.ident, set())
    cell = max(cells, key=lambda one: (told.tests[one].flight in mine, told.counts[one], one))
    flight = told.tests[cell].flight
    alone = told.evidence.one_flight
    return NextTake(
        gear_id=None if alone else tells.ident, contender_id=tells.ident if alone else None,
        flight_id=flight, flight_name=told.names[flight], test_id=cell, test=told.tests[cell].name,
        chance=tells.chance, again=tells.again, minutes=told.minutes[cell],
    )  # fmt: skip


def shown_in(told: Gathered, need: Need) -> tuple[list[SoundName], list[TestShows]]:
    """The sounds of a need, and which of them the tests show: tests of one name that show the same stand together."""
    spoken_for = {key for shows in told.shows.values() if shows.by != "nobody" for key in shows.sounds}
    alike: dict[tuple[str, tuple[str, ...], By], list[int]] = {}
    for ident, shows in told.shows.items():
        alike.setdefault((told.tests[ident].name, shows.sounds, shows.by), []).append(ident)
    tests = [
        TestShows(name=name, test_ids=idents, sounds=list(sounds), by=by,
                  flights=list(dict.fromkeys(told.names[told.tests[one].flight] for one in idents)))
        for (name, sounds, by), idents in alike.items()
    ]  # fmt: skip
    return [SoundName(key=one.key, name=one.name, open=one.key not in spoken_for) for one in need.sounds], tests
