"""The vocabulary as pages show it."""

from __future__ import annotations

from cata.core.taste.words import WORDS
from cata.services.tasting.views import WordView


def list_words() -> list[WordView]:
    """All words, in the order of the alphabet."""
    found = [WordView(key=one.key, about=one.about, opposite=one.opposite, near=list(one.near)) for one in WORDS]
    return sorted(found, key=lambda one: one.key)
