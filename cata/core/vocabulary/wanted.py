"""A sound that is wanted, in words: "warm and tight, not fizzy" as ranges on the readings.

What a word stands for is asked for against the reference of the test, by as much as makes it audible; drive as it is,
by how much of it the word has. A word that is denied asks only that there be no more of it than the reference has.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from cata.core.brief import Target
from cata.core.vocabulary.leaning import step_of
from cata.core.vocabulary.notes import words_in
from cata.core.vocabulary.words import ANY, DRIVE, WORD_OF, Word
from cata.said import Said, said

ASKED_STEPS = 2.0
"""What is asked for lies so many noticed steps from the reference."""
LEAST_SHARE = 0.6
"""What counts less in a word than so much of its heaviest reading goes with it, and is not asked for."""
MUCH = ((1.8, 20.0), (1.2, 10.0), (0.0, 5.0))
CLEAN = 3.0
"""Per cent of drive: from how much on, by what it counts in a word, and up to how much where it is clean."""
MOST_WEIGHT = 5.0


@dataclass(frozen=True)
class Wanted:
    """Ranges that words ask for; ``words`` those that were understood, ``against`` those that others contradict."""

    targets: tuple[Target, ...]
    words: tuple[str, ...]
    against: tuple[str, ...]

    @property
    def said(self) -> Said:
        """What was understood, and what cannot be had together."""
        if not self.words:
            return Said("no_words", "None of these is a word that stands for readings.")
        heard = ", ".join(self.words)
        if self.against:
            return said("contradict", "{heard}: left out, since others say the opposite, is {left}.", heard=heard,
                        left=", ".join(self.against))  # fmt: skip
        return said("understood", "Understood: {heard}.", heard=heard)


def wanted(text: str) -> Wanted:
    """What a sound in words asks for; the word that is said first counts where two contradict each other."""
    found: dict[str, Target] = {}
    heard, left = list[str](), list[str]()
    for key, sign in words_in(text):
        asked = {_key(one): one for one in _targets(WORD_OF[key], sign)}
        if not asked:
            continue
        both = {name: _both(found[name], one) for name, one in asked.items() if name in found}
        name = key if sign > 0 else f"not {key}"
        if None in both.values():
            left.append(name)
            continue
        found |= asked | {name: one for name, one in both.items() if one is not None}
        heard.append(name)
    return Wanted(tuple(found.values()), tuple(heard), tuple(left))


def _targets(word: Word, sign: int) -> Iterator[Target]:
    heaviest = max((abs(weight) for weight in word.signs.values()), default=0.0)
    most = word.most_drive if sign > 0 and word.most_drive < ANY else None
    for key, weight in word.signs.items():
        if abs(weight) < LEAST_SHARE * heaviest:
            continue
        reading, _, part = key.partition(".")
        counts = min(MOST_WEIGHT, abs(weight))
        more = weight * sign > 0
        if key == DRIVE:
            begins = next(percent for from_weight, percent in MUCH if abs(weight) >= from_weight)
            # Of what is not dirty nothing is known but that it is below where dirt begins.
            low, high = (begins, most) if more else (None, CLEAN if sign > 0 else begins)
            yield Target(reading=reading, part=part, low=low, high=high, weight=counts)
        else:
            edge = ASKED_STEPS * step_of(key) if sign > 0 else 0.0
            low, high = (edge, None) if more else (None, -edge or 0.0)
            yield Target(reading=reading, part=part, low=low, high=high, weight=counts, against="reference")
    if most is not None and abs(word.signs.get(DRIVE, 0.0)) < LEAST_SHARE * heaviest:
        reading, _, part = DRIVE.partition(".")
        yield Target(reading=reading, part=part, high=most)


def _key(target: Target) -> str:
    return f"{target.reading}.{target.part}"


def _both(one: Target, other: Target) -> Target | None:
    """What meets both; None where nothing does."""
    low = max((end for end in (one.low, other.low) if end is not None), default=None)
    high = min((end for end in (one.high, other.high) if end is not None), default=None)
    if low is not None and high is not None and low >= high:
        return None
    return one.model_copy(update={"low": low, "high": high, "weight": max(one.weight, other.weight)})
