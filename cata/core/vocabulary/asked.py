"""Words in a search: "less boxy than the mid-hump drive"."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from statistics import fmean

from cata.core.vocabulary.notes import known_word

WAYS = re.compile(
    r"^\s*(?:(?P<way>more|less|not so|not as)\s+)?(?P<word>[^\W\d_]+)\s+(?:than|as)\s+(?P<what>.+?)\s*$", re.IGNORECASE
)
MORE = ("more", "er")


@dataclass(frozen=True)
class Sought:
    """Something with more (``way`` 1) or less (-1) of a word than something else, as that was called."""

    word: str
    way: int
    what: str


@dataclass(frozen=True)
class Met:
    """A test that something shares with what it is held against: how many steps more of the word it has there.

    ``sure``: 1 where it certainly has more there, -1 where certainly less, 0 where nobody can tell.
    """

    steps: float
    sure: int


@dataclass(frozen=True)
class Differs:
    """By how many steps something differs from what it is held against, in so many tests certainly."""

    steps: float
    tests: int


def differs(way: int, met: Sequence[Met]) -> Differs | None:
    """What all tests in which two met say together; None where none says it for sure, or one says the opposite."""
    sure = [one.steps for one in met if one.sure == way]
    if not sure or any(one.sure == -way for one in met):
        return None
    return Differs(fmean(sure), len(sure))


def sought(text: str) -> Sought | None:
    """What a search asks for by a word; None where it asks for something else."""
    found = WAYS.match(text)
    word = known_word(found["word"].lower()) if found else None
    if found is None or word is None:
        return None
    way = (found["way"] or found["word"][-2:]).lower()
    if way not in (*MORE, "less", "not so", "not as"):
        return None
    return Sought(word, 1 if way in MORE else -1, found["what"])
