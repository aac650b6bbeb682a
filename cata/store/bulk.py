"""Many rows of one table turned by the database itself: all of a step come back, or all go.

What the journal keeps of a row is JSON; SQLite compares it with the row, and makes rows of it. A step of thousands
takes as long as one of dozens row by row, and leaves the interpreter to others meanwhile.
"""

from __future__ import annotations

import json
from collections.abc import Iterable, Sequence
from typing import Any

from sqlalchemy import JSON, Column, Table, text
from sqlmodel import Session

OURS = "m.id IN (SELECT value FROM json_each(:step))"


class Bulk:
    """Journal rows of one table that all come or all go; ``side`` holds what they are while they are there."""

    def __init__(self, session: Session, table: Table, step: Sequence[int], side: str) -> None:
        self._session, self._table, self._side = session, table, side
        self._step = {"step": json.dumps(list(step))}

    def fits(self) -> bool:
        """True where the journal knows every column that the table has today."""
        row = self._ask(f"SELECT m.{self._side} FROM moved m WHERE {OURS} LIMIT 1").scalar()
        return row is not None and set(json.loads(row)) >= {column.name for column in self._table.columns}

    def changed(self) -> list[tuple[int, str]]:
        """Of rows that would go those that are not as the journal left them: number, and "gone" or "changed"."""
        same = " AND ".join(f"{_stored(column)} IS {self._kept(column)}" for column in self._table.columns)
        rows = self._ask(
            f'SELECT m.row_id, t.id IS NULL FROM moved m LEFT JOIN "{self._table.name}" t ON t.id = m.row_id '
            f"WHERE {OURS} AND (t.id IS NULL OR NOT ({same}))"
        )
        return [(row_id, "gone" if gone else "changed") for row_id, gone in rows]

    def there(self) -> list[int]:
        """Of rows that would come those that are there already."""
        rows = self._ask(f'SELECT m.row_id FROM moved m JOIN "{self._table.name}" t ON t.id = m.row_id WHERE {OURS}')
        return [row_id for (row_id,) in rows]

    def used(self, pointing: Iterable[tuple[str, Table, str]]) -> list[int]:
        """Of rows that would go those that rows of others point to, by the nouns, tables and columns of these.

        What the same change touched goes too, or is turned by itself.
        """
        return [
            row_id
            for noun, child, column in pointing
            for (row_id,) in self._ask(
                f'SELECT DISTINCT c."{column}" FROM moved m JOIN "{child.name}" c ON c."{column}" = m.row_id '
                f"WHERE {OURS} AND NOT EXISTS (SELECT 1 FROM moved o WHERE o.change_id = m.change_id "
                f"AND o.table_name = '{noun}' AND o.row_id = c.id)"
            )
        ]

    def orphans(self) -> list[int]:
        """Of rows that would come those whose owner is gone."""
        return [
            row_id
            for column in self._table.columns
            for key in column.foreign_keys
            if key.ondelete == "CASCADE"
            for (row_id,) in self._ask(
                f"SELECT m.row_id FROM moved m WHERE {OURS} AND {self._kept(column)} IS NOT NULL "
                f'AND NOT EXISTS (SELECT 1 FROM "{key.column.table.name}" p WHERE p.id = {self._kept(column)})'
            )
        ]

    def go(self) -> None:
        """Take the rows away."""
        self._ask(f'DELETE FROM "{self._table.name}" WHERE id IN (SELECT m.row_id FROM moved m WHERE {OURS})')

    def come(self) -> None:
        """Bring the rows back; a pointer that only names what is gone is let go of."""
        names = ", ".join(f'"{column.name}"' for column in self._table.columns)
        values = ", ".join(self._value(column) for column in self._table.columns)
        self._ask(f'INSERT INTO "{self._table.name}" ({names}) SELECT {values} FROM moved m WHERE {OURS}')

    def note(self, *, undone: bool) -> None:
        """Note that they are turned."""
        self._ask(f"UPDATE moved AS m SET undone = {int(undone)} WHERE {OURS}")

    def _kept(self, column: Column[Any]) -> str:
        """A column's value in the journal: JSON as its text, anything else as it is stored."""
        if isinstance(column.type, JSON):
            return f"json(m.{self._side} -> '$.{column.name}')"
        return f"json_extract(m.{self._side}, '$.{column.name}')"

    def _value(self, column: Column[Any]) -> str:
        for key in column.foreign_keys:
            other = key.column.table
            if key.ondelete != "CASCADE" and other is not self._table:
                return f'(SELECT p.id FROM "{other.name}" p WHERE p.id = {self._kept(column)})'
        return self._kept(column)

    def _ask(self, statement: str) -> Any:
        return self._session.connection().execute(text(statement), self._step)


def _stored(column: Column[Any]) -> str:
    return f't."{column.name}"' if not isinstance(column.type, JSON) else f'json(t."{column.name}")'
