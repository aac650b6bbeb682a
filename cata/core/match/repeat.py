"""Repeatability and drift: how much two takes of the same thing differ, and whether the afternoon moved.

A difference smaller than that between two takes of the same cell is no difference. Repeats of several cells are
pooled; a drift over the afternoon is taken out first, so that a warming amplifier is not taken for a careless player.
Imports no numpy: the readings page asks for it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from math import gamma, sqrt

MIN_FOR_DRIFT = 3
FEW_TIMES = {1: 6.0, 2: 4.0, 3: 3.0}
TIMES = 2.0
"""A difference counts from twice the standard deviation of the flight's own repeats."""


@dataclass(frozen=True)
class Repeatability:
    """Standard deviation of one reading over repeats, from ``freedom`` degrees (repeats less cells less drift)."""

    sd: float
    freedom: int

    @property
    def band(self) -> float:
        """What a difference must exceed."""
        return TIMES * self.sd


@dataclass(frozen=True)
class Drift:
    """How far a reading moved from the first anchor to the last, in its own unit, and what was left over."""

    change: float
    residual_sd: float
    count: int


def _unbiased(freedom: int) -> float:
    """What divides a standard deviation of few values so that it is right on average (c4 of quality control).

    Source: Montgomery, Introduction to Statistical Quality Control, appendix VI.
    """
    if freedom >= 100:
        return 1.0
    n = freedom + 1
    return sqrt(2 / (n - 1)) * gamma(n / 2) / gamma((n - 1) / 2)


def repeatability(groups: Sequence[Sequence[float]]) -> Repeatability | None:
    """The pooled standard deviation within groups of takes of the same cell; None without a repeat."""
    squares, freedom = 0.0, 0
    for group in groups:
        if len(group) < 2:
            continue
        mean = sum(group) / len(group)
        squares += sum((value - mean) ** 2 for value in group)
        freedom += len(group) - 1
    if freedom == 0:
        return None
    return Repeatability(sqrt(squares / freedom) / _unbiased(freedom), freedom)


def drift(values: Sequence[float], places: Sequence[float]) -> Drift | None:
    """A line through the anchors over their places in the order; None with fewer than two."""
    count = len(values)
    if count < 2 or max(places) == min(places):
        return None
    x0, y0 = sum(places) / count, sum(values) / count
    spread = sum((x - x0) ** 2 for x in places)
    slope = sum((x - x0) * (y - y0) for x, y in zip(places, values, strict=True)) / spread
    left = [y - y0 - slope * (x - x0) for x, y in zip(places, values, strict=True)]
    freedom = count - 2
    sd = sqrt(sum(value**2 for value in left) / freedom) / _unbiased(freedom) if freedom > 0 else 0.0
    return Drift(slope * (max(places) - min(places)), sd, count)


def without_drift(values: Sequence[float], places: Sequence[float], moved: Drift | None) -> list[float]:
    """The anchors with a drift taken out, as if all were played at the first one's place."""
    if moved is None or moved.count < MIN_FOR_DRIFT:
        return list(values)
    length = max(places) - min(places)
    return [value - moved.change * (at - min(places)) / length for value, at in zip(values, places, strict=True)]


def moved_beyond(found: Drift, values: Sequence[float], jnd: float) -> bool:
    """True where the anchors moved on one way, further than can be heard and than they scatter round their line."""
    steps = [b - a for a, b in pairwise(values)]
    one_way = all(step * found.change > 0 or abs(step) < jnd / 2 for step in steps)
    # What is left over around a line through three anchors is one number: it says little, so it must be small.
    times = FEW_TIMES.get(len(values) - 2, TIMES)
    return one_way and abs(found.change) > max(jnd, times * found.residual_sd)
