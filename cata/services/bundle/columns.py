"""The tables as a bundle writes them: Frictionless table schemas, rows as cells of text, and back."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Iterable, Iterator, Mapping
from typing import Any

from sqlalchemy import JSON, Boolean, Column, Float, Integer
from sqlmodel import SQLModel

from cata.errors import Refused

MOST_CELL = 4 << 20
MOST_DIGITS = 17
Row = dict[str, Any]


def columns_of(model: type[SQLModel]) -> list[Column[Any]]:
    """The columns of a table in their order."""
    return list(model.__table__.columns)  # type: ignore[attr-defined]


def schema_of(model: type[SQLModel], packed: Iterable[str]) -> dict[str, Any]:
    """The Frictionless table schema of a table; ``packed`` are the tables that the bundle holds."""
    there = set(packed)
    keys = [
        {"fields": [column.name], "reference": {"resource": key.column.table.name, "fields": ["id"]}}
        for column in columns_of(model)
        for key in column.foreign_keys
        if key.column.table.name in there
    ]
    fields = [_field(column) for column in columns_of(model)]
    return {"fields": fields, "primaryKey": ["id"], **({"foreignKeys": keys} if keys else {})}


def _field(column: Column[Any]) -> dict[str, Any]:
    field: dict[str, Any] = {"name": column.name, "type": _type(column)}
    if field["type"] == "boolean":
        field |= {"trueValues": ["true"], "falseValues": ["false"]}
    return field


def _type(column: Column[Any]) -> str:
    if isinstance(column.type, JSON):
        return "array" if column.name in LISTS else "object"
    if isinstance(column.type, Boolean):
        return "boolean"
    if isinstance(column.type, Integer):
        return "integer"
    return "number" if isinstance(column.type, Float) else "string"


LISTS = frozenset({"controls", "wanted", "notes", "pieces", "rounds"})
"""JSON columns that hold lists; all others hold objects."""


def write_rows(model: type[SQLModel], rows: Iterable[Row]) -> bytes:
    """Rows as CSV (RFC 4180, UTF-8, line feeds): the same rows give the same bytes."""
    out = io.StringIO(newline="")
    writer = csv.writer(out, lineterminator="\n")
    columns = columns_of(model)
    writer.writerow([column.name for column in columns])
    writer.writerows([[_cell(row[column.name]) for column in columns] for row in rows])
    return out.getvalue().encode()


def _cell(value: Any) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, dict | list):
        return json.dumps(value, ensure_ascii=False, sort_keys=True, separators=(",", ":"))
    return repr(value) if isinstance(value, float) else str(value)


def read_rows(model: type[SQLModel], lines: Iterable[str], older: bool = False) -> Iterator[Row]:
    """Rows of a CSV; a column that is not there has what a new row has. Refused where a cell is not what it must be.

    ``older``: columns that are not there any more are kept as text, for who knows what they were.
    """
    name = model.__tablename__
    try:
        reader = csv.DictReader(lines, strict=True)
        csv.field_size_limit(MOST_CELL)
        columns = {column.name: column for column in columns_of(model)}
        for number, row in enumerate(reader, start=2):
            if None in row or None in row.values():
                raise Refused(f"{name}, line {number}: it has not as many cells as there are columns", "bad_cell")
            found = {
                key: _value(columns[key], text, f"{name}, line {number}") for key, text in row.items() if key in columns
            }
            yield found | {key: text for key, text in row.items() if older and key not in columns}
    except (UnicodeDecodeError, csv.Error) as error:
        raise Refused(f"the table {name} in the bundle cannot be read: {error}", "damaged") from error


def _value(column: Column[Any], text: str, where: str) -> Any:
    try:
        if isinstance(column.type, JSON):
            return json.loads(text, parse_constant=_no_number, parse_int=_bounded) if text else None
        if isinstance(column.type, Boolean):
            return {"true": True, "false": False}[text]
        if isinstance(column.type, Integer):
            return int(text) if text else None
        if isinstance(column.type, Float):
            return float(text) if text else None
    except (ValueError, KeyError, RecursionError) as error:
        raise Refused(f"{where}: {column.name} cannot be {text[:40]!r}", "bad_cell") from error
    return text


def _no_number(text: str) -> float:
    raise ValueError(f"{text} is no number")


def _bounded(text: str) -> int:
    if len(text) > MOST_DIGITS or abs(int(text)) > 2**53:
        raise ValueError("the number is far too large")
    return int(text)


def described(resources: Iterable[Mapping[str, Any]], name: str, title: str) -> dict[str, Any]:
    """The descriptor of a bundle (Frictionless data package)."""
    licence = {"name": "other-closed", "title": "Recordings and texts belong to those who made them"}
    return {"profile": "data-package", "name": name, "title": title, "licenses": [licence],
            "resources": list(resources)}  # fmt: skip
