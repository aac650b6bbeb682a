"""Turning a change back or forward: what it did is turned, what others did since stays.

A short change is turned in one transaction, all of it or nothing. A long one is turned in steps, parents before what
they own when rows come back, the other way round when they go: others write between two steps, and what was stopped
half-way is gone on with later.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import delete, select, text, update
from sqlalchemy.exc import IntegrityError
from sqlmodel import Session, col

from cata.store.bulk import Bulk
from cata.store.changes import PLACED, TRACKED
from cata.store.rowwise import AT_ONCE, InTheWay, Rowwise, pointing_to, some_of, table_of
from cata.store.tables import Change, Moved, Take

STEP, LONG_STEP = 600, 2_000
"""Rows that are turned while others wait: looked at one by one, and by the database itself."""


class Stopped(Exception):
    """A step that was not taken, what stands in its way, and of how many rows that is."""

    def __init__(self, found: Sequence[InTheWay], total: int) -> None:
        super().__init__(found)
        self.found, self.total = list(found), total


@dataclass(frozen=True)
class Step:
    """Journal rows that are turned in one transaction; of one ``table`` that all ``come`` or all go, or of any kind."""

    idents: Sequence[int]
    table: str = ""
    come: bool = False


def steps_of(session: Session, change: Change, *, back: bool) -> list[Step]:
    """What is left to turn of a change, step by step."""
    now, then = (col(Moved.after), col(Moved.before)) if back else (col(Moved.before), col(Moved.after))
    rows = session.execute(
        select(col(Moved.id), col(Moved.table_name), col(Moved.row_id), now.is_(None), then.is_(None)).where(
            col(Moved.change_id) == change.id, col(Moved.undone).is_not(back)
        )
    ).all()
    kept_together = {model.__name__ for model in PLACED} | {Take.__name__}
    moves_places = any(name in kept_together and not comes and not goes for _, name, _, comes, goes in rows)
    if len(rows) <= STEP or moves_places:
        return [Step([ident for ident, *_ in rows])] if rows else []
    by_table: dict[tuple[str, bool], list[int]] = defaultdict(list)
    changed = []
    for ident, name, _, comes, goes in sorted(rows, key=lambda row: row[2]):
        if comes or goes:
            by_table[name, comes].append(ident)
        else:
            changed.append(ident)
    came = [(name, by_table[name, True]) for name in TRACKED if by_table[name, True]]
    went = [(name, by_table[name, False]) for name in reversed(TRACKED) if by_table[name, False]]
    return [
        *(Step(some, name, True) for name, idents in came for some in some_of(idents, LONG_STEP)),
        *(Step(some) for some in some_of(changed, STEP)),
        *(Step(some, name, False) for name, idents in went for some in some_of(idents, LONG_STEP)),
    ]


def in_the_way(session: Session, step: Step, *, back: bool) -> list[InTheWay]:
    """What would stand in the way of a step now; nothing is moved. What other steps bring is taken as there."""
    bulk = _bulk(session, step, back=back)
    if bulk is None:
        return Rowwise(session, step.idents, back=back).look(alone=False)[1]
    found = [(row, "there") for row in bulk.there()] if step.come else _kept_from_going(bulk, step)
    return _named(session, step.table, found)


def take(session: Session, step: Step, *, back: bool, rest: bool = False) -> None:
    """Turn the rows of a step. Stopped where somebody has changed the same since: then nothing is moved.

    ``rest``: what cannot be turned is left as it is, and forgotten.
    """
    session.connection().execute(text("PRAGMA defer_foreign_keys=ON"))
    bulk = _bulk(session, step, back=back)
    if bulk is not None:
        found = _bulk_in_the_way(bulk, step)
        if not found:
            bulk.come() if step.come else bulk.go()
            bulk.note(undone=back)
            return
        if not rest:
            raise Stopped(_named(session, step.table, found), len(step.idents))
    _take(session, step.idents, back=back, rest=rest)


def _bulk(session: Session, step: Step, *, back: bool) -> Bulk | None:
    """A step as the database itself can take it; None where rows are looked at one by one."""
    if not step.table:
        return None
    found = Bulk(session, table_of(step.table), step.idents, "after" if back != step.come else "before")
    return found if found.fits() else None


def _bulk_in_the_way(bulk: Bulk, step: Step) -> list[tuple[int, str]]:
    if step.come:
        return [*((row, "there") for row in bulk.there()), *((row, "gone") for row in bulk.orphans())]
    return _kept_from_going(bulk, step)


def _kept_from_going(bulk: Bulk, step: Step) -> list[tuple[int, str]]:
    pointing = [(name, table_of(name), column) for name, column in pointing_to(table_of(step.table).name)]
    return [*bulk.changed(), *((row, "used") for row in bulk.used(pointing))]


def _named(session: Session, name: str, found: Sequence[tuple[int, str]]) -> list[InTheWay]:
    table = table_of(name)
    label = next((table.c[key] for key in ("name", "filename") if key in table.c), None)
    names = {}
    if label is not None:
        some = [row for row, _ in found[:AT_ONCE]]
        rows = session.execute(select(table.c.id, label).where(table.c.id.in_(some))).all()
        names = {ident: name for ident, name in rows}  # noqa: C416 - a row is no pair to mypy
    return [InTheWay(why, name, row, str(names.get(row, ""))) for row, why in found]


def _take(session: Session, idents: Sequence[int], *, back: bool, rest: bool) -> None:
    this = Rowwise(session, idents, back=back)
    wanted, stopped = this.look()
    if stopped and not rest:
        raise Stopped(stopped, len(idents))
    try:
        with session.begin_nested():
            this.apply(wanted)
    except IntegrityError as error:
        if not rest or len(idents) == 1:
            raise Stopped(this.all_of("changed", wanted), len(idents)) from error
        # One of them does not fit with what others did: each by itself, those that fit.
        for ident in idents:
            try:
                _take(session, [ident], back=back, rest=True)
            except Stopped:
                session.execute(delete(Moved).where(col(Moved.id) == ident))
        return
    done = [this.journal[key] for key in wanted]
    for some in some_of(done):
        session.execute(update(Moved).where(col(Moved.id).in_(some)).values(undone=back))
    for some in some_of([*(set(idents) - set(done))]):
        session.execute(delete(Moved).where(col(Moved.id).in_(some)))
