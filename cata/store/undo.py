"""Turning a change back or forward: what it did is turned, what others did since stays.

A short change is turned in one transaction, all of it or nothing. A long one is turned in steps, parents before what
they own when rows come back, the other way round when they go: others write between two steps, and what was stopped
half-way is gone on with later.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy import Table, bindparam, delete, insert, literal_column, select, text, update
from sqlalchemy.exc import IntegrityError
from sqlmodel import Session, SQLModel, col

from cata.store.bulk import Bulk
from cata.store.changes import PLACED, TRACKED, Values
from cata.store.tables import Change, Moved, Take

STEP, LONG_STEP = 600, 2_000
"""Rows that are turned while others wait: looked at one by one, and by the database itself."""
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


class Stopped(Exception):
    """A step that was not taken, what stands in its way, and of how many rows that is."""

    def __init__(self, found: Sequence[InTheWay], total: int) -> None:
        super().__init__(found)
        self.found, self.total = list(found), total


def table_of(name: str) -> Table:
    """The table of a tracked noun."""
    return TRACKED[name].__table__  # type: ignore[attr-defined]


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
        *(Step(some, name, True) for name, idents in came for some in _some(idents, LONG_STEP)),
        *(Step(some) for some in _some(changed, STEP)),
        *(Step(some, name, False) for name, idents in went for some in _some(idents, LONG_STEP)),
    ]


def in_the_way(session: Session, step: Step, *, back: bool) -> list[InTheWay]:
    """What would stand in the way of a step now; nothing is moved. What other steps bring is taken as there."""
    bulk = _bulk(session, step, back=back)
    if bulk is None:
        return _Step(session, step.idents, back=back).look(alone=False)[1]
    found = [(row, "there") for row in bulk.there()] if step.come else bulk.changed()
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
    children = [(table_of(name), column) for name, column in _owned_by(table_of(step.table).name)]
    return [*bulk.changed(), *((row, "used") for row in bulk.used(children))]


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
    this = _Step(session, idents, back=back)
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
    for some in _some(done):
        session.execute(update(Moved).where(col(Moved.id).in_(some)).values(undone=back))
    for some in _some([*(set(idents) - set(done))]):
        session.execute(delete(Moved).where(col(Moved.id).in_(some)))


class _Step:
    """Journal rows with what their tables hold now."""

    def __init__(self, session: Session, step: Sequence[int], *, back: bool) -> None:
        self.session = session
        self.now: dict[Key, Values | None] = {}
        self.then: dict[Key, Values | None] = {}
        self.journal: dict[Key, int] = {}
        now, then = (Moved.after, Moved.before) if back else (Moved.before, Moved.after)
        wanted = select(col(Moved.id), col(Moved.table_name), col(Moved.row_id), col(now), col(then))
        for some in _some(step):
            for ident, name, row_id, was, becomes in session.execute(wanted.where(col(Moved.id).in_(some))):
                key = (name, row_id)
                self.now[key], self.then[key], self.journal[key] = was, becomes, ident
        self.rows: dict[str, list[int]] = defaultdict(list)
        for name, ident in self.journal:
            self.rows[name].append(ident)
        self.here = {
            (name, row["id"]): dict(row)
            for name, idents in self.rows.items()
            for some in _some(idents)
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
                    wanted[key] = {name: _turned(value, now.get(name), then.get(name)) for name, value in here.items()}
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
        """Rows that would go and have rows of others in them, which would go with them."""
        going = {key for key, row in wanted.items() if row is None and key in self.here and key not in why}
        for name in {name for name, _ in going}:
            idents = [ident for other, ident in going if other == name]
            for child, column in _owned_by(table_of(name).name):
                there = table_of(child)
                for some in _some(idents):
                    pointing = select(there.c.id, there.c[column]).where(there.c[column].in_(some))
                    for ident, parent in self.session.execute(pointing):
                        if (child, ident) not in going:
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
        for some in _some([*idents - found]):
            found |= set(self.session.execute(select(key).where(key.in_(some))).scalars())
        return found

    def apply(self, wanted: Mapping[Key, Values | None]) -> None:
        """Bring rows to other states: what belongs to others goes before them and comes after them."""
        names = sorted({name for name, _ in wanted}, key=ORDER.__getitem__)
        for name in reversed(names):
            gone = [ident for other, ident in wanted if other == name and wanted[other, ident] is None]
            there = [ident for ident in gone if (name, ident) in self.here]
            for some in _some(there):
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
        for some in _some(idents) if values else ():
            self.session.execute(update(table).where(table.c.id.in_(some)).values(values))


def _some(idents: Sequence[int], most: int = AT_ONCE) -> Iterable[Sequence[int]]:
    return (idents[at : at + most] for at in range(0, len(idents), most))


def _owned_by(table: str) -> Iterable[tuple[str, str]]:
    """Nouns that go with a row of a table, each with the column that names it."""
    for name in TRACKED:
        for column in table_of(name).columns:
            if any(key.column.table.name == table and key.ondelete == "CASCADE" for key in column.foreign_keys):
                yield name, column.name


def _whole(name: str, values: Values) -> Values:
    """A row with all its columns: those that came later have what a new row has."""
    columns = [column.name for column in table_of(name).columns]
    if values.keys() >= set(columns):
        return {column: values[column] for column in columns}
    model: type[SQLModel] = TRACKED[name]
    return model.model_validate(values).model_dump()


def _name(row: Values) -> str:
    return str(row.get("name") or row.get("filename") or "")


def _keyed(value: Any) -> dict[str, Any] | None:
    """A list of things with keys (knobs of an item, links of a chain) by key; None for anything else."""
    if not isinstance(value, list):
        return None
    found = {one["key"]: one for one in value if isinstance(one, dict) and isinstance(one.get("key"), str)}
    return found if len(found) == len(value) else None


def _turned(here: Any, now: Any, then: Any) -> Any:
    """A value with a change turned back: part by part where it is a collection of named parts. ValueError elsewhere."""
    if here == now or now == then:
        return then if here == now else here
    if here == then:
        return here
    if all(isinstance(value, dict) for value in (here, now, then)):
        missing = object()
        turned = {
            name: _turned(here.get(name, missing), now.get(name, missing), then.get(name, missing))
            for name in {**here, **now, **then}
        }
        return {name: value for name, value in turned.items() if value is not missing}
    mine, was, becomes = _keyed(here), _keyed(now), _keyed(then)
    if mine is not None and was is not None and becomes is not None:
        parts = _turned(mine, was, becomes)
        order = [key for key in becomes if key in parts] if list(mine) == list(was) else list(mine)
        return [parts[key] for key in dict.fromkeys((*order, *parts)) if key in parts]
    raise ValueError("both have changed it")
