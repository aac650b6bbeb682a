"""Fit of a contender's takes to the sounds of a brief.

Inside a range the fit is 1. Outside it falls with the distance counted in just-noticeable differences: one of them
costs little, three halve it. A sound is judged by all its takes together. What is not known counts as if it were bad: a
contender never gains by what nobody measured. How much of the brief could be judged is said beside the fit.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property, partial

from cata.core.brief import Need, Sound, Target
from cata.core.choose.takes import Ground, Known

HALF_FIT_JNDS = 3.0


@dataclass(frozen=True)
class Judged:
    """One target of one sound: the value found, the fit 0 to 1, and by how much it misses.

    ``miss`` is signed and in the unit of the reading: below the range negative, above it positive. ``against`` names
    what a difference is held against.
    """

    sound: str
    target: Target
    value: float
    fit: float
    miss: float
    missed_jnds: float
    against: str = ""


@dataclass(frozen=True)
class Missing:
    """A target of which nothing is known of a contender; ``played``: there is a take for the sound."""

    sound: str
    target: Target
    played: bool


@dataclass(frozen=True)
class Off:
    """A sound that is served better with the contender switched off, and by how much."""

    sound: str
    better: float


Told = tuple[tuple[Judged, ...], tuple[Missing, ...], tuple[Off, ...]]


@dataclass(frozen=True)
class Fit:
    """``score`` 0 to 1 with all that is not known counted as bad, ``best`` with it counted as met.

    ``coverage`` is the share of the brief's weight that was judged, ``by_sound`` the score of each sound and the share
    of it that was. What was judged and what is missing is worked out
    where somebody asks: of most of a large shelf nobody does.
    """

    score: float
    best: float
    coverage: float
    by_sound: Mapping[str, tuple[float, float]]
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


def judge(sound: Sound, target: Target, known: Known) -> Judged:
    """A value against its target; of a bound the worse end, which is none where the range is open to that side."""
    fit, miss, jnds = fit_of(target, known.value, known.jnd)
    if known.bound is not None and (target.low if known.bound == "at_most" else target.high) is not None:
        # It may lie anywhere beyond.
        fit = 0.0
    return Judged(sound.key, target, known.value, fit, miss, jnds, known.against)


def fit(need: Need, ground: Ground, ident: int) -> Fit:
    """How well what is known of one contender meets a need."""
    score = best = reached = total = 0.0
    counted: list[tuple[Sound, float]] = []
    by_sound = {}
    for sound in need.sounds:
        if sound.weight <= 0:
            continue
        total += sound.weight
        if sum(target.weight for target in sound.targets) <= 0:
            continue
        met, known = ground.meets(ident, sound)
        # Nobody has to leave on what does not help: known to be better off, it counts as it is then.
        idle = ground.off(sound)
        off = idle if idle is not None and idle > met else None
        served = met if off is None else off
        score, best = score + sound.weight * served, best + sound.weight * max(met + 1.0 - known, off or 0.0)
        reached += sound.weight * known
        by_sound[sound.key] = served, known
        counted.append((sound, 0.0 if off is None else off - met))
    total = total or 1.0
    return Fit(score / total, best / total, reached / total, by_sound, partial(_told, ground, ident, tuple(counted)))


def _told(ground: Ground, ident: int, counted: Sequence[tuple[Sound, float]]) -> Told:
    judged: list[Judged] = []
    missing: list[Missing] = []
    for sound, off in counted:
        for target in sound.targets:
            one = ground.known(ident, sound.key, target)
            if one is None:
                missing.append(Missing(sound.key, target, ground.has(ident, sound.key)))
            elif not off:
                judged.append(judge(sound, target, one))
    return tuple(judged), tuple(missing), tuple(Off(sound.key, off) for sound, off in counted if off)
