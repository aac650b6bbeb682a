"""Bringing a bundle in: what is there is neither doubled nor overwritten, what is new gets a number of its own."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Hashable, Iterable, Mapping
from dataclasses import dataclass, field
from pathlib import Path

from pydantic import BaseModel
from sqlalchemy.exc import IntegrityError
from sqlmodel import Session

from cata.errors import Refused
from cata.services.bundle.columns import Row
from cata.services.bundle.links import TABLES, turned
from cata.services.bundle.reading import Bundle, opened
from cata.services.bundle.selecting import Rows, all_rows, digests_of
from cata.services.workspace import Workspace
from cata.store.database import given_numbers
from cata.store.journal import bring

KNOWN_BY: Mapping[str, tuple[str, ...]] = {
    "gear": ("kind", "name"),
    "price": ("gear_id", "kind", "price_minor", "currency", "on_date", "source"),
    "rate": ("base", "quote", "on_date"),
    "deal": ("name", "off_minor", "currency", "on_date", "source"),
    "deal_item": ("deal_id", "gear_id", "name"),
    "brief": ("name", "created_at"),
    "brief_item": ("brief_id", "gear_id", "name"),
    "brief_test": ("brief_id", "test_id"),
    "flight": ("name", "created_at"),
    "contender": ("flight_id", "name", "is_bypass"),
    "test": ("flight_id", "name"),
    "take": ("flight_id", "digest", "filename", "added_at"),
    "planned": ("flight_id", "contender_id", "test_id", "anchor"),
    "recording": ("flight_id", "digest", "added_at"),
    "probe": ("gear_id", "digest", "kind", "bench", "added_at"),
    "accepted": ("take_id", "rule"),
    "habit": ("contender_id", "rule"),
    "choice": ("name", "made_at"),
    "tasting": ("seed",),
    "glass": ("tasting_id", "place"),
    "taster": ("tasting_id", "number"),
    "answer": ("taster_id", "round", "trial"),
    "bed": ("name", "digest"),
    "stem": ("bed_id", "digest", "added_at"),
    "pointed": ("take_id", "word", "who"),
}
"""By what a row that has another name (uid) is the same as one that is there: two shops know the same pedal.

Of several alike the first is the first.
"""
MOST_KEPT_ID = 2**31
"""A row keeps its number where that was never given out here; one beyond this would leave too few for others."""
PLACED = ("contender", "test", "planned")
OFTEN = 8


class Brought(BaseModel):
    """What came in: rows added by table, how many were there already, names of those that differ from what is there.

    ``missing`` are recordings that neither the bundle nor the vault has.
    """

    title: str
    added: dict[str, int]
    same: int
    kept: list[str]
    recordings: int
    missing: int


@dataclass
class _Merge:
    """Numbers in the bundle to numbers here, and which rows are new."""

    numbers: dict[tuple[str, int], int] = field(default_factory=dict)
    fresh: dict[str, list[Row]] = field(default_factory=lambda: defaultdict(list))
    same: int = 0
    kept: list[str] = field(default_factory=list)

    def turn(self, table: str, ident: int) -> int | None:
        """The number that a row of the bundle has here."""
        return self.numbers.get((table, ident))


def import_bundle(ws: Workspace, path: Path, *, dry_run: bool = False) -> Brought:
    """Bring a bundle in as one action that can be undone; with ``dry_run`` only say what would be done.

    Refused for what is no bundle, or is damaged: then nothing is changed.
    """
    with opened(path) as bundle:
        with ws.reading() as session:
            plan = _plan(bundle, all_rows(session), given_numbers(session))
        wanted = digests_of({table: {row["id"]: row for row in plan.fresh[table]} for table in TABLES})
        lacking = [digest for digest in wanted if not ws.vault.path(digest).exists()]
        there = [digest for digest in lacking if digest in bundle.audio]
        if not dry_run and any(plan.fresh.values()):
            for digest in there:
                bundle.keep(ws.vault, digest)
            with ws.acting(f"Bring in the bundle {bundle.title}"[:200]) as session:
                # Somebody may have written meanwhile: what holds is what is there now.
                plan = _plan(bundle, all_rows(session), given_numbers(session))
                _add(session, plan)
        return Brought(
            title=bundle.title, added={table: len(plan.fresh[table]) for table in TABLES if plan.fresh[table]},
            same=plan.same, kept=plan.kept, recordings=len(wanted) - len(lacking) + len(there),
            missing=len(lacking) - len(there),
        )  # fmt: skip


def _plan(bundle: Bundle, here: Rows, given: Mapping[str, int]) -> _Merge:
    """What is new, with the numbers it gets. Owners come before what they own; no number is given out twice."""
    plan = _Merge()
    for table in TABLES:
        rows = sorted(bundle.rows[table], key=lambda row: (table == "probe" and row["loop_id"] is not None, row["id"]))
        named = {row["uid"] for row in rows}
        by_uid = {row["uid"]: row for row in here[table].values()}
        known = _known(table, (row for row in here[table].values() if row["uid"] not in named))
        before = max([0, given.get(table, 0), *here[table]])
        top = max([before, *(row["id"] for row in rows if row["id"] <= MOST_KEPT_ID)])
        for row in rows:
            mine = turned(table, row, plan.turn)
            other = by_uid.get(row["uid"]) or _alike(known, _key(table, mine))
            if other is not None:
                plan.numbers[table, row["id"]] = other["id"]
                _note(plan, table, mine, other)
                continue
            number = row["id"]
            if not before < number <= MOST_KEPT_ID:
                number = top = top + 1
            plan.numbers[table, row["id"]] = number
            plan.fresh[table].append(row)
    plan.fresh = defaultdict(list, {table: [turned(table, row, plan.turn) | {"id": plan.numbers[table, row["id"]]}
                                            for row in rows] for table, rows in plan.fresh.items()})  # fmt: skip
    _make_room(plan, here)
    return plan


def _alike(known: Mapping[Hashable, list[Row]], key: Hashable) -> Row | None:
    alike = known.get(key)
    return alike.pop(0) if alike else None


def _known(table: str, rows: Iterable[Row]) -> dict[Hashable, list[Row]]:
    found: dict[Hashable, list[Row]] = defaultdict(list)
    for row in sorted(rows, key=lambda row: int(row["id"])):
        found[_key(table, row)].append(row)
    return found


def _key(table: str, row: Row) -> Hashable:
    return tuple(row[name] for name in KNOWN_BY[table])


def _note(plan: _Merge, table: str, row: Row, other: Row) -> None:
    """Count what is there already; say of things with names where they differ from what came."""
    plan.same += 1
    differs = any(row[key] != other[key] for key in row if key not in ("id", "uid", "position", "created_at", "order"))
    if differs and table in ("gear", "brief", "flight", "choice", "tasting") and len(plan.kept) < OFTEN * OFTEN:
        plan.kept.append(row["name"])


def _make_room(plan: _Merge, here: Rows) -> None:
    """Places, numbers of slates and cells that are taken: what comes stands behind what is there."""
    for table in PLACED:
        last: dict[int, list[int]] = defaultdict(list)
        for row in here[table].values():
            last[row["flight_id"]].append(row["position"])
        for row in plan.fresh[table]:
            if last.get(row["flight_id"]) and row["flight_id"] in here["flight"]:
                row["position"] = max(last[row["flight_id"]]) + 1
                last[row["flight_id"]].append(row["position"])
    slates = {(row["flight_id"], row["number"]) for row in here["planned"].values()}
    for row in plan.fresh["planned"]:
        while (row["flight_id"], row["number"]) in slates:
            row["number"] += 1
        slates.add((row["flight_id"], row["number"]))
    cells = {(row["contender_id"], row["test_id"], row["repeat"]) for row in here["take"].values()}
    for row in plan.fresh["take"]:
        if row["test_id"] is not None and (row["contender_id"], row["test_id"], row["repeat"]) in cells:
            row |= {"contender_id": None, "test_id": None, "repeat": 0, "aside": True}


def _add(session: Session, plan: _Merge) -> None:
    try:
        for table, model in TABLES.items():
            bring(session, model, plan.fresh[table])
    except IntegrityError as error:
        raise Refused("the bundle does not fit with what is here already; nothing was changed", "bad_row") from error
