"""Whose use of a word counts: one person's, or what most say."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass, field

from cata.core.vocabulary.words import Word

EVERYBODY = "everybody"


@dataclass(frozen=True)
class Taught:
    """What was said of takes by one word: by whom, of which, yes or no; of each only the newest."""

    word: Word
    by_who: Mapping[str, Mapping[int, bool]] = field(default_factory=dict)

    @property
    def ears(self) -> list[str]:
        """Whose use of the word can be asked for, everybody's first; nobody's where nothing was said."""
        named = sorted(name for name in self.by_who if name)
        return [EVERYBODY, *named] if self.by_who else []

    def of(self, ears: str) -> dict[int, bool]:
        """What was said of which take, by one of them or by everybody: what most say; a draw says nothing."""
        if ears != EVERYBODY:
            return dict(self.by_who.get(ears, {}))
        votes: Counter[int] = Counter()
        for mine in self.by_who.values():
            for take, yes in mine.items():
                votes[take] += 1 if yes else -1
        return {take: count > 0 for take, count in votes.items() if count}
