"""Removing rows with all that goes with them, and keeping places in order; every table that a person enters."""

from __future__ import annotations

from typing import Any

from sqlalchemy import inspect
from sqlalchemy.orm import UOWTransaction
from sqlmodel import Session, SQLModel, col, select

from cata.errors import Invalid
from cata.store.tables import Contender, Planned, Take, Test
from cata.store.tables.entered import ENTERED

TRACKED: dict[str, type[SQLModel]] = {model.__name__: model for model in ENTERED}
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
