"""How much of a word is in something: steps that are just noticed, along what the word stands for, with their doubt."""

from __future__ import annotations

from collections.abc import Callable, Collection, Container, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cache
from math import sqrt
from statistics import fmean, median

from cata.core.brief import Target
from cata.core.choose.takes import BAND_SDS, Scatter, jnd_at
from cata.core.comparison import doubt_of, sds_among, usual_sd
from cata.core.measure.registry import BY_KEY
from cata.core.measure.results import Results
from cata.core.vocabulary.words import KEYS, Word
from cata.said import Said, said

MAINLY = 1.5
HEARD_STEPS = 1.5
"""What two differ by less along a word is not spoken of."""
USUAL_STEPS = 2.0
"""How far things that are compared usually lie apart in a reading."""
TYPICAL = {"sustain.db_per_s": 12.0}
"""Where a step follows the value: a usual one."""
MOST_STEPS = 4.0
"""Farther than so many noticed steps nothing counts more: one region far off is not a whole word."""
KNOWN_SHARE = 0.7
"""So much of what a word stands for must be known, or nothing is said of it."""


@dataclass(frozen=True)
class Leaning:
    """How far something lies along a word in steps, as they count and as they are, and what playing it again does.

    The latter as a standard deviation.
    """

    steps: float
    whole: float
    sd: float


@dataclass(frozen=True)
class Lying:
    """Where something lies, by reading: how far from what it is held against, and what playing it again does to that.

    The latter as standard deviations, where they are known; else as takes usually scatter. ``drive`` in per cent is how
    driven it is by itself, where anybody knows.
    """

    off: Mapping[str, float]
    sds: Mapping[str, float] = field(default_factory=dict)
    drive: float | None = None

    def sd_steps(self, key: str) -> float:
        """What playing it again does to a reading, in noticed steps."""
        return (self.sds.get(key) or scatter_of(key)) / step_of(key)


def step_of(key: str) -> float:
    """What is just noticed of a reading ("key" or "key.part"), in its unit."""
    reading, _, part = key.partition(".")
    return jnd_at(Target(reading=reading, part=part), TYPICAL.get(key, 0.0))


def scatter_of(key: str) -> float:
    """What playing it again usually does to a reading, in its unit."""
    reading, _, part = key.partition(".")
    return BY_KEY[reading].scatter_of(part) or step_of(key)


def scatters_of(takes: Sequence[Results], repeats: Mapping[str, Scatter]) -> dict[str, float]:
    """What playing them again does to the readings of a test's takes, by reading.

    As its strokes show it, beside the flight's own repeats as far as that can be known from so few.
    """
    usual = {key: usual_sd(key, takes) or step_of(key) for key in KEYS}
    return {key: doubt_of(sd, repeats.get(key)).sd for key, sd in usual.items()}


def doubts(takes: Collection[Results], scatters: Mapping[str, float]) -> dict[str, float]:
    """What playing them again does to the readings of a test's takes, with what the phrase leaves open in each.

    A take's own band is known from few strokes only: all play one phrase, so what they show together counts.
    """
    bands = {key: [one.bands.get(key.partition(".")[0], 0.0) / BAND_SDS for one in takes] for key in scatters}
    return {key: sqrt(sd**2 + fmean(one**2 for one in bands[key])) for key, sd in scatters.items()}


def leaning(word: Word, lies: Lying) -> Leaning | None:
    """How much of a word is in something. None where too little of the word is known, or it is not said of such."""
    signs = word.signs
    if lies.drive is not None and lies.drive > word.most_drive:
        return None
    # What goes with a word does not make it: what it mainly stands for must be there too.
    heaviest = max((abs(weight) for weight in signs.values()), default=0.0)
    main = [key for key, weight in signs.items() if key in lies.off and abs(weight) == heaviest]
    if not main or _length(signs, lies.off) < KNOWN_SHARE * _length(signs, signs):
        return None
    known = {key: weight * _sureness(key) for key, weight in signs.items() if key in lies.off}
    there = _length(known, known)
    steps = {key: lies.off[key] / step_of(key) for key in known}

    def along(of: Mapping[str, float]) -> float:
        total = sum(known[key] * of[key] for key in known) / there
        limit = MAINLY * sum(of[key] * signs[key] / heaviest for key in main) / len(main)
        return max(min(total, max(limit, 0.0)), min(limit, 0.0))

    doubt = sqrt(sum((weight * lies.sd_steps(key)) ** 2 for key, weight in known.items()))
    return Leaning(along({key: capped(one) for key, one in steps.items()}), along(steps), doubt / there)


def _length(weights: Mapping[str, float], of: Container[str]) -> float:
    return sqrt(sum(weight**2 for key, weight in weights.items() if key in of))


@cache
def _sureness(key: str) -> float:
    """How much of what takes usually differ by is more than playing them again does: a reading counts by that."""
    return USUAL_STEPS**2 / (USUAL_STEPS**2 + (scatter_of(key) / step_of(key)) ** 2)


def capped(steps: float) -> float:
    """Steps as they count: no farther than so many."""
    return max(-MOST_STEPS, min(MOST_STEPS, steps))


def apart(values: Mapping[int, Mapping[str, float]]) -> dict[int, dict[str, float]]:
    """Of each of some things, by reading, how far it lies from the middle of all; alone in it, nothing.

    From one middle for all: what two differ by is then what lies between them, however many others there are.
    """
    keys = {key for mine in values.values() for key in mine}
    of_key = {key: [mine[key] for mine in values.values() if key in mine] for key in keys}
    middles = {key: median(known) for key, known in of_key.items() if len(known) > 1}
    return {
        ident: {key: value - middles[key] for key, value in mine.items() if key in middles}
        for ident, mine in values.items()
    }


def differ(one: Leaning, other: Leaning, among: int) -> bool:
    """True where one has heard and certainly more of a word than another, among so many."""
    sure = one.whole - other.whole >= sds_among(among) * sqrt(one.sd**2 + other.sd**2)
    return sure and one.steps - other.steps >= HEARD_STEPS


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
