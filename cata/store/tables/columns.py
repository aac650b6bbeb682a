"""Columns that many tables have."""

from __future__ import annotations

import secrets
from typing import Any

from sqlalchemy import JSON, Column, ForeignKey, Integer
from sqlmodel import Field, SQLModel

ONCE: dict[str, Any] = {"sqlite_autoincrement": True}
"""Table argument: a row's number is never given out again, so that an old address or reference never means another."""


def new_uid() -> str:
    """A name that no other row anywhere has."""
    return secrets.token_hex(16)


class Numbered(SQLModel):
    """A row with a number of its own in this library."""

    __table_args__: Any = ONCE

    id: int | None = Field(default=None, primary_key=True)


class Entered(Numbered):
    """A row that a person entered. ``uid`` names it in every library that it gets to, ``id`` only in this one."""

    uid: str = Field(default_factory=new_uid, unique=True)


def owner(target: str, *, index: bool = True, nullable: bool = False, on_delete: str = "CASCADE") -> Any:
    """A foreign key column; owned rows go with their owner."""
    return Field(
        default=None,
        sa_column=Column(Integer, ForeignKey(target, ondelete=on_delete), index=index, nullable=nullable),
    )


def json_of(default: Any) -> Any:
    """A column of JSON; ``default`` makes what a new row has."""
    # Every row is looked at for what its factory takes; of a class of Python's own that is slow.
    return Field(default_factory=lambda: default(), sa_column=Column(JSON, nullable=False))
