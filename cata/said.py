"""What is said to a person, together with what a program needs of it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from string import Formatter
from typing import Any

Number = float | int | str


@dataclass(frozen=True)
class Said:
    """A ``code`` and its ``numbers`` to decide by, and the ``words`` for a person."""

    code: str
    words: str
    numbers: Mapping[str, Number] = field(default_factory=dict)

    def __str__(self) -> str:
        return self.words

    def then(self, words: str) -> Said:
        """The same, and what follows from it."""
        return Said(self.code, self.words + words, self.numbers)


class _WithMinus(Formatter):
    """Numbers with a true minus sign: a hyphen before one is read as a dash."""

    def format_field(self, value: Any, format_spec: str) -> str:
        text = str(super().format_field(value, format_spec))
        return text.replace("-", "\N{MINUS SIGN}") if isinstance(value, int | float) else text


def said(code: str, words: str, /, **numbers: Number) -> Said:
    """``words`` with the numbers put into their places, as in ``said("short", "shorter than {s:g} s", s=2)``."""
    return Said(code, _WithMinus().vformat(words, (), numbers), numbers)


@dataclass(kw_only=True)
class Telling:
    """What is told of something, sentence by sentence, and what is lacking to tell more."""

    told: list[Said] = field(default_factory=list)
    lacking: Said | None = None

    def tell(self, code: str, words: str, /, **numbers: Number) -> None:
        """Say one sentence more."""
        self.told.append(said(code, words, **numbers))

    def lacks(self, code: str, words: str, /, **numbers: Number) -> None:
        """Say what is lacking."""
        self.lacking = said(code, words, **numbers)

    @property
    def sentence(self) -> str:
        """All that is told, for a person."""
        return " ".join(one.words for one in self.told)

    @property
    def missing(self) -> str:
        """What is lacking, for a person."""
        return "" if self.lacking is None else self.lacking.words
