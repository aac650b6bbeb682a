"""Which rows a row points to: by its foreign keys, and by numbers inside what it holds as JSON."""

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


def turned(table: str, row: Row, turn: Turn) -> Row:
    """The row with every pointer turned; one that leads nowhere is let go, its own number stays."""
    found = deepcopy(row)
    for column in columns_of(TABLES[table]):
        for key in column.foreign_keys:
            if found.get(column.name) is not None:
                found[column.name] = turn(key.column.table.name, found[column.name])
    inside = INSIDE.get(table)
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


def _turn_in(holder: Any, key: str, table: str, turn: Turn) -> None:
    if isinstance(holder, dict) and isinstance(holder.get(key), int):
        holder[key] = turn(table, holder[key])


def _turn_list(holder: Any, key: str, table: str, turn: Turn) -> None:
    if isinstance(holder, dict) and isinstance(holder.get(key), list):
        there = [turn(table, one) for one in holder[key] if isinstance(one, int)]
        holder[key] = [one for one in there if one is not None]


def _need(need: Any, turn: Turn) -> None:
    _turn_list(need, "own_items", "gear", turn)
    if isinstance(need, dict) and isinstance(need.get("feel"), dict):
        there = {turn("gear", int(key)): value for key, value in need["feel"].items() if str(key).isdecimal()}
        need["feel"] = {str(key): value for key, value in there.items() if key is not None}


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
    asked = row.get("asked")
    for key, table in (("brief_id", "brief"), ("flight_id", "flight")):
        _turn_in(asked, key, table, turn)
    if isinstance(asked, dict):
        _turn_in(asked, "chosen", "contender" if asked.get("source") == "flight" else "gear", turn)
    _turn_list(asked, "locked", "gear", turn)
    _need(row.get("need"), turn)
    for part in (row.get("card") or {}).get("parts") or []:
        _turn_in(part, "gear_id", "gear", turn)


INSIDE: Mapping[str, Callable[[Row, Turn], None]] = {
    "deal": lambda row, turn: _turn_list(row, "items", "gear", turn),
    "brief": lambda row, turn: _need(row.get("need"), turn),
    "flight": _flight,
    "contender": _contender,
    "recording": _recording,
    "choice": _choice,
    "tasting": lambda row, turn: _turn_list(row, "contenders", "contender", turn),
}
