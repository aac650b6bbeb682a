"""The journal: every action of a person as the rows it touched, before and after.

One mechanism for all actions: the session's own bookkeeping says what changed, so no action has to know how to take
itself back. What the database would take along by itself (rows of a removed flight, say) is taken by
:func:`cata.store.changes.remove` row by row, so that an undo brings it all back. Derived tables are not tracked; they
are computed again. A row of the journal holds one row of a table, so that a long change is turned in steps.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from datetime import datetime
from typing import Any

from sqlalchemy import event, inspect
from sqlalchemy.orm import UOWTransaction
from sqlmodel import Session, SQLModel, col, delete, insert, select, update

from cata.store.actor import ACTOR
from cata.store.changes import TRACKED, Values, now_of
from cata.store.tables import Change, Gear, Moved

KEPT, KEPT_OF_ALL = 300, 5_000
"""Changes of one browser, and of all together, that can be taken back."""
PRUNED_AT_ONCE = 3_000
"""Rows of forgotten changes that one action clears away: nobody waits for an old import to go."""
ASKED_AT_ONCE = 500


def _before(instance: SQLModel) -> Values:
    state = inspect(instance)
    values: Values = {}
    for attribute in state.mapper.column_attrs:
        history = state.attrs[attribute.key].history
        values[attribute.key] = history.deleted[0] if history.deleted else getattr(instance, attribute.key)
    return values


UNDER_WAY = "action"
"""Where a session has the action that is under way."""


class _Rows:
    """What happens to tracked rows: first and last state of each, in the order they were first touched."""

    def __init__(self) -> None:
        self.found: dict[tuple[str, int], tuple[Values | None, Values | None]] = {}

    def note(self, instance: SQLModel, before: Values | None, after: Values | None) -> None:
        name = type(instance).__name__
        if name not in TRACKED:
            return
        key = (name, (before or after or {})["id"])
        first = self.found[key][0] if key in self.found else before
        self.found[key] = (first, after)

    def after_flush(self, flushed: Session, _context: UOWTransaction) -> None:
        for instance in flushed.new:
            self.note(instance, None, now_of(instance))
        for instance in flushed.dirty:
            if flushed.is_modified(instance):
                self.note(instance, _before(instance), now_of(instance))
        for instance in flushed.deleted:
            self.note(instance, _before(instance), None)

    def changed(self) -> dict[tuple[str, int], tuple[Values | None, Values | None]]:
        return {key: (before, after) for key, (before, after) in self.found.items() if before != after}


@contextmanager
def action(
    session: Session, label: str, at: str, *, joined: bool = False, within_s: float | None = None
) -> Iterator[None]:
    """Record what happens inside as one change that can be undone; nothing is recorded if nothing changed.

    ``joined``: it belongs to the change before it, where that has the same label (takes of one batch), and with
    ``within_s`` only where that is no longer ago (the ticks of one slide).
    """
    rows = _Rows()
    session.info[UNDER_WAY] = rows
    event.listen(session, "after_flush", rows.after_flush)
    try:
        yield
        session.flush()
    finally:
        event.remove(session, "after_flush", rows.after_flush)
        del session.info[UNDER_WAY]
    found = rows.changed()
    if not found:
        return
    session.execute(
        update(Change).where(col(Change.undone), col(Change.by) == ACTOR.get()).values(dropped=True, undone=False)
    )
    label = _with_name(session, label, found)
    last = next_undo(session) if joined else None
    if last is not None and last.label == label and (within_s is None or _seconds(last.at, at) <= within_s):
        last.at = at
        session.add(last)
        _add_to(session, last.id or 0, found)
    else:
        change = Change(at=at, label=label)
        session.add(change)
        session.flush()
        _add(session, change.id or 0, found)
    session.flush()
    _prune(session)


def bring(session: Session, model: type[SQLModel], rows: Sequence[Values]) -> None:
    """Add many whole rows at once, as part of the action that is under way: ten times as fast as one by one."""
    if not rows:
        return
    session.flush()
    session.execute(insert(model), list(rows))
    under_way: _Rows = session.info[UNDER_WAY]
    for row in rows:
        under_way.found[model.__name__, row["id"]] = (None, dict(row))


Found = Mapping[tuple[str, int], tuple[Values | None, Values | None]]


def _add(session: Session, change_id: int, found: Found) -> None:
    names = ("table_name", "row_id", "before", "after")
    rows = [dict(zip(names, (*key, *states), strict=True)) for key, states in found.items()]
    session.execute(insert(Moved).values(change_id=change_id, undone=False), rows)


def _add_to(session: Session, change_id: int, found: Found) -> None:
    """Rows of two changes as of one: a row that both touched goes from its first state to its last."""
    there: dict[tuple[str, int], Moved] = {}
    idents = [ident for _, ident in found]
    for at in range(0, len(idents), ASKED_AT_ONCE):
        some = (Moved.change_id == change_id, col(Moved.row_id).in_(idents[at : at + ASKED_AT_ONCE]))
        there |= {(one.table_name, one.row_id): one for one in session.exec(select(Moved).where(*some)).all()}
    for key in there.keys() & found.keys():
        there[key].after = found[key][1]
        session.add(there[key])
    fresh = {key: states for key, states in found.items() if key not in there}
    if fresh:
        _add(session, change_id, fresh)


def _seconds(before: str, after: str) -> float:
    return (datetime.fromisoformat(after) - datetime.fromisoformat(before)).total_seconds()


NAMED = {
    "Add a price": "Price", "Change brief": "Brief", "Change contender": "Contender", "Change flight": "Flight",
    "Change gear": "Gear", "Change test": "Test", "Remove a price": "Price", "Remove brief": "Brief",
    "Remove contender": "Contender", "Remove flight": "Flight", "Remove gear": "Gear", "Remove test": "Test",
    "Set where a knob starts": "Gear", "Change weights": "Brief",
}  # fmt: skip
"""Actions that say of what they are one, so that a person knows before what an undo takes back: its table."""


def _with_name(session: Session, label: str, found: Found) -> str:
    for (table, _), (before, after) in found.items():
        if table == NAMED.get(label):
            values = after or before or {}
            owner = session.get(Gear, values["gear_id"]) if table == "Price" else None
            return f"{label}: {owner.name if owner is not None else values.get('name', '')}"
    return label


def _prune(session: Session) -> None:
    """Forget the oldest changes, some of their rows at a time."""
    newest = select(Change.id).order_by(col(Change.id).desc()).limit(1)
    mine, all_of = newest.where(Change.by == ACTOR.get()).offset(KEPT), newest.offset(KEPT_OF_ALL)
    own, oldest = session.exec(mine).first() or 0, session.exec(all_of).first() or 0
    too_old = (col(Change.id) <= oldest) | ((col(Change.id) <= own) & (Change.by == ACTOR.get()))
    left = PRUNED_AT_ONCE
    for ident in session.exec(select(Change.id).where(col(Change.dropped) | too_old)).all():
        rows = select(Moved.id).where(Moved.change_id == ident).limit(left)
        left -= session.execute(delete(Moved).where(col(Moved.id).in_(rows))).rowcount  # type: ignore[attr-defined]
        if left <= 0:
            return
        session.execute(delete(Change).where(col(Change.id) == ident))


def mine(statement: Any, *, undone: bool) -> Any:
    """The changes that this browser made, in the order in which they are taken back or brought back.

    One that was stopped half-way stands in both.
    """
    order = col(Change.id) if undone else col(Change.id).desc()
    which = col(Change.undone) | col(Change.partly) if undone else col(Change.undone).is_(False)
    return statement.where(which, col(Change.dropped).is_(False), Change.by == ACTOR.get()).order_by(order)


def next_undo(session: Session) -> Change | None:
    """The change that an undo would take back here."""
    found: Change | None = session.exec(mine(select(Change), undone=False)).first()
    return found


def next_redo(session: Session) -> Change | None:
    """The change that a redo would bring back here."""
    found: Change | None = session.exec(mine(select(Change), undone=True)).first()
    return found


def labels(session: Session) -> tuple[str | None, str | None]:
    """What an undo would take back here and what a redo would bring back."""
    undo, redo = next_undo(session), next_redo(session)
    return undo.label if undo is not None else None, redo.label if redo is not None else None


def is_last(session: Session, label: str) -> bool:
    """True where an undo would take this action back, and nothing waits to be redone."""
    undo_label, redo_label = labels(session)
    return undo_label == label and redo_label is None
