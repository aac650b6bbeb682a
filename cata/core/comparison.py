"""One comparison, said here once: a difference, what is just noticed of it, and what chance alone does to it.

Readings, verdicts, words, substitutes: whoever says that two things differ asks here, so that one pair is not
"brighter" on one page and "no difference" on the next. Where the flight repeats nothing, what the playing scatters by
is only supposed: then nothing is more than likely.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from functools import cache
from math import hypot, inf, sqrt
from statistics import fmean
from typing import Literal

import scipy

from cata.core.choose.takes import Scatter
from cata.core.measure.of_flights import STROKES
from cata.core.measure.registry import BY_KEY
from cata.core.measure.results import Results

Sureness = Literal["sure", "likely"]

LIKELY_TAIL, SURE_TAIL = 5.6e-3, 6.3e-5
"""How often chance alone may make a difference as large: 2.8 and 4 standard deviations, since many are looked at."""
PRIOR_FREEDOM = 6.0
"""What takes usually scatter by counts as so many repeats beside those of the flight."""
SUPPOSED_FREEDOM = 20.0
"""What takes usually scatter by is known from many, and still another player may scatter more."""
BAND_SDS = 1.96
STROKES_TIMES, WHOLE_TAKE = 2.0, 0.4
"""A hand moves all strokes of a take together, too: twice what they leave open, and two fifths of what is usual."""


@dataclass(frozen=True)
class Doubt:
    """What playing it again does to a value: standard deviation, the freedom it is known from, and whether repeats of
    this flight measured it."""

    sd: float
    freedom: float
    measured: bool


def doubt_of(usual_sd: float, scatter: Scatter | None) -> Doubt:
    """What a flight's repeats show, as far as few can, beside what takes usually scatter by."""
    if scatter is None:
        return Doubt(usual_sd, SUPPOSED_FREEDOM, False)
    if scatter.freedom == inf:
        return Doubt(scatter.sd, inf, True)
    freedom = scatter.freedom + PRIOR_FREEDOM
    variance = (scatter.freedom * scatter.sd**2 + PRIOR_FREEDOM * usual_sd**2) / freedom
    return Doubt(sqrt(variance), freedom, True)


def usual_sd(name: str, takes: Iterable[Results]) -> float | None:
    """What takes of a test scatter by in a reading ("key" or "key.part") where nothing was repeated.

    What their strokes leave open, and what a hand does to a whole take; where strokes tell nothing, what takes usually
    scatter by. None where that was never measured.
    """
    key, _, part = name.partition(".")
    usual = BY_KEY[key].scatter_of(part)
    strokes = [one.number(f"{STROKES.key}.{name}") for one in takes]
    known = [one for one in strokes if one is not None]
    if usual is None or not known or len(known) < len(strokes):
        return usual
    return hypot(STROKES_TIMES * sqrt(fmean(one**2 for one in known)), WHOLE_TAKE * usual)


@dataclass(frozen=True)
class Comparison:
    """A difference, the just-noticeable one, its standard deviation, and how many such differences were looked at."""

    amount: float
    jnd: float
    sd: float
    freedom: float = inf
    measured: bool = True
    looks: float = 1.0

    @property
    def steps(self) -> float:
        """How many just-noticeable differences it is."""
        return abs(self.amount) / self.jnd if self.jnd else inf

    @property
    def trusted(self) -> bool:
        """True where it can be heard, and chance would hardly make it."""
        return abs(self.amount) >= self.jnd and abs(self.amount) >= self.sd * _times(
            self.freedom, LIKELY_TAIL, self.looks
        )

    @property
    def strong(self) -> bool:
        """True where it would be sure, had repeats measured what the playing scatters by."""
        return self.trusted and abs(self.amount) >= self.sd * _times(self.freedom, SURE_TAIL, self.looks)

    @property
    def sure(self) -> Sureness | None:
        """How sure it is; None where it cannot be heard or trusted."""
        if not self.trusted:
            return None
        return "sure" if self.measured and self.strong else "likely"


def compared(
    amount: float, jnd: float, doubt: Doubt, bands: tuple[float, float] = (0.0, 0.0), looks: float = 1.0
) -> Comparison:
    """Two values of one thing each, with the readings' own bands (19 of 20 within)."""
    sd = hypot(sqrt(2) * doubt.sd, bands[0] / BAND_SDS, bands[1] / BAND_SDS)
    return Comparison(amount, jnd, sd, doubt.freedom, doubt.measured, looks)


def looks_among(count: int) -> float:
    """How many differences of one are looked at among so many: from each of the others."""
    return float(max(count - 1, 1))


@cache
def _times(freedom: float, tail: float, looks: float) -> float:
    """How many standard deviations chance reaches so seldom, over all that was looked at (t distribution)."""
    share = tail / max(looks, 1.0) / 2
    # Of scipy.special, for scipy.stats takes a second to load.
    return -float(scipy.special.ndtri(share) if freedom == inf else scipy.special.stdtrit(freedom, share))


@cache
def sds_among(count: int) -> float:
    """By how many standard deviations the two of so many that lie farthest apart differ as seldom as chance may.

    Tukey's studentized range over the root of two, since each of the two scatters; with the freedom of what takes
    usually scatter by, for another player may scatter more.
    """
    farthest = scipy.stats.studentized_range.ppf(1 - LIKELY_TAIL, max(count, 2), SUPPOSED_FREEDOM)
    return float(farthest / sqrt(2))
