"""From what size on a table can tell which of its cells is the odd one. Imports no numpy."""

from __future__ import annotations

Key = tuple[int, int]
MIN_CONTENDERS, MIN_TESTS = 3, 3


def big_enough(keys: set[Key], tests: int = MIN_TESTS) -> bool:
    """True where a table can tell which of its cells is the odd one, from so many tests."""
    return len({row for row, _ in keys}) >= MIN_CONTENDERS and len({column for _, column in keys}) >= tests
