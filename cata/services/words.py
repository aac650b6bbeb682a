"""What a person types, as the index of words wants it (SQLite FTS5, made by migration 0013)."""

from __future__ import annotations

import re

from sqlalchemy import text
from sqlmodel import Session

WORD = re.compile(r"[^\W_]+")
MOST_WORDS = 8
GEAR = text("SELECT rowid / 8 FROM find WHERE find MATCH :words AND rowid % 8 = 0")


def matching(query: str) -> str:
    """All the words of a query, each as the beginning of a word; empty where there is none."""
    return " ".join(f'"{word}"*' for word in WORD.findall(query)[:MOST_WORDS])


def gear_with(session: Session, query: str) -> list[int]:
    """The items of the shelf that hold these words."""
    sought = matching(query)
    return [row[0] for row in session.connection().execute(GEAR, {"words": sought})] if sought else []
