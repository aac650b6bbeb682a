"""Fit of a contender's takes to the sounds of a brief.

Inside a range the fit is 1. Outside it falls with the distance counted in just-noticeable differences: one of them
costs little, three halve it. Every take is judged by itself. What is not known counts as if it were bad: a contender
never gains by what nobody measured. How much of the brief could be judged is said beside the fit.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from statistics import fmean

from cata.core.brief import Need, Sound, Target
from cata.core.choose.takes import Ground, Known

HALF_FIT_JNDS = 3.0
Judge = Callable[[str, Target], "float | None"]
"""The fit of a contender to a target in a test; None where nothing is known."""


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
class Fit:
    """``score`` 0 to 1 with all that is not known counted as bad, ``best`` with it counted as met.

    ``coverage`` is the share of the brief's weight that was judged.
    """

    score: float
    best: float
    coverage: float
    judged: tuple[Judged, ...]
    missing: tuple[Missing, ...]


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


def of_sound(sound: Sound, shelf: Ground, judged: Judge) -> tuple[float, tuple[str, ...]]:
    """Fit to one sound, and the tests that count for it."""
    tests, own = shelf.tests_for(sound)
    weight = sum(target.weight for target in sound.targets)
    if not tests or weight <= 0:
        return 0.0, ()
    fits = {
        test: sum(target.weight * (judged(test, target) or 0.0) for target in sound.targets) / weight for test in tests
    }
    if not own:
        best = max(tests, key=lambda test: fits[test])
        return fits[best], (best,)
    return (min if sound.must else fmean)(fits.values()), tests


def fit(need: Need, shelf: Ground, ident: int) -> Fit:
    """How well the takes of one contender meet a need."""
    score = best = reached = total = 0.0
    told: list[Judged] = []
    missing: list[Missing] = []
    for sound in need.sounds:
        if sound.weight <= 0:
            continue
        value, tests = of_sound(sound, shelf, _asking(sound, shelf, ident, None))
        total += sound.weight
        score += sound.weight * value
        best += sound.weight * of_sound(sound, shelf, _asking(sound, shelf, ident, 1.0))[0]
        weight = sum(target.weight for target in sound.targets) * len(tests)
        for test, target in ((test, target) for test in tests for target in sound.targets):
            known = shelf.known(ident, test, target)
            if known is None:
                missing.append(Missing(sound.key, test, target, shelf.has(ident, test)))
            else:
                told.append(judge(sound, target, test, known))
                reached += sound.weight * target.weight / weight if weight else 0.0
    total = total or 1.0
    return Fit(score / total, best / total, reached / total, tuple(told), tuple(missing))


def _asking(sound: Sound, shelf: Ground, ident: int, otherwise: float | None) -> Judge:
    def asked(test: str, target: Target) -> float | None:
        known = shelf.known(ident, test, target)
        return judge(sound, target, test, known).fit if known else otherwise

    return asked
