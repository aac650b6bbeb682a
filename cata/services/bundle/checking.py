"""What comes from elsewhere, held to what Cata itself would have written: each row, and all of them together."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Hashable, Iterator, Mapping, Sequence

from pydantic import ValidationError
from sqlalchemy import UniqueConstraint

from cata.core.taste.rounds import Round, check_kept
from cata.errors import CataError, Refused
from cata.services.bundle.columns import Row, columns_of
from cata.services.bundle.links import TABLES
from cata.services.bundle.shapes import ROW

Rows = Mapping[str, Mapping[int, Row]]
"""Rows by table and number."""
SAME_OWNER: tuple[tuple[str, str, str, str], ...] = (
    ("take", "contender_id", "contender", "flight_id"), ("take", "test_id", "test", "flight_id"),
    ("planned", "contender_id", "contender", "flight_id"), ("planned", "test_id", "test", "flight_id"),
    ("tasting", "test_id", "test", "flight_id"),
)  # fmt: skip
"""A row and what it points to belong to one flight: table, column, the other table, the column of the flight."""


def checked(table: str, row: Row, number: int) -> Row:
    """The row as the table has it, all that a new row has filled in. Refused where anything in it cannot be."""
    try:
        whole = _usual(table, row) | row
        ROW[table].model_validate(whole)
        alone = ALONE.get(table)
        if alone is not None:
            alone(whole)
    except (ValidationError, ValueError, TypeError, KeyError, AttributeError, OverflowError, CataError) as error:
        raise _bad(table, number, _why(error)) from error
    return whole


def _usual(table: str, row: Row) -> Row:
    """What a new row has where nothing is said."""
    return {
        name: field.get_default(call_default_factory=True, validated_data={})
        for name, field in TABLES[table].model_fields.items()
        if name not in row and not field.is_required()
    }


def _why(error: Exception) -> str:
    if isinstance(error, ValidationError):
        first = error.errors()[0]
        return f"{'.'.join(map(str, first['loc']))}: {first['msg']}"
    return str(error)


def _bad(table: str, number: int, why: str) -> Refused:
    return Refused(f"the table {table} of the bundle, row {number}: {why[:200]}", "bad_row")


def _pieces(row: Row) -> None:
    if any(piece["start_s"] > piece["end_s"] for piece in row["pieces"]):
        raise ValueError("a piece ends before it begins")


def _take(row: Row) -> None:
    if (row["contender_id"] is None) != (row["test_id"] is None):
        raise ValueError("a take stands in a row and a column, or in neither")


def _strings(row: Row) -> None:
    if (row["kind"] == "strings" or row["bench"]) and row["gear_id"] is None:
        raise ValueError("nothing was measured there")


ALONE: Mapping[str, Callable[[Row], None]] = {"recording": _pieces, "take": _take, "probe": _strings}


def check_together(rows: Rows) -> None:
    """Refused where rows point outside the bundle, are there twice, or do not belong to each other."""
    for table, mine in rows.items():
        for number, (ident, row) in enumerate(mine.items(), start=2):
            for why in _astray(rows, table, row):
                raise _bad(table, number, f"{ident} {why}")
        for columns in _unique(table):
            _once(table, list(mine.values()), columns)
    _check_tastings(rows)


def _astray(rows: Rows, table: str, row: Row) -> Iterator[str]:
    for column in columns_of(TABLES[table]):
        ident = row[column.name]
        for key in column.foreign_keys:
            if ident is not None and ident not in rows.get(key.column.table.name, {}):
                yield f"points to a row of {key.column.table.name} that is not there"
    for mine, pointer, other, owner in SAME_OWNER:
        if table == mine and row[pointer] is not None and rows[other][row[pointer]][owner] != row[owner]:
            yield f"belongs to another flight than its {other}"
    loop = rows["probe"].get(row["loop_id"]) if table == "probe" and row["loop_id"] is not None else None
    if loop is not None and loop["gear_id"] is not None:
        yield "is held against a loop-back that is none"


def _unique(table: str) -> Iterator[tuple[str, ...]]:
    model = TABLES[table].__table__  # type: ignore[attr-defined]
    for rule in model.constraints:
        if isinstance(rule, UniqueConstraint):
            yield tuple(str(column.name) for column in rule.columns)
    for index in model.indexes:
        if index.unique:
            yield tuple(str(column.name) for column in index.columns)


def _once(table: str, rows: Sequence[Row], columns: tuple[str, ...]) -> None:
    seen: set[Hashable] = set()
    for number, row in enumerate(rows, start=2):
        key = tuple(row[name] for name in columns)
        if None not in key and key in seen:
            raise _bad(table, number, f"another row has the same {' and '.join(columns)}")
        seen.add(key)


def _check_tastings(rows: Rows) -> None:
    """Glasses stand from 0 without a gap, rounds ask of what is poured, and answers answer what was asked."""
    glasses: dict[int, list[Row]] = defaultdict(list)
    for glass in rows["glass"].values():
        glasses[glass["tasting_id"]].append(glass)
    plans: dict[int, list[Round]] = {}
    for number, row in enumerate(rows["tasting"].values(), start=2):
        count = len(glasses[row["id"]])
        plans[row["id"]] = [Round.model_validate(one) for one in row["rounds"]]
        if {glass["place"] for glass in glasses[row["id"]]} != set(range(count)) or not count or not row["rounds"]:
            raise _bad("tasting", number, "its glasses do not stand in a row")
        if any(max(plan.of) >= count for plan in plans[row["id"]]):
            raise _bad("tasting", number, "a round asks of what it does not pour")
    for number, answer in enumerate(rows["answer"].values(), start=2):
        rounds = plans[rows["taster"][answer["taster_id"]]["tasting_id"]]
        try:
            if answer["round"] >= len(rounds) or answer["trial"] >= rounds[answer["round"]].trials:
                raise ValueError("there was no such trial")
            check_kept(rounds[answer["round"]], answer["what"])
        except ValueError as error:
            raise _bad("answer", number, str(error)) from error
