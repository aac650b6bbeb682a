"""Words that several rooms need."""

from __future__ import annotations


def plural(count: int, word: str) -> str:
    """A count with its noun."""
    return f"{count} {word}" if count == 1 else f"{count} {word}s"
