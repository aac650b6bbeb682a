"""Ranges from takes that a person likes and dislikes, and how sure that leaves each.

A take is liked where it lies in the range of every reading that matters to the person, which is unknown: which readings
those are, and where the ranges end. Both are drawn together (Gibbs sampling over spike and slab, as George and
McCulloch 1993 have it for regressions): readings that say the same share the credit, and what takes happen to differ by
counts only as far as it is needed to tell those liked from those disliked.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.floating[Any]]
PRIOR_SHARE = 0.15
"""How many of the readings matter to somebody, before anything was pointed at: about three of twenty."""
ERROR = 0.08
"""How often a person points otherwise than the ranges would have it."""
CHAINS, SWEEPS, LEFT_OUT = 12, 70, 15
MOST_ENDS = 14
NEVER = 1e-9
LOGISTIC = 1.702
"""A logistic curve of this slope is a normal distribution within 0.01."""
FEWEST = 1


@dataclass(frozen=True)
class Found:
    """What is left open of one reading: the chance that it matters, and where its range then ends.

    ``low`` and ``high`` are (lower quartile, median, upper quartile), None where the range is open to that side more
    often than not.
    """

    key: str
    chance: float
    low: tuple[float, float, float] | None
    high: tuple[float, float, float] | None


@dataclass(frozen=True)
class Pointed:
    """All readings, those that matter most surely first, and how each of the other takes would be liked (0 to 1)."""

    found: Sequence[Found]
    liked: Mapping[int, float]


@dataclass(frozen=True)
class Seen:
    """A reading over all takes: values (NaN where a take does not show it) and their standard deviations."""

    key: str
    values: Floats
    sds: Floats


def point(seen: Sequence[Seen], liked: Sequence[int], disliked: Sequence[int], seed: int = 1) -> Pointed:
    """What can be said of the ranges of a person who likes and dislikes these takes (places in the values).

    ValueError where nothing is liked or nothing disliked: one side alone says where no range ends.
    """
    if len(liked) < FEWEST or len(disliked) < FEWEST:
        raise ValueError("a range needs a take that is liked and one that is not")
    rng = np.random.default_rng(seed)
    takes = np.array([*liked, *disliked])
    good = np.array([True] * len(liked) + [False] * len(disliked))
    readings = [one for one in (_Reading.of(one) for one in seen) if one is not None]
    # How likely what was said of a take is, as a line over the chance that it lies in all ranges.
    agrees = np.where(good, ERROR, 1 - ERROR)
    differs = np.where(good, 1 - 2 * ERROR, 2 * ERROR - 1)
    tables = [one.inside[:, takes] for one in readings]
    inside = np.zeros((CHAINS, len(readings), len(takes)))
    together = np.zeros((CHAINS, len(takes)))
    weights: list[Floats] = [np.zeros(len(one.prior)) for one in readings]
    others = np.zeros(seen[0].values.size) if seen else np.zeros(0)
    for sweep in range(SWEEPS):
        elsewhere = np.zeros((CHAINS, others.size))
        for at, one in enumerate(readings):
            together -= inside[:, at]
            likely = agrees + differs * np.exp(together)[:, None, :] * tables[at]
            weight = one.prior * likely.prod(axis=2)
            weight /= weight.sum(axis=1, keepdims=True)
            # Where in the running sum a random number lies, chain by chain.
            drawn = (weight.cumsum(axis=1) < rng.random((CHAINS, 1)) * (1 - 1e-12)).sum(axis=1)
            inside[:, at] = one.logs[drawn[:, None], takes]
            together += inside[:, at]
            elsewhere += one.logs[drawn]
            if sweep >= LEFT_OUT:
                weights[at] += weight.sum(axis=0)
        if sweep >= LEFT_OUT:
            others += np.exp(elsewhere).sum(axis=0)
    rounds = (SWEEPS - LEFT_OUT) * CHAINS
    found = [one.told(mine / rounds) for one, mine in zip(readings, weights, strict=True)]
    pointed = set(takes.tolist())
    return Pointed(
        sorted(found, key=lambda one: -one.chance),
        {take: float(share) / rounds for take, share in enumerate(others) if take not in pointed},
    )


@dataclass(frozen=True)
class _Reading:
    """A reading with all the ranges it may have: the first is none at all."""

    key: str
    low: Floats
    high: Floats
    prior: Floats
    inside: Floats
    logs: Floats

    @classmethod
    def of(cls, seen: Seen) -> _Reading | None:
        known = np.isfinite(seen.values)
        values = np.unique(seen.values[known])
        if values.size < 2:
            return None
        ends = (values[1:] + values[:-1]) / 2
        if ends.size > MOST_ENDS:
            ends = np.quantile(ends, np.linspace(0, 1, MOST_ENDS))
        pairs = [(a, b) for n, a in enumerate(ends) for b in ends[n + 1 :]]
        low = np.array([-np.inf, *ends, *(-np.inf for _ in ends), *(a for a, _ in pairs)])
        high = np.array([np.inf, *(np.inf for _ in ends), *ends, *(b for _, b in pairs)])
        # Open below, open above and closed ranges are as likely, each kind spread over its places.
        share = PRIOR_SHARE / (3 if pairs else 2)
        prior = np.array(
            [1 - PRIOR_SHARE, *[share / ends.size] * (2 * ends.size), *(share / len(pairs) for _ in pairs)]
        )
        inside = _normal((high[:, None] - seen.values) / seen.sds) - _normal((low[:, None] - seen.values) / seen.sds)
        # A take that does not show a reading is neither in its range nor out of it.
        inside = np.where(known, inside, 1.0)
        inside = np.clip(inside, NEVER, 1.0)
        return cls(seen.key, low, high, prior / prior.sum(), inside, np.log(inside))

    def told(self, weight: Floats) -> Found:
        """What was found of it, from how likely each range was over all rounds."""
        ends = weight[1:]
        return Found(self.key, float(1 - weight[0]), _end(self.low[1:], ends), _end(self.high[1:], ends))


def _normal(x: Floats) -> Floats:
    return 1.0 / (1.0 + np.exp(-LOGISTIC * np.clip(x, -30, 30)))


def _end(ends: Floats, weight: Floats) -> tuple[float, float, float] | None:
    """Quartiles of an end where a range has one; None where it is open more often than not."""
    closed = np.isfinite(ends)
    if weight[closed].sum() * 2 < weight.sum():
        return None
    order = np.argsort(ends[closed])
    places, shares = ends[closed][order], weight[closed][order].cumsum()
    low, middle, high = (float(places[min(int(np.searchsorted(shares / shares[-1], q)), places.size - 1)])
                         for q in (0.25, 0.5, 0.75))  # fmt: skip
    return low, middle, high
