"""Which rows a row points to: by its foreign keys, and by numbers inside what it holds as JSON.

What is gone travels as gone: a key becomes empty, a number in a copy that must not be empty becomes 0, which names
nothing. Nothing takes the place of what is gone.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from copy import deepcopy
from typing import Any

from sqlmodel import SQLModel

from cata.services.bundle.columns import Row, columns_of
from cata.store.changes import TRACKED

Turn = Callable[[str, int], int | None]
"""From a table and a number to the number it has elsewhere; None where it is not there."""
TABLES: Mapping[str, type[SQLModel]] = {str(model.__tablename__): model for model in TRACKED.values()}
"""Tables by name, those that own others before what they own."""
GONE = 0


def turned(table: str, row: Row, turn: Turn) -> Row:
    """The row with every pointer turned; its own number stays."""
    inside = INSIDE.get(table)
    found = dict(row) if inside is None else deepcopy(row)
    for column in columns_of(TABLES[table]):
        for key in column.foreign_keys:
            if found.get(column.name) is not None:
                found[column.name] = turn(key.column.table.name, found[column.name])
    if inside is not None:
        inside(found, turn)
    return found


def pointed(table: str, row: Row) -> set[tuple[str, int]]:
    """All rows that a row points to, as table and number."""
    found: set[tuple[str, int]] = set()

    def note(other: str, ident: int) -> int:
        found.add((other, ident))
        return ident

    turned(table, row, note)
    return found


def _turn_in(holder: Any, key: str, table: str, turn: Turn, gone: int | None = None) -> None:
    if isinstance(holder, dict) and isinstance(holder.get(key), int):
        there = turn(table, holder[key])
        holder[key] = gone if there is None else there


def _links(links: Any, turn: Turn) -> None:
    for link in links if isinstance(links, list) else []:
        _turn_in(link, "gear_id", "gear", turn)


def _flight(row: Row, turn: Turn) -> None:
    _links((row.get("chain") or {}).get("links"), turn)
    wish = (row.get("order") or {}).get("wish")
    _turn_in(wish, "anchor_contender_id", "contender", turn)
    _turn_in(wish, "anchor_test_id", "test", turn)


def _contender(row: Row, turn: Turn) -> None:
    links = (row.get("changes") or {}).get("links")
    _links(list(links.values()) if isinstance(links, dict) else [], turn)


def _recording(row: Row, turn: Turn) -> None:
    for piece in row.get("pieces") or []:
        _turn_in(piece, "take_id", "take", turn)
        _turn_in(piece, "planned_id", "planned", turn)


def _choice(row: Row, turn: Turn) -> None:
    asked, need = row.get("asked") or {}, row.get("need") or {}
    for key, table in (("brief_id", "brief"), ("flight_id", "flight")):
        _turn_in(asked, key, table, turn, GONE)
    _turn_in(asked, "chosen", "contender" if asked.get("source") == "flight" else "gear", turn, GONE)
    for holder, key in ((asked, "locked"), (need, "own_items")):
        if isinstance(holder.get(key), list):
            holder[key] = [turn("gear", one) or GONE for one in holder[key]]
    if isinstance(need.get("feel"), dict):
        there = {turn("gear", int(key)): value for key, value in need["feel"].items()}
        need["feel"] = {str(key): value for key, value in there.items() if key is not None}
    if isinstance(need.get("shows"), dict):
        tests = {turn("test", int(key)): value for key, value in need["shows"].items()}
        need["shows"] = {str(key): value for key, value in tests.items() if key is not None}
    for part in (row.get("card") or {}).get("parts") or []:
        _turn_in(part, "gear_id", "gear", turn)


INSIDE: Mapping[str, Callable[[Row, Turn], None]] = {
    "flight": _flight, "contender": _contender, "recording": _recording, "choice": _choice,
}  # fmt: skip
"""Copies that name rows by number; what else points to rows does it by foreign keys."""
