"""Fit of a contender's takes to the sounds of a brief.

Inside a range the fit is 1. Outside it falls with the distance counted in just-noticeable differences: one of them
costs little, three halve it. Every take is judged by itself. What is not known counts as if it were bad: a contender
never gains by what nobody measured. How much of the brief could be judged is said beside the fit.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
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


def fit(need: Need, shelf: Ground, ident: int) -> Fit:
    """How well the takes of one contender meet a need."""
    score = best = reached = total = 0.0
    told: list[Judged] = []
    missing: list[Missing] = []
    for sound in need.sounds:
        if sound.weight <= 0:
            continue
        total += sound.weight
        tests, own = shelf.tests_for(sound)
        weight = sum(target.weight for target in sound.targets)
        if not tests or weight <= 0:
            continue
        found = {test: _judged(sound, shelf, ident, test) for test in tests}
        known, hoped = (
            {test: _together(mine, weight, otherwise) for test, mine in found.items()} for otherwise in (0, 1)
        )
        if own:
            whole = min if sound.must else fmean
            counted: tuple[str, ...] = tests
            score, best = score + sound.weight * whole(known.values()), best + sound.weight * whole(hoped.values())
        else:
            counted = (max(tests, key=lambda test: known[test]),)
            score, best = score + sound.weight * known[counted[0]], best + sound.weight * max(hoped.values())
        for test in counted:
            for target, one in found[test]:
                if one is None:
                    missing.append(Missing(sound.key, test, target, shelf.has(ident, test)))
                else:
                    told.append(one)
                    reached += sound.weight * target.weight / (weight * len(counted))
    total = total or 1.0
    return Fit(score / total, best / total, reached / total, tuple(told), tuple(missing))


def _judged(sound: Sound, shelf: Ground, ident: int, test: str) -> list[tuple[Target, Judged | None]]:
    """Every target of a sound in one test, None where nothing is known."""
    known = [(target, shelf.known(ident, test, target)) for target in sound.targets]
    return [(target, None if one is None else judge(sound, target, test, one)) for target, one in known]


def _together(judged: Sequence[tuple[Target, Judged | None]], weight: float, otherwise: float) -> float:
    """The fit to a sound in one test, with what is not known counted as ``otherwise``."""
    return sum(target.weight * (otherwise if one is None else one.fit) for target, one in judged) / weight
