"""Words in notes that people type."""

from __future__ import annotations

import re
from difflib import get_close_matches

from cata.core.vocabulary.words import WORD_OF

NOT = ("not", "less", "never", "no", "hardly")
TOKEN = re.compile(r"[^\W\d_]+")
ALIKE = 0.84


def words_in(text: str) -> list[tuple[str, int]]:
    """The words of a note, in their order: +1 where it is said, -1 where it is denied ("not boomy", "less harsh").

    What is typed nearly right counts; what is no word of these is left alone.
    """
    found: list[tuple[str, int]] = []
    sign = 1
    for token in TOKEN.findall(text.lower()):
        if token in NOT:
            sign = -1
            continue
        stem = known_word(token)
        if stem is not None:
            found.append((stem, sign))
            sign = 1
        elif token not in ("very", "so", "too", "a", "bit", "quite", "as"):
            sign = 1
    return found


def known_word(token: str) -> str | None:
    """The word of the vocabulary that was typed, nearly right, right, or raised ("brighter"); None where it is none."""
    for stem in (token, *_plain(token)):
        if stem in WORD_OF:
            return stem
    if len(token) < 4:
        return None
    # The beginning of a word is another word: a glass is not glassy.
    near = [word for word in get_close_matches(token, WORD_OF, n=1, cutoff=ALIKE) if not word.startswith(token)]
    return near[0] if near else None


def _plain(token: str) -> list[str]:
    """What a word may have been before it was raised: brighter, boxier, thinner, loosest."""
    for ending in ("er", "est"):
        stem = token.removesuffix(ending)
        if stem != token and len(stem) > 2:
            return [stem, f"{stem}e", *([f"{stem[:-1]}y"] if stem[-1] == "i" else []),
                    *([stem[:-1]] if stem[-1] == stem[-2] else [])]  # fmt: skip
    return []
