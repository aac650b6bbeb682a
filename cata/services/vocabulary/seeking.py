"""What has more or less of a word than something: "less boxy than the mid-hump drive"."""

from __future__ import annotations

from collections import defaultdict

from pydantic import BaseModel
from sqlmodel import Session, col, select

from cata.core.names import nearest
from cata.core.vocabulary.asked import Met, Sought, differs, sought
from cata.core.words import plural
from cata.services.vocabulary.words import lying
from cata.services.workspace import Workspace
from cata.store.tables import Contender, Gear, Take

MOST = 12


class Sounding(BaseModel):
    """An item with more or less of a word than another: by how many noticed steps, in how many tests they met."""

    gear_id: int
    name: str
    steps: float
    tests: int
    flight_id: int
    text: str


def seek(ws: Workspace, text: str) -> list[Sounding]:
    """Items that were heard beside the one that is named and have certainly more or less of the word, the most first.

    Only what met it in a test is held against it, and only what differs in no test the other way.
    """
    asked = sought(text)
    if asked is None:
        return []
    with ws.reading() as session:
        rows = session.exec(select(Gear.id, Gear.name).order_by(col(Gear.id))).all()
        names = {ident or 0: name for ident, name in rows}
        at = nearest(asked.what, list(names.values()))
        if at is None:
            return []
        item = list(names)[at]
        met, flights = _met(session, asked, item)
    way = f"{'more' if asked.way > 0 else 'less'} {asked.word} than {names[item]}"
    found = []
    for ident, tests in met.items():
        much = differs(asked.way, tests)
        if much is not None:
            told = f"{way} by {abs(much.steps):.1f} steps, in {plural(much.tests, 'test')}"
            found.append(Sounding(gear_id=ident, name=names[ident], steps=much.steps, tests=much.tests,
                                  flight_id=flights[ident], text=told))  # fmt: skip
    return sorted(found, key=lambda one: -abs(one.steps))[:MOST]


def _met(session: Session, asked: Sought, item: int) -> tuple[dict[int, list[Met]], dict[int, int]]:
    """By item: the tests in which it met another, and a flight in which it differs from that for sure."""
    places = (
        select(Take.test_id, Take.contender_id)
        .join(Contender, col(Contender.id) == Take.contender_id)
        .where(Contender.gear_id == item, col(Take.test_id).is_not(None), Take.repeat == 0)
    )
    found: dict[int, list[Met]] = defaultdict(list)
    flights: dict[int, int] = {}
    for test, contender in session.exec(places).all():
        mine = contender or 0
        _, steps, more = lying(session, test or 0, asked.word)
        others = select(Contender).where(col(Contender.id).in_(steps), col(Contender.gear_id).not_in([item]))
        for row in session.exec(others).all() if mine in steps else []:
            other, ident = row.id or 0, row.gear_id or 0
            sure = more(other, mine) - more(mine, other)
            found[ident].append(Met(steps[other] - steps[mine], sure))
            if sure:
                flights[ident] = row.flight_id
    return found, flights
