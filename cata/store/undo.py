"""Undo and redo in a browser: what it did is turned back, what others did since stays."""

from __future__ import annotations

from typing import Any

from sqlalchemy import text
from sqlalchemy.exc import IntegrityError
from sqlmodel import Session, SQLModel, col, select

from cata.errors import Conflict
from cata.store.changes import PLACED, TRACKED, Values, mine, next_undo, now_of
from cata.store.tables import Change, Take


def undo(session: Session) -> Change | None:
    """Take the last change of this browser back; None where there is none. Conflict as of :func:`_step`."""
    change = next_undo(session)
    if change is not None:
        _step(session, change, [(row["table"], row["after"], row["before"]) for row in reversed(change.rows)])
    return change


def redo(session: Session) -> Change | None:
    """Bring the last undone change of this browser back; None where there is none. Conflict as of :func:`_step`."""
    change: Change | None = session.exec(mine(select(Change), undone=True)).first()
    if change is not None:
        _step(session, change, [(row["table"], row["before"], row["after"]) for row in change.rows])
    return change


Steps = list[tuple[str, Values | None, Values | None]]


def _step(session: Session, change: Change, steps: Steps) -> None:
    """Move a change; Conflict where somebody else has changed the same since: then nothing is moved.

    What cannot be moved would stand in the way of what was done before it, so it is forgotten.
    """
    try:
        with session.begin_nested():
            _apply(session, steps)
            change.undone = not change.undone
            session.add(change)
            session.flush()
    except (Conflict, IntegrityError) as error:
        session.delete(change)
        session.commit()
        why = error.said.words if isinstance(error, Conflict) else OTHERS
        raise Conflict(f"{change.label} stays as it is: {why}", "changed_since") from error


OTHERS = "somebody else has changed the same since"


def _apply(session: Session, steps: Steps) -> None:
    """Bring rows to other states. They refer to each other: keys are checked when the transaction ends."""
    session.connection().execute(text("PRAGMA defer_foreign_keys=ON"))
    first: dict[tuple[str, int], Values | None] = {}
    last: dict[tuple[str, int], Values | None] = {}
    for table, now, then in steps:
        key = table, (now or then or {})["id"]
        first.setdefault(key, now)
        last[key] = then
    rows = {(table, ident): session.get(TRACKED[table], ident) for table, ident in last}
    wanted = {key: _merged(session, key, row, first[key], last[key], last) for key, row in rows.items()}
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
    for (table, ident), values in wanted.items():
        if values is not None:
            row = rows[table, ident] or TRACKED[table]()
            for name, value in values.items():
                setattr(row, name, value)
            session.add(row)
    session.flush()


def _merged(
    session: Session,
    key: tuple[str, int],
    row: SQLModel | None,
    now: Values | None,
    then: Values | None,
    moved: dict[tuple[str, int], Values | None],
) -> Values | None:
    """What a row becomes: what this change did to it is turned back, what others did to it since stays."""
    if (row is None) != (now is None):
        raise Conflict(OTHERS, "changed_since")
    if row is None or now is None:
        return then
    here = now_of(row)
    if then is None:
        if any(here[name] != value for name, value in now.items() if name in here):
            raise Conflict(OTHERS, "changed_since")
        _check_alone(session, key, moved)
        return None
    return {name: _turned(value, now.get(name), then.get(name)) for name, value in here.items()}


def _turned(here: Any, now: Any, then: Any) -> Any:
    """A value with a change turned back: part by part where it is a collection of named parts."""
    if here == now or now == then:
        return then if here == now else here
    if all(isinstance(value, dict) for value in (here, now, then)):
        missing = object()
        turned = {
            name: _turned(here.get(name, missing), now.get(name, missing), then.get(name, missing))
            for name in {**here, **now, **then}
        }
        return {name: value for name, value in turned.items() if value is not missing}
    if here == then:
        return here
    raise Conflict(OTHERS, "changed_since")


def _check_alone(session: Session, key: tuple[str, int], moved: dict[tuple[str, int], Values | None]) -> None:
    """Conflict where a row that would go has rows of others in it, which would go with it."""
    table = TRACKED[key[0]].__table__.name  # type: ignore[attr-defined]
    for name, model in TRACKED.items():
        for foreign in (one for column in model.__table__.columns for one in column.foreign_keys):  # type: ignore[attr-defined]
            if foreign.column.table.name != table or foreign.ondelete != "CASCADE":
                continue
            pointing = select(model.id).where(col(getattr(model, foreign.parent.name)) == key[1])  # type: ignore[attr-defined]
            if any(moved.get((name, ident), {}) is not None for ident in session.exec(pointing)):
                raise Conflict("somebody else has worked on it since", "changed_since")
