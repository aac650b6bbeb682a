"""What is said to a person, together with what a program needs of it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

Number = float | int | str


@dataclass(frozen=True)
class Said:
    """A ``code`` and its ``numbers`` to decide by, and the ``words`` for a person."""

    code: str
    words: str
    numbers: Mapping[str, Number] = field(default_factory=dict)

    def __str__(self) -> str:
        return self.words


def said(code: str, words: str, **numbers: Number) -> Said:
    """``words`` with the numbers put into their places, as in ``said("short", "shorter than {s:g} s", s=2)``."""
    return Said(code, words.format(**numbers), numbers)
