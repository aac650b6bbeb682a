"""What people said of takes in words."""

from __future__ import annotations

from sqlalchemy import UniqueConstraint
from sqlmodel import Field

from cata.store.tables.columns import ONCE, Entered, owner


class Pointed(Entered, table=True):
    """That somebody finds a take to be what a word says, or not; ``who`` may be empty."""

    __table_args__ = (UniqueConstraint("take_id", "word", "who"), ONCE)

    take_id: int = owner("take.id")
    word: str = Field(index=True)
    who: str = ""
    said: bool
    at: str = ""
