"""Words in a search: "less boxy than the mid-hump drive"."""

from __future__ import annotations

import re
from dataclasses import dataclass

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
