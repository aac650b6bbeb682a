"""How much of a word is in something: steps that are just noticed, along what the word stands for, with their doubt."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from math import sqrt
from statistics import median

from cata.core.brief import Target
from cata.core.choose.takes import jnd_at
from cata.core.measure.registry import BY_KEY
from cata.core.vocabulary.words import Signs, Word
from cata.said import Said, said

MAINLY = 1.5
HEARD_STEPS = 2.0
"""What two differ by less along a word is not spoken of."""
SURE_SDS = 2.0
"""Nor what they differ by less than so many standard deviations of what playing it again does."""
TYPICAL = {"sustain.db_per_s": 12.0}
"""Where a step follows the value: a usual one."""
MOST_STEPS = 4.0
"""Farther than so many noticed steps nothing counts more: one region far off is not a whole word."""
USUAL_FREEDOM = 6.0
"""What takes usually scatter by counts as so many repeats beside those of the flight."""
KNOWN_SHARE = 0.7
"""So much of what a word stands for must be known, or nothing is said of it."""


@dataclass(frozen=True)
class Leaning:
    """How far something lies along a word, and the standard deviation that playing it again gives it, in steps."""

    steps: float
    sd: float


@dataclass(frozen=True)
class Lying:
    """Where something lies, by reading: how far from what it is held against, and what playing it again does to that.

    The latter as standard deviations, where they are known; else as takes usually scatter.
    """

    off: Mapping[str, float]
    sds: Mapping[str, float] = field(default_factory=dict)

    def sd_steps(self, key: str) -> float:
        """What playing it again does to a reading, in noticed steps."""
        return (self.sds.get(key) or scatter_of(key)) / step_of(key)


def step_of(key: str) -> float:
    """What is just noticed of a reading ("key" or "key.part"), in its unit."""
    reading, _, part = key.partition(".")
    return jnd_at(Target(reading=reading, part=part), TYPICAL.get(key, 0.0))


def scatter_of(key: str) -> float:
    """What playing it again usually does to a reading, in its unit."""
    return BY_KEY[key.partition(".")[0]].scatter or step_of(key)


def scatter_with(key: str, sd: float, freedom: float) -> float:
    """The same where a flight's own repeats show it, as far as that can be known from so few."""
    return sqrt((freedom * sd**2 + USUAL_FREEDOM * scatter_of(key) ** 2) / (freedom + USUAL_FREEDOM))


def leaning(signs: Signs, lies: Lying) -> Leaning | None:
    """How much of a word is in something. None where too little of the word is known."""
    off = lies.off
    known = {key: weight for key, weight in signs.items() if key in off}
    whole, there = (sqrt(sum(weight**2 for weight in some.values())) for some in (signs, known))
    if not whole or there < KNOWN_SHARE * whole:
        return None
    parts = {key: weight * capped(off[key] / step_of(key)) for key, weight in known.items()}
    doubt = sqrt(sum((weight * lies.sd_steps(key)) ** 2 for key, weight in known.items()))
    steps = sum(parts.values()) / there
    # What goes with a word does not make it: what it mainly stands for must be there too.
    heaviest = max(abs(weight) for weight in signs.values())
    main = [part / heaviest for key, part in parts.items() if abs(signs[key]) == heaviest]
    if not main:
        return None
    limit = MAINLY * sum(main) / len(main)
    return Leaning(max(min(steps, max(limit, 0.0)), min(limit, 0.0)), doubt / there)


def capped(steps: float) -> float:
    """Steps as they count: no farther than so many."""
    return max(-MOST_STEPS, min(MOST_STEPS, steps))


def apart(values: Mapping[int, Mapping[str, float]]) -> dict[int, dict[str, float]]:
    """Of each of some things, by reading, how far it lies from the middle of the others; alone in it, nothing."""
    found: dict[int, dict[str, float]] = {}
    for ident, mine in values.items():
        found[ident] = {}
        for key, value in mine.items():
            others = [other[key] for who, other in values.items() if who != ident and key in other]
            if others:
                found[ident][key] = value - median(others)
    return found


def differ(one: Leaning, other: Leaning) -> bool:
    """True where one has heard and certainly more of a word than another."""
    return one.steps - other.steps >= max(HEARD_STEPS, SURE_SDS * sqrt(one.sd**2 + other.sd**2))


def told(word: Word, steps: Mapping[int, float], names: Mapping[int, str], more: Callable[[int, int], bool]) -> Said:
    """Who is most and least of a word; ``more`` says whether one has heard and certainly more of it than another."""
    if not steps:
        return said("word_unknown", "Nothing was measured that says how {word} any of them is.", word=word.key)
    order = sorted(steps, key=lambda ident: -steps[ident])
    first, last = order[0], order[-1]
    if len(order) < 2 or not more(first, last):
        return said("word_alike", "None of them is {word} to speak of against the others.", word=word.key)
    top = [one for one in order if not more(first, one)]
    bottom = [one for one in order if not more(one, last)]
    if len(top) == 1 and len(bottom) == 1:
        words = "{most} is the most {word} of them, {least} the least."
        return said("word", words, word=word.key, most=names[first], least=names[last])
    if len(top) == 1:
        return said("word_most", "{most} is the most {word} of them.", word=word.key, most=names[first])
    if len(bottom) == 1:
        return said("word_least", "{least} is the least {word} of them.", word=word.key, least=names[last])
    # Who lies between is as good as both.
    above, below = ([names[one] for one in some if one not in rest] for some, rest in ((top, bottom), (bottom, top)))
    several = len(above) > 1 or len(below) > 1
    rest = "among themselves that may be chance" if several else "the rest lies between"
    words = "{above} more {word} than {below}; {rest}."
    be = "are" if len(above) > 1 else "is"
    return said("word_groups", words, word=word.key, above=f"{_listed(above)} {be}", below=_listed(below), rest=rest)


def _listed(names: Sequence[str]) -> str:
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"
