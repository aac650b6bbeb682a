"""What Cata notes for itself: what was changed, asked for, what failed, what is set."""

from __future__ import annotations

from typing import Any

from sqlalchemy import JSON, Column, Index, UniqueConstraint
from sqlmodel import Field, SQLModel

from cata.store.actor import ACTOR
from cata.store.tables.columns import ONCE, Numbered, json_of, owner


class Change(Numbered, table=True):
    """One action of a person: what Ctrl+Z takes back in the browser it was ``by``.

    ``partly``: taking it back or bringing it back was stopped half-way. ``dropped``: it can be neither any more, and
    goes with what it holds.
    """

    at: str
    label: str
    undone: bool = False
    partly: bool = False
    dropped: bool = False
    by: str = Field(default_factory=ACTOR.get)


class Moved(Numbered, table=True):
    """A row that a change touched: of which table, before and after; None where it was not there.

    ``undone``: it stands as before.
    """

    __table_args__ = (Index("ix_moved_row", "change_id", "table_name", "row_id"), ONCE)

    change_id: int = owner("change.id", index=False)
    table_name: str
    row_id: int
    before: dict[str, Any] | None = Field(default=None, sa_column=Column(JSON(none_as_null=True)))
    after: dict[str, Any] | None = Field(default=None, sa_column=Column(JSON(none_as_null=True)))
    undone: bool = False


class Setting(SQLModel, table=True):
    """A setting of the application or a mark such as "the demo was seeded"."""

    key: str = Field(primary_key=True)
    value: str


class Revision(SQLModel, table=True):
    """A number that triggers move with every change of what it names.

    "evidence" is all that choosing rests on, "shelf" all that costs do.
    """

    name: str = Field(primary_key=True)
    number: int = 0


class Asked(Numbered, table=True):
    """A piece of work that a person asked for and that is not done; taking the row away cancels it.

    ``total`` is how many were asked for at once, ``by`` the browser that asked.
    """

    duty: str = Field(index=True)
    flight_id: int = owner("flight.id")
    wish: dict[str, Any] = json_of(dict)
    total: int = 1
    by: str = Field(default_factory=ACTOR.get)


class Failure(Numbered, table=True):
    """Background work that came to no result, by duty, row and the state of the data it was done from.

    While it stands the work is not due; another state, or taking the row away, makes it due again. ``free_bytes`` is
    what the disk had left where a full disk was the cause.
    """

    __table_args__ = (UniqueConstraint("duty", "ident"), ONCE)

    duty: str
    ident: int
    flight_id: int = Field(default=0, index=True)
    state: str = ""
    code: str
    text: str
    free_bytes: int | None = None
    at: str = ""
