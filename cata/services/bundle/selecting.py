"""Which rows belong into a bundle: what is asked for, what it owns, and what those point to."""

from __future__ import annotations

from collections import defaultdict

from sqlmodel import Session, select

from cata.services.bundle.columns import Row, columns_of
from cata.services.bundle.links import TABLES, pointed
from cata.services.workspace import require
from cata.store.tables import Brief, Choice, Flight

Rows = dict[str, dict[int, Row]]
"""Rows by table and number."""
ALONG = ("price", "rate")
"""What goes with gear: its prices, and the rates they are compared by."""
BETWEEN = "brief_test"
"""Goes where both ends go: nobody's flight brings a customer, nor a customer all flights."""


def all_rows(session: Session) -> Rows:
    """Everything that a person entered."""
    return {
        table: {row["id"]: row for row in (one.model_dump(mode="json") for one in session.exec(select(model)).all())}
        for table, model in TABLES.items()
    }


def some_rows(session: Session, *, flight: int | None, brief: int | None, card: int | None) -> tuple[Rows, str]:
    """The rows of a flight, a brief or a card with all that they need, and their name; else everything."""
    everything = _without_what_is_open(all_rows(session))
    if flight is not None:
        title, start = require(session, Flight, flight).name, ("flight", flight)
    elif brief is not None:
        title, start = require(session, Brief, brief).name, ("brief", brief)
    elif card is not None:
        title, start = require(session, Choice, card, "card").name, ("choice", card)
    else:
        return everything, "Everything"
    wanted = _with_all_they_need(everything, {start})
    return {
        table: {ident: row for ident, row in rows.items() if (table, ident) in wanted}
        for table, rows in everything.items()
    }, title  # fmt: skip


def _without_what_is_open(everything: Rows) -> Rows:
    """All but tastings that are not revealed yet: who has their rows knows what is in the glasses."""
    closed = {ident for ident, row in everything["tasting"].items() if row["revealed_at"]}
    tasters = {ident for ident, row in everything["taster"].items() if row["tasting_id"] in closed}
    return everything | {
        "tasting": {ident: everything["tasting"][ident] for ident in closed},
        "taster": {ident: everything["taster"][ident] for ident in tasters},
        "glass": {ident: row for ident, row in everything["glass"].items() if row["tasting_id"] in closed},
        "answer": {ident: row for ident, row in everything["answer"].items() if row["taster_id"] in tasters},
    }


def _with_all_they_need(everything: Rows, start: set[tuple[str, int]]) -> set[tuple[str, int]]:
    owned: dict[tuple[str, int], set[tuple[str, int]]] = defaultdict(set)
    for table, model in TABLES.items():
        keys = [
            (column.name, key.column.table.name) for column in columns_of(model) for key in column.foreign_keys
            if key.ondelete == "CASCADE"
        ]  # fmt: skip
        for ident, row in everything[table].items():
            for name, owner in keys:
                if row[name] is not None:
                    owned[owner, row[name]].add((table, ident))
    wanted, queue = set(start), list(start)
    while queue:
        table, ident = queue.pop()
        if ident not in everything[table]:
            wanted.discard((table, ident))
            continue
        # A thing brings what it owns and what it points to; an item of gear only its prices, not what was measured.
        brings = pointed(table, everything[table][ident])
        brings |= {one for one in owned[table, ident] if (table != "gear" or one[0] in ALONG) and one[0] != BETWEEN}
        fresh = brings - wanted
        wanted |= fresh
        queue += fresh
    wanted |= {(BETWEEN, ident) for ident, row in everything[BETWEEN].items() if pointed(BETWEEN, row) <= wanted}
    if any(table == "price" for table, _ in wanted):
        wanted |= {("rate", ident) for ident in everything["rate"]}
    return wanted


def digests_of(rows: Rows) -> dict[str, str]:
    """The recordings that rows need: SHA-256 to the name they came under."""
    found: dict[str, str] = {}
    for table in ("take", "recording", "probe", "bed", "stem", "glass"):
        for row in rows[table].values():
            if row["digest"]:
                found.setdefault(row["digest"], row.get("filename", ""))
    return found
