"""Finding anything by its words: gear, flights, their contenders, tests and takes, briefs; gear by how it sounds."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel
from sqlalchemy import text
from sqlmodel import Session, col, select

from cata.services.tasting.veil import check_veil
from cata.services.vocabulary.seeking import seek
from cata.services.words import matching
from cata.services.workspace import Workspace
from cata.store.tables import Flight

What = Literal["gear", "flight", "contender", "test", "take", "brief"]
PLACES: tuple[What, ...] = ("gear", "flight", "contender", "test", "take", "brief")
"""In the order of the migration that makes the index: a row's number is 8 times its id and its place here."""
MOST = 30
TITLE_WEIGHT = 8.0
SEARCH = text(
    "SELECT rowid, title, flight FROM find WHERE find MATCH :words "
    "ORDER BY bm25(find, :weight, 1.0) - (rowid % 8 IN (0, 1)) * 0.5, rowid LIMIT :most"
)


class Found(BaseModel):
    """Something that was found: what it is, its name, where it stands, and the address of its page."""

    what: What
    id: int
    title: str
    where: str
    address: str


def find(ws: Workspace, query: str) -> list[Found]:
    """What holds all the words, or words that begin so; the best first, at most 30. Case and accents do not count.

    What a search by a word of players finds ("less boxy than ...") comes first.
    """
    sounding = [Found(what="gear", id=one.gear_id, title=one.name, where=one.text, address=f"/gear/{one.gear_id}")
                for one in seek(ws, query)]  # fmt: skip
    if sounding:
        with ws.reading() as session:
            check_veil(session, None)
        return sounding
    sought = matching(query)
    if not sought:
        return []
    with ws.reading() as session:
        given = {"words": sought, "weight": TITLE_WEIGHT, "most": MOST}
        rows = session.connection().execute(SEARCH, given).all()
        names = _flights(session, {row.flight for row in rows if row.flight is not None})
    return [_found(row.rowid, row.title, row.flight, names) for row in rows]


def _flights(session: Session, idents: set[int]) -> dict[int, str]:
    found = session.exec(select(Flight.id, Flight.name).where(col(Flight.id).in_(idents)))
    return {ident or 0: name for ident, name in found}


def _found(number: int, title: str, flight: int | None, names: dict[int, str]) -> Found:
    ident, what = number // 8, PLACES[number % 8]
    addresses: dict[What, str] = {
        "gear": f"/gear/{ident}",
        "flight": f"/flights/{ident}",
        "contender": f"/flights/{flight}/plan",
        "test": f"/flights/{flight}/plan",
        "take": f"/flights/{flight}/takes",
        "brief": "/brief",
    }
    where = "" if what in ("flight", "gear", "brief") else names.get(flight or 0, "")
    return Found(what=what, id=ident, title=title, where=where, address=addresses[what])
