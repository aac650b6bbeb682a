"""What has more or less of a word than something: "less boxy than the mid-hump drive"."""

from __future__ import annotations

from collections import defaultdict
from statistics import fmean

from pydantic import BaseModel
from sqlmodel import Session, col, select

from cata.core.names import nearest
from cata.core.vocabulary.asked import Sought, sought
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
        apart, flights = _met(session, asked, item)
    way = f"{'more' if asked.way > 0 else 'less'} {asked.word} than {names[item]}"
    found = []
    for ident, steps in apart.items():
        if all(one is not None for one in steps):
            sure = [one for one in steps if one]
            much, tests = fmean(sure), plural(len(sure), "test")
            text = f"{way} by {abs(much):.1f} steps, in {tests}"
            found.append(Sounding(gear_id=ident, name=names[ident], steps=much, tests=len(sure),
                                  flight_id=flights[ident], text=text))  # fmt: skip
    return sorted(found, key=lambda one: -abs(one.steps))[:MOST]


def _met(session: Session, asked: Sought, item: int) -> tuple[dict[int, list[float | None]], dict[int, int]]:
    """By item that certainly differs somewhere: by how many steps in each such test, None where the other way.

    With a flight in which they met.
    """
    places = (
        select(Take.test_id, Take.contender_id)
        .join(Contender, col(Contender.id) == Take.contender_id)
        .where(Contender.gear_id == item, col(Take.test_id).is_not(None), Take.repeat == 0)
    )
    found: dict[int, list[float | None]] = defaultdict(list)
    flights: dict[int, int] = {}
    for test, contender in session.exec(places).all():
        mine = contender or 0
        _, steps, more = lying(session, test or 0, asked.word)
        others = select(Contender).where(col(Contender.id).in_(steps), col(Contender.gear_id).not_in([item]))
        for row in session.exec(others).all() if mine in steps else []:
            other, ident = row.id or 0, row.gear_id or 0
            wanted, unwanted = (other, mine), (mine, other)
            if asked.way < 0:
                wanted, unwanted = unwanted, wanted
            if more(*wanted) or more(*unwanted):
                found[ident].append(steps[other] - steps[mine] if more(*wanted) else None)
                flights[ident] = row.flight_id
    return found, flights
