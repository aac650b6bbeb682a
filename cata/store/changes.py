"""The undo log: every action of a person as the rows it touched, before and after.

One mechanism for all actions: the session's own bookkeeping says what changed, so no action has
to know how to take itself back. Derived tables are not tracked; they are computed again.
"""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from sqlalchemy import event, inspect, text
from sqlalchemy.orm import UOWTransaction
from sqlmodel import Session, SQLModel, col, select

from cata.store.tables import Brief, Change, Contender, Flight, Gear, Planned, Price, Probe, Recording, Take, Test

TRACKED: dict[str, type[SQLModel]] = {
    model.__name__: model for model in (Gear, Price, Brief, Flight, Contender, Test, Take, Planned, Recording, Probe)
}
KEPT = 500


def _before(instance: SQLModel) -> dict[str, Any]:
    state = inspect(instance)
    values: dict[str, Any] = {}
    for attribute in state.mapper.column_attrs:
        history = state.attrs[attribute.key].history
        values[attribute.key] = history.deleted[0] if history.deleted else getattr(instance, attribute.key)
    return values


def _now(instance: SQLModel) -> dict[str, Any]:
    return {attribute.key: getattr(instance, attribute.key) for attribute in inspect(instance).mapper.column_attrs}


@contextmanager
def action(session: Session, label: str, at: str) -> Iterator[None]:
    """Record what happens inside as one change that can be undone; nothing is recorded if nothing changed."""
    rows: list[dict[str, Any]] = []

    def after_flush(flushed: Session, _context: UOWTransaction) -> None:
        for instance in flushed.new:
            if type(instance).__name__ in TRACKED:
                rows.append({"table": type(instance).__name__, "before": None, "after": _now(instance)})
        for instance in flushed.dirty:
            if type(instance).__name__ in TRACKED and flushed.is_modified(instance):
                before, after = _before(instance), _now(instance)
                if before != after:
                    rows.append({"table": type(instance).__name__, "before": before, "after": after})
        for instance in flushed.deleted:
            if type(instance).__name__ in TRACKED:
                rows.append({"table": type(instance).__name__, "before": _before(instance), "after": None})

    event.listen(session, "after_flush", after_flush)
    try:
        yield
        session.flush()
    finally:
        event.remove(session, "after_flush", after_flush)
    if not rows:
        return
    for undone in session.exec(select(Change).where(Change.undone)).all():
        session.delete(undone)
    session.add(Change(at=at, label=label, rows=rows))
    session.flush()
    _prune(session)


def _prune(session: Session) -> None:
    old = session.exec(select(Change).order_by(col(Change.id).desc()).offset(KEPT)).all()
    for change in old:
        session.delete(change)


def _next_undo(session: Session) -> Change | None:
    return session.exec(select(Change).where(col(Change.undone).is_(False)).order_by(col(Change.id).desc())).first()


def _next_redo(session: Session) -> Change | None:
    return session.exec(select(Change).where(Change.undone).order_by(col(Change.id))).first()


def labels(session: Session) -> tuple[str | None, str | None]:
    """What an undo would take back and what a redo would bring back, without the rows they would move."""
    label = select(Change.label)
    undo = session.exec(label.where(col(Change.undone).is_(False)).order_by(col(Change.id).desc())).first()
    return undo, session.exec(label.where(Change.undone).order_by(col(Change.id))).first()


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


def _apply(session: Session, steps: list[tuple[str, dict[str, Any] | None, dict[str, Any] | None]]) -> None:
    # Rows of one change refer to each other; the keys are checked when the transaction ends.
    session.execute(text("PRAGMA defer_foreign_keys=ON"))
    for table, now, then in steps:
        model = TRACKED[table]
        ident = (now or then or {})["id"]
        instance = session.get(model, ident)
        if then is None:
            if instance is not None:
                session.delete(instance)
        elif instance is None:
            session.add(model(**then))
        else:
            for key, value in then.items():
                setattr(instance, key, value)
            session.add(instance)
        session.flush()
