"""The undo log: every action of a person as the rows it touched, before and after.

One mechanism for all actions: the session's own bookkeeping says what changed, so no action has to know how to take
itself back. What the database would take along by itself (rows of a removed flight, say) is taken by :func:`remove` row
by row, so that an undo brings it all back. Derived tables are not tracked; they are computed again.
"""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from sqlalchemy import event, inspect, text
from sqlalchemy.orm import UOWTransaction
from sqlmodel import Session, SQLModel, col, select

from cata.errors import Invalid
from cata.store.tables import Change, Contender, Planned, Take, Test
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


def _now(instance: SQLModel) -> Values:
    return {attribute.key: getattr(instance, attribute.key) for attribute in inspect(instance).mapper.column_attrs}


def check_texts(session: Session, _context: UOWTransaction, _instances: Any) -> None:
    """Refuse what is no text (halves of characters): it could be kept, but never shown again."""
    for instance in (*session.new, *session.dirty):
        for name, value in _now(instance).items():
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
            self.note(instance, None, _now(instance))
        for instance in flushed.dirty:
            if flushed.is_modified(instance):
                self.note(instance, _before(instance), _now(instance))
        for instance in flushed.deleted:
            self.note(instance, _before(instance), None)

    def as_json(self) -> list[Values]:
        return [
            {"table": table, "before": before, "after": after}
            for (table, _), (before, after) in self.found.items()
            if before != after
        ]


@contextmanager
def action(session: Session, label: str, at: str, *, joined: bool = False) -> Iterator[None]:
    """Record what happens inside as one change that can be undone; nothing is recorded if nothing changed.

    ``joined``: it belongs to the change before it, where that has the same label (takes of one batch).
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
    for undone in session.exec(select(Change).where(Change.undone)).all():
        session.delete(undone)
    last = _next_undo(session) if joined else None
    if last is not None and last.label == label:
        last.rows = [*last.rows, *found]
        session.add(last)
    else:
        session.add(Change(at=at, label=label, rows=found))
    session.flush()
    _prune(session)


def _prune(session: Session) -> None:
    old = session.exec(select(Change.id).order_by(col(Change.id).desc()).offset(KEPT)).all()
    for ident in old:
        session.delete(session.get_one(Change, ident))


def _next_undo(session: Session) -> Change | None:
    return session.exec(select(Change).where(col(Change.undone).is_(False)).order_by(col(Change.id).desc())).first()


def _next_redo(session: Session) -> Change | None:
    return session.exec(select(Change).where(Change.undone).order_by(col(Change.id))).first()


def labels(session: Session) -> tuple[str | None, str | None]:
    """What an undo would take back and what a redo would bring back, without the rows they would move."""
    label = select(Change.label)
    undo = session.exec(label.where(col(Change.undone).is_(False)).order_by(col(Change.id).desc())).first()
    return undo, session.exec(label.where(Change.undone).order_by(col(Change.id))).first()


def is_last(session: Session, label: str) -> bool:
    """True where an undo would take this action back, and nothing waits to be redone."""
    undo_label, redo_label = labels(session)
    return undo_label == label and redo_label is None


def undo(session: Session) -> Change | None:
    """Take the last change back; None where there is none."""
    change = _next_undo(session)
    if change is not None:
        _apply(session, [(row["table"], row["after"], row["before"]) for row in reversed(change.rows)])
        change.undone = True
        session.add(change)
    return change


def redo(session: Session) -> Change | None:
    """Bring the last undone change back; None where there is none."""
    change = _next_redo(session)
    if change is not None:
        _apply(session, [(row["table"], row["before"], row["after"]) for row in change.rows])
        change.undone = False
        session.add(change)
    return change


def _apply(session: Session, steps: list[tuple[str, Values | None, Values | None]]) -> None:
    """Bring rows to other states. They refer to each other: keys are checked when the transaction ends."""
    session.connection().execute(text("PRAGMA defer_foreign_keys=ON"))
    last: dict[tuple[str, int], Values | None] = {}
    for table, now, then in steps:
        last[table, (now or then or {})["id"]] = then
    rows = {(table, ident): session.get(TRACKED[table], ident) for table, ident in last}
    order = list(TRACKED)
    for key, row in sorted(rows.items(), key=lambda one: -order.index(one[0][0])):
        if row is not None and last[key] is None:
            session.delete(row)  # what belongs to others goes before them, or the database would take it along
            session.flush()
        elif isinstance(row, PLACED):
            row.position = -1 - row.id  # type: ignore[attr-defined]
        elif isinstance(row, Take):
            row.contender_id = row.test_id = None  # out of its cell until all have theirs
    session.flush()
    for (table, _), then in last.items():
        if then is not None:
            row = rows[table, then["id"]] or TRACKED[table]()
            for name, value in then.items():
                setattr(row, name, value)
            session.add(row)
    session.flush()
