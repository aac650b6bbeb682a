"""Fit of a contender's takes to the sounds of a brief.

Inside a range the fit is 1. Outside it falls with the distance counted in just-noticeable differences: one of them
costs little, three halve it. Every take is judged by itself. What is not known counts as if it were bad: a contender
never gains by what nobody measured. How much of the brief could be judged is said beside the fit.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from functools import cached_property, partial
from statistics import fmean

from cata.core.brief import Need, Sound, Target
from cata.core.choose.takes import Ground, Known

HALF_FIT_JNDS = 3.0


@dataclass(frozen=True)
class Judged:
    """One target of one sound in one test: the value found, the fit 0 to 1, and by how much it misses.

    ``miss`` is signed and in the unit of the reading: below the range negative, above it positive. ``against`` names
    what a difference is held against.
    """

    sound: str
    test: str
    target: Target
    value: float
    fit: float
    miss: float
    missed_jnds: float
    against: str = ""


@dataclass(frozen=True)
class Missing:
    """A target that a test does not show of a contender; ``played`` says whether there is a take at all."""

    sound: str
    test: str
    target: Target
    played: bool


@dataclass(frozen=True)
class Off:
    """A sound that is served better with the contender switched off, in one test, and by how much."""

    sound: str
    test: str
    better: float


Told = tuple[tuple[Judged, ...], tuple[Missing, ...], tuple[Off, ...]]


@dataclass(frozen=True)
class Fit:
    """``score`` 0 to 1 with all that is not known counted as bad, ``best`` with it counted as met.

    ``coverage`` is the share of the brief's weight that was judged. What was judged and what is missing is worked out
    where somebody asks: of most of a large shelf nobody does.
    """

    score: float
    best: float
    coverage: float
    tell: Callable[[], Told] = field(repr=False, compare=False)

    @property
    def judged(self) -> tuple[Judged, ...]:
        """Every target of which something is known, in the tests that count."""
        return self._told[0]

    @property
    def missing(self) -> tuple[Missing, ...]:
        """Every target of which nothing is."""
        return self._told[1]

    @property
    def off(self) -> tuple[Off, ...]:
        """Where it is switched off; nothing is judged there."""
        return self._told[2]

    @cached_property
    def _told(self) -> Told:
        return self.tell()


def halves_of(target: Target, jnd: float) -> tuple[float, float]:
    """How far below and above its range the fit is a half: as the person drew it, else by what would be noticed."""
    usual = HALF_FIT_JNDS * jnd
    return target.soft_low or usual, target.soft_high or usual


def fit_of(target: Target, value: float, jnd: float) -> tuple[float, float, float]:
    """Fit of a value to a range, by how much it misses, and by how many just-noticeable differences."""
    miss = half = 0.0
    below, above = halves_of(target, jnd)
    if target.low is not None and value < target.low:
        miss, half = value - target.low, below
    elif target.high is not None and value > target.high:
        miss, half = value - target.high, above
    return 1.0 / (1.0 + (miss / half) ** 2) if miss else 1.0, miss, abs(miss) / jnd


def judge(sound: Sound, target: Target, test: str, known: Known) -> Judged:
    """A value against its target; of a bound the worse end, which is none where the range is open to that side."""
    fit, miss, jnds = fit_of(target, known.value, known.jnd)
    if known.bound is not None and (target.low if known.bound == "at_most" else target.high) is not None:
        # It may lie anywhere beyond.
        fit = 0.0
    return Judged(sound.key, test, target, known.value, fit, miss, jnds, known.against)


def fit(need: Need, shelf: Ground, ident: int) -> Fit:
    """How well the takes of one contender meet a need."""
    score = best = reached = total = 0.0
    counted: list[tuple[Sound, str, float]] = []
    for sound in need.sounds:
        if sound.weight <= 0:
            continue
        total += sound.weight
        tests, own = shelf.tests_for(sound)
        if not tests or sum(target.weight for target in sound.targets) <= 0:
            continue
        met = {test: shelf.meets(ident, sound, test) for test in tests}
        # Nobody has to leave on what does not help: known to be better off, it counts as it is then.
        off = {test: idle for test in tests if (idle := shelf.off(sound, test)) is not None and idle > met[test][0]}
        known = [off.get(test, one) for test, (one, _) in met.items()]
        hoped = [max(one + 1.0 - share, off.get(test, 0.0)) for test, (one, share) in met.items()]
        whole = (min if sound.must else _mean) if own else max
        score, best = score + sound.weight * whole(known), best + sound.weight * whole(hoped)
        mine = tests if own else (max(tests, key=lambda test: off.get(test, met[test][0])),)
        counted += [(sound, test, off[test] - met[test][0] if test in off else 0.0) for test in mine]
        reached += sound.weight * _mean([met[test][1] for test in mine])
    total = total or 1.0
    return Fit(score / total, best / total, reached / total, partial(_told, shelf, ident, tuple(counted)))


def _mean(values: Sequence[float]) -> float:
    return fmean(values) if len(values) > 1 else values[0]


def _told(shelf: Ground, ident: int, counted: Sequence[tuple[Sound, str, float]]) -> Told:
    judged: list[Judged] = []
    missing: list[Missing] = []
    for sound, test, off in counted:
        for target in sound.targets:
            one = shelf.known(ident, test, target)
            if one is None:
                missing.append(Missing(sound.key, test, target, shelf.has(ident, test)))
            elif not off:
                judged.append(judge(sound, target, test, one))
    return tuple(judged), tuple(missing), tuple(Off(sound.key, test, off) for sound, test, off in counted if off)
