"""Rows turned one by one: each is held against what the change left of it, and against what points to it by now."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy import Table, bindparam, delete, insert, literal_column, select, update
from sqlmodel import Session, SQLModel, col

from cata.store.changes import PLACED, TRACKED, Values
from cata.store.tables import Moved, Take
from cata.store.turned import turned_value

AT_ONCE = 500
"""Numbers in one question to the database."""
ORDER = {name: place for place, name in enumerate(TRACKED)}
Key = tuple[str, int]


@dataclass(frozen=True)
class InTheWay:
    """A row that cannot be turned: it was ``changed`` since, is ``gone``, ``there`` again, or ``used`` by others."""

    why: str
    table: str
    row: int
    name: str


def table_of(name: str) -> Table:
    """The table of a tracked noun."""
    return TRACKED[name].__table__  # type: ignore[attr-defined]


def some_of(idents: Sequence[int], most: int = AT_ONCE) -> Iterable[Sequence[int]]:
    """Numbers, so many at a time."""
    return (idents[at : at + most] for at in range(0, len(idents), most))


def pointing_to(table: str) -> Iterable[tuple[str, str]]:
    """Nouns that point to rows of a table, each with the column that does."""
    for name in TRACKED:
        for column in table_of(name).columns:
            if any(key.column.table.name == table for key in column.foreign_keys):
                yield name, column.name


class Rowwise:
    """Journal rows with what their tables hold now."""

    def __init__(self, session: Session, step: Sequence[int], *, back: bool) -> None:
        self.session = session
        self.now: dict[Key, Values | None] = {}
        self.then: dict[Key, Values | None] = {}
        self.journal: dict[Key, int] = {}
        now, then = (Moved.after, Moved.before) if back else (Moved.before, Moved.after)
        wanted = select(col(Moved.id), col(Moved.table_name), col(Moved.row_id), col(now), col(then))
        for some in some_of(step):
            for ident, name, row_id, was, becomes in session.execute(wanted.where(col(Moved.id).in_(some))):
                key = (name, row_id)
                self.now[key], self.then[key], self.journal[key] = was, becomes, ident
        self.rows: dict[str, list[int]] = defaultdict(list)
        for name, ident in self.journal:
            self.rows[name].append(ident)
        self.here = {
            (name, row["id"]): dict(row)
            for name, idents in self.rows.items()
            for some in some_of(idents)
            for row in session.execute(select(table_of(name)).where(table_of(name).c.id.in_(some))).mappings()
        }

    def look(self, *, alone: bool = True) -> tuple[dict[Key, Values | None], list[InTheWay]]:
        """What the rows become, and what cannot become it; ``alone``: look also at what points to what would go."""
        wanted: dict[Key, Values | None] = {}
        why: dict[Key, str] = {}
        for key, now in self.now.items():
            here, then = self.here.get(key), self.then[key]
            if (here is None) != (now is None):
                why[key] = "gone" if here is None else "there"
            elif here is None or now is None:
                wanted[key] = then
            elif then is None:
                wanted[key] = None
                if any(here[name] != value for name, value in now.items() if name in here):
                    why[key] = "changed"
            else:
                try:
                    wanted[key] = {
                        name: turned_value(value, now.get(name), then.get(name)) for name, value in here.items()
                    }
                except ValueError:
                    why[key] = "changed"
        if alone:
            why |= dict.fromkeys(self._used(wanted, why), "used")
            why |= dict.fromkeys(self._orphans(wanted), "gone")
        return {key: row for key, row in wanted.items() if key not in why}, self._told(why)

    def all_of(self, why: str, keys: Iterable[Key]) -> list[InTheWay]:
        """All of some rows as standing in the way."""
        return self._told(dict.fromkeys(keys, why))

    def _told(self, why: Mapping[Key, str]) -> list[InTheWay]:
        return [InTheWay(code, *key, name=_name(self.here.get(key) or self.now[key] or self.then[key] or {}))
                for key, code in why.items()]  # fmt: skip

    def _used(self, wanted: Mapping[Key, Values | None], why: Mapping[Key, str]) -> Iterable[Key]:
        """Rows that would go, and that rows of others point to: these would go too, or lose what they name."""
        going = {key for key, row in wanted.items() if row is None and key in self.here and key not in why}
        for name in {name for name, _ in going}:
            idents = [ident for other, ident in going if other == name]
            for child, column in pointing_to(table_of(name).name):
                there = table_of(child)
                for some in some_of(idents):
                    pointing = select(there.c.id, there.c[column]).where(there.c[column].in_(some))
                    for ident, parent in self.session.execute(pointing):
                        becomes = wanted.get((child, ident), {}) if (child, ident) in wanted else {column: parent}
                        if (child, ident) not in going and (becomes or {}).get(column) == parent:
                            yield name, parent

    def _orphans(self, wanted: dict[Key, Values | None]) -> Iterable[Key]:
        """Rows that would come back into what is gone; a pointer that only names what is gone is let go of."""
        for name in {key[0] for key, row in wanted.items() if row is not None}:
            mine = {key: row for key, row in wanted.items() if key[0] == name and row is not None}
            for column in table_of(name).columns:
                for foreign in column.foreign_keys:
                    parents = {row[column.name] for row in mine.values()} - {None}
                    there = self._there(foreign.column.table.name, parents, wanted)
                    for key, row in mine.items():
                        if row[column.name] is None or row[column.name] in there:
                            continue
                        if foreign.ondelete == "CASCADE":
                            yield key
                        else:
                            row[column.name] = None

    def _there(self, table: str, idents: set[Any], wanted: Mapping[Key, Values | None]) -> set[int]:
        noun = next(name for name in TRACKED if table_of(name).name == table)
        key = table_of(noun).c.id
        found = {ident for ident in idents if wanted.get((noun, ident)) is not None}
        for some in some_of([*idents - found]):
            found |= set(self.session.execute(select(key).where(key.in_(some))).scalars())
        return found

    def apply(self, wanted: Mapping[Key, Values | None]) -> None:
        """Bring rows to other states: what belongs to others goes before them and comes after them."""
        names = sorted({name for name, _ in wanted}, key=ORDER.__getitem__)
        for name in reversed(names):
            gone = [ident for other, ident in wanted if other == name and wanted[other, ident] is None]
            there = [ident for ident in gone if (name, ident) in self.here]
            for some in some_of(there):
                self.session.execute(delete(table_of(name)).where(table_of(name).c.id.in_(some)))
        changed = {key: row for key, row in wanted.items() if row is not None and key in self.here}
        for name in names:
            self._out_of_places(name, [ident for other, ident in changed if other == name])
        for name in names:
            table = table_of(name)
            fresh = [_whole(name, row) for key, row in wanted.items()
                     if key[0] == name and row is not None and key not in self.here]  # fmt: skip
            if fresh:
                self.session.execute(insert(table), fresh)
            rows = [row | {"of": key[1]} for key, row in changed.items() if key[0] == name]
            if rows:
                values: dict[str, Any] = {column.name: bindparam(column.name) for column in table.columns}
                turned = update(table).where(table.c.id == bindparam("of")).values(values)
                self.session.connection().execute(turned, rows)

    def _out_of_places(self, name: str, idents: Sequence[int]) -> None:
        """Out of their places and cells until all have theirs."""
        table = table_of(name)
        values: dict[str, Any] = {}
        if issubclass(TRACKED[name], PLACED):
            values = {"position": literal_column("-1 - id")}
        elif TRACKED[name] is Take:
            values = {"contender_id": None, "test_id": None}
        for some in some_of(idents) if values else ():
            self.session.execute(update(table).where(table.c.id.in_(some)).values(values))


def _whole(name: str, values: Values) -> Values:
    """A row with all its columns: those that came later have what a new row has."""
    columns = [column.name for column in table_of(name).columns]
    if values.keys() >= set(columns):
        return {column: values[column] for column in columns}
    model: type[SQLModel] = TRACKED[name]
    return model.model_validate(values).model_dump()


def _name(row: Values) -> str:
    return str(row.get("name") or row.get("filename") or "")
