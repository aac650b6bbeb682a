"""The undo log: every action of a person as the rows it touched, before and after.

One mechanism for all actions: the session's own bookkeeping says what changed, so no action has to know how to take
itself back. What the database would take along by itself (rows of a removed flight, say) is taken by :func:`remove` row
by row, so that an undo brings it all back. Derived tables are not tracked; they are computed again.
"""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from datetime import datetime
from typing import Any

from sqlalchemy import event, inspect
from sqlalchemy.orm import UOWTransaction
from sqlmodel import Session, SQLModel, col, select

from cata.errors import Invalid
from cata.store.actor import ACTOR
from cata.store.tables import Change, Contender, Gear, Planned, Take, Test
from cata.store.tables.entered import ENTERED

TRACKED: dict[str, type[SQLModel]] = {model.__name__: model for model in ENTERED}
KEPT = 500
PLACED: tuple[type[SQLModel], ...] = (Contender, Test, Planned)
"""Tables in which no two rows of a flight have the same place."""
Values = dict[str, Any]


def remove(session: Session, row: SQLModel) -> None:
    """Remove a row with all that goes with it; rows that only point to it lose their pointer."""
    session.flush()
    table = row.__table__.name  # type: ignore[attr-defined]
    ident = row.id  # type: ignore[attr-defined]
    for model in TRACKED.values():
        for key in (key for column in model.__table__.columns for key in column.foreign_keys):  # type: ignore[attr-defined]
            if key.column.table.name != table:
                continue
            pointing = session.exec(select(model).where(col(getattr(model, key.parent.name)) == ident)).all()
            for other in pointing:
                if key.ondelete == "CASCADE":
                    remove(session, other)
                else:
                    let_go(other, key.parent.name)
                    session.add(other)
            session.flush()
    session.delete(row)
    session.flush()


def let_go(row: SQLModel, column: str) -> None:
    """Take a pointer away; a take that loses its row or its column leaves its cell."""
    setattr(row, column, None)
    if isinstance(row, Take) and column in ("contender_id", "test_id"):
        row.contender_id, row.test_id, row.repeat = None, None, 0


def in_places(session: Session, rows: list[Any]) -> None:
    """Number rows of one flight (contenders, tests, planned takes) in this order."""
    moved = [(row, place) for place, row in enumerate(rows) if row.position != place]
    for row, place in moved:
        row.position = -1 - place
        session.add(row)
    session.flush()
    for row, place in moved:
        row.position = place
        session.add(row)
    session.flush()


def _before(instance: SQLModel) -> Values:
    state = inspect(instance)
    values: Values = {}
    for attribute in state.mapper.column_attrs:
        history = state.attrs[attribute.key].history
        values[attribute.key] = history.deleted[0] if history.deleted else getattr(instance, attribute.key)
    return values


def now_of(instance: SQLModel) -> Values:
    """The columns of a row as they stand."""
    return {attribute.key: getattr(instance, attribute.key) for attribute in inspect(instance).mapper.column_attrs}


def check_texts(session: Session, _context: UOWTransaction, _instances: Any) -> None:
    """Refuse what is no text (halves of characters): it could be kept, but never shown again."""
    for instance in (*session.new, *session.dirty):
        for name, value in now_of(instance).items():
            if not _is_text(value):
                raise Invalid(f"{name}: the text holds half a character, which cannot be shown", "not_text")


def _is_text(value: Any) -> bool:
    if isinstance(value, str):
        return not any("\ud800" <= c <= "\udfff" for c in value)
    if isinstance(value, dict):
        return all(_is_text(key) and _is_text(one) for key, one in value.items())
    return all(map(_is_text, value)) if isinstance(value, list | tuple) else True


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

    def as_json(self) -> list[Values]:
        return [
            {"table": table, "before": before, "after": after}
            for (table, _), (before, after) in self.found.items()
            if before != after
        ]


@contextmanager
def action(
    session: Session, label: str, at: str, *, joined: bool = False, within_s: float | None = None
) -> Iterator[None]:
    """Record what happens inside as one change that can be undone; nothing is recorded if nothing changed.

    ``joined``: it belongs to the change before it, where that has the same label (takes of one batch), and with
    ``within_s`` only where that is no longer ago (the ticks of one slide).
    """
    rows = _Rows()
    event.listen(session, "after_flush", rows.after_flush)
    try:
        yield
        session.flush()
    finally:
        event.remove(session, "after_flush", rows.after_flush)
    found = rows.as_json()
    if not found:
        return
    for undone in session.exec(select(Change).where(Change.undone, Change.by == ACTOR.get())).all():
        session.delete(undone)
    label = _with_name(session, label, found)
    last = next_undo(session) if joined else None
    if last is not None and last.label == label and (within_s is None or _seconds(last.at, at) <= within_s):
        last.rows = _one_after_another(last.rows, found)
        last.at = at
        session.add(last)
    else:
        session.add(Change(at=at, label=label, rows=found))
    session.flush()
    _prune(session)


def _one_after_another(before: list[Values], after: list[Values]) -> list[Values]:
    """Rows of two changes as of one: a row that both touched goes from its first state to its last."""
    merged: dict[tuple[str, int], Values] = {}
    for row in (*before, *after):
        key = (row["table"], (row["before"] or row["after"])["id"])
        first = merged[key]["before"] if key in merged else row["before"]
        merged[key] = {"table": row["table"], "before": first, "after": row["after"]}
    return list(merged.values())


def _seconds(before: str, after: str) -> float:
    return (datetime.fromisoformat(after) - datetime.fromisoformat(before)).total_seconds()


NAMED = {
    "Add a price": "Price", "Change brief": "Brief", "Change contender": "Contender", "Change flight": "Flight",
    "Change gear": "Gear", "Change test": "Test", "Remove a price": "Price", "Remove brief": "Brief",
    "Remove contender": "Contender", "Remove flight": "Flight", "Remove gear": "Gear", "Remove test": "Test",
    "Set where a knob starts": "Gear", "Change weights": "Brief",
}  # fmt: skip
"""Actions that say of what they are one, so that a person knows before what an undo takes back: its table."""


def _with_name(session: Session, label: str, rows: list[Values]) -> str:
    for row in rows:
        if row["table"] == NAMED.get(label):
            values = row["after"] or row["before"]
            owner = session.get(Gear, values["gear_id"]) if row["table"] == "Price" else None
            return f"{label}: {owner.name if owner is not None else values.get('name', '')}"
    return label


def _prune(session: Session) -> None:
    old = session.exec(select(Change.id).order_by(col(Change.id).desc()).offset(KEPT)).all()
    for ident in old:
        session.delete(session.get_one(Change, ident))


def mine(statement: Any, *, undone: bool) -> Any:
    """The changes that this browser made, in the order in which they are taken back or brought back."""
    order = col(Change.id) if undone else col(Change.id).desc()
    return statement.where(col(Change.undone).is_(undone), Change.by == ACTOR.get()).order_by(order)


def next_undo(session: Session) -> Change | None:
    """The change that an undo would take back here."""
    found: Change | None = session.exec(mine(select(Change), undone=False)).first()
    return found


def labels(session: Session) -> tuple[str | None, str | None]:
    """What an undo would take back here and what a redo would bring back, without the rows they would move."""
    label = select(Change.label)
    return session.exec(mine(label, undone=False)).first(), session.exec(mine(label, undone=True)).first()


def is_last(session: Session, label: str) -> bool:
    """True where an undo would take this action back, and nothing waits to be redone."""
    undo_label, redo_label = labels(session)
    return undo_label == label and redo_label is None
