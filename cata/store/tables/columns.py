"""Columns that many tables have."""

from __future__ import annotations

from typing import Any

from sqlalchemy import JSON, Column, ForeignKey, Integer
from sqlmodel import Field


def owner(target: str, *, index: bool = True, nullable: bool = False, on_delete: str = "CASCADE") -> Any:
    """A foreign key column; owned rows go with their owner."""
    return Field(
        default=None,
        sa_column=Column(Integer, ForeignKey(target, ondelete=on_delete), index=index, nullable=nullable),
    )


def json_of(default: Any) -> Any:
    """A column of JSON; ``default`` makes what a new row has."""
    return Field(default_factory=default, sa_column=Column(JSON, nullable=False))
