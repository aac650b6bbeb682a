"""The order of takes that costs little change-over time, and how much less any order could cost.

A travelling-salesman path: nodes are takes, distances are change-over seconds (symmetric, triangle inequality). Anchors
are the same take again at the start, in the middle third and at the end. One construction (the nearest next), one
improvement (stretches are reversed or moved while that helps, then from kicked orders again: iterated local search with
2-opt and Or-opt), one bound (:mod:`cata.core.plan.bound`).

Both cases are one: a closed tour over ``free`` nodes. Without an anchor one node more that costs nothing to reach opens
the tour; with one, a twin of it is the node that must come in the middle third.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import numpy.typing as npt

from cata.core.plan.bound import Ascent
from cata.errors import Invalid

Costs = npt.NDArray[np.int64]
Tour = npt.NDArray[np.intp]
Until = Callable[[], bool]

STRETCH = 3
"""Moved stretches have at most so many takes (Or 1976)."""
CANDIDATES = 64
KICK_SPAN, FEW = 50, 12
FIRST_STEPS = 60
FIRST_KICKS = 3000
"""Shared among the takes of a plan: a small one is searched thoroughly at once."""
NEVER = 10**7


@dataclass(frozen=True)
class Order:
    """Takes as indices in playing order (an anchor comes up to three times), and their change-overs in seconds.

    ``least_s`` is what no order can beat; the order is the best there is where it equals ``seconds``. ``ascent`` is
    how far the bound was climbed, to go on from.
    """

    sequence: tuple[int, ...]
    seconds: int
    least_s: int
    ascent: Ascent | None = None

    @property
    def is_best(self) -> bool:
        """True where no order takes less time."""
        return self.seconds <= self.least_s

    @property
    def gap_percent(self) -> float:
        """At most how many per cent the best order would save."""
        return 0.0 if self.is_best else 100 * (self.seconds - self.least_s) / max(self.seconds, 1)


def path_seconds(costs: Costs, sequence: Sequence[int]) -> int:
    """Change-over seconds of a sequence."""
    return int(sum(costs[a, b] for a, b in pairwise(sequence)))


def middle_window(count: int) -> tuple[int, int]:
    """Between which numbers of takes played (the first anchor aside) the middle anchor may stand, both included."""
    return max(1, count // 3), max(1, -(-2 * count // 3))


def good_order(costs: Costs, anchor: int | None = None, *, seed: int = 1) -> Order:
    """An order of little change-over time at once, with a bound that no order beats.

    ``costs`` are seconds, shape (takes, takes), symmetric, zero diagonal. ``anchor`` is the index of the take that is
    repeated, or None: it opens, closes, and returns in the middle third (from four takes on). The same plan always gets
    the same order. Raises Invalid for another shape or negative costs.
    """
    trip = _trip(costs, anchor)
    if trip is None:
        return Order(tuple(range(len(costs))), 0, 0)
    tour = trip.improved(trip.nearest())
    ascent = Ascent.at_the_foot(trip.costs, trip.home, trip.twin, trip.window[0])
    ascent.climb(trip.costs, trip.seconds(tour), steps=FIRST_STEPS)
    return _searched(trip, tour, ascent, kicks=FIRST_KICKS // trip.takes, seed=seed)


def better_order(
    costs: Costs, anchor: int | None, order: Order, *, seed: int, climb_until: Until, until: Until
) -> Order:
    """An order searched further, and its bound climbed further; each until it is told to stop, or they meet."""
    trip = _trip(costs, anchor)
    if trip is None or order.is_best:
        return order
    tour = trip.tour_of(order.sequence)
    ascent = order.ascent or Ascent.at_the_foot(trip.costs, trip.home, trip.twin, trip.window[0])
    ascent.climb(trip.costs, order.seconds, until=climb_until)
    return _searched(trip, tour, ascent, kicks=NEVER, seed=seed, until=until)


def _trip(costs: Costs, anchor: int | None) -> _Trip | None:
    costs = np.asarray(costs, dtype=np.int64)
    count = len(costs)
    if costs.ndim != 2 or costs.shape != (count, count) or np.any(costs < 0) or not np.array_equal(costs, costs.T):
        raise Invalid("change-over costs must be a symmetric table of seconds, none negative", "no_cost_table")
    if anchor is not None and not 0 <= anchor < count:
        raise Invalid(f"the anchor must be one of the {count} takes, got {anchor}", "no_such_anchor", takes=count)
    return _Trip(costs, anchor) if count > 1 else None


def _searched(trip: _Trip, best: Tour, ascent: Ascent, *, kicks: int, seed: int, until: Until = lambda: False) -> Order:
    seconds = trip.seconds(best)
    least = min(ascent.least, seconds)
    if least < seconds and not until():
        for tour in trip.kicked(best, kicks, seed):
            if trip.seconds(tour) < seconds:
                best, seconds = tour, trip.seconds(tour)
            if seconds <= least or until():
                break
    return Order(trip.sequence(best), seconds, min(least, seconds), ascent)


def inserted_seconds(costs: Costs, sequence: Sequence[int], extra: Sequence[int]) -> int:
    """Seconds more that further takes cost in an order, each put where it costs least; ends of the order stay."""
    order, more = list(sequence), 0
    for take in extra:
        here, after = np.array(order[:-1], dtype=np.intp), np.array(order[1:], dtype=np.intp)
        detour = costs[here, take] + costs[take, after] - costs[here, after]
        at_the_end = int(costs[order[-1], take])
        at = int(detour.argmin()) if len(detour) and int(detour.min()) <= at_the_end else len(order) - 1
        more += int(detour[at]) if at < len(detour) else at_the_end
        order.insert(at + 1, take)
    return more


def for_seconds(limit_s: float, clock: Callable[[], float] = time.monotonic) -> Until:
    """Something that becomes true after so many seconds."""
    end = clock() + limit_s
    return lambda: clock() >= end


class _Trip:
    """The closed tour that stands for an order; node ``home`` opens it, ``twin`` comes in the middle (or is -1)."""

    def __init__(self, costs: Costs, anchor: int | None) -> None:
        count = len(costs)
        self.takes = count
        self.twin = -1
        if anchor is None:
            self.home = count
            self.costs = np.pad(costs, (0, 1))
        else:
            self.home = anchor
            self.costs = costs
            if count >= 4:
                self.twin = count
                self.costs = np.pad(costs, (0, 1))
                self.costs[count, :count] = self.costs[:count, count] = costs[anchor]
                # The two anchors never meet; nobody plays the same take twice in a row.
                self.costs[count, anchor] = self.costs[anchor, count] = NEVER
        self.window = middle_window(count - 1)

    def seconds(self, tour: Tour) -> int:
        return int(self.costs[tour, np.roll(tour, -1)].sum())

    def tour_of(self, sequence: Sequence[int]) -> Tour:
        """The tour of an order (the way back of :meth:`sequence`)."""
        inner = list(sequence[1:-1]) if self.home < self.takes else list(sequence)
        return np.array([self.home, *(self.twin if node == self.home else node for node in inner)])

    def sequence(self, tour: Tour) -> tuple[int, ...]:
        """The takes in playing order."""
        ring = [self.home if node == self.twin else int(node) for node in np.roll(tour, -_place(tour, self.home))[1:]]
        return (self.home, *ring, self.home) if self.home < self.takes else tuple(ring)

    def allowed(self, tour: Tour) -> bool:
        """True where the twin stands in the middle third, whichever way round the tour is played."""
        if self.twin < 0:
            return True
        between = (_place(tour, self.twin) - _place(tour, self.home)) % len(tour) - 1
        return self.window[0] <= between <= self.window[1]

    def nearest(self) -> Tour:
        """From home always to the nearest take next; the twin comes when half is played."""
        left = self.costs.astype(np.float64)
        left[:, [self.home, *([self.twin] if self.twin >= 0 else [])]] = np.inf
        tour = [self.home]
        while len(tour) < len(self.costs):
            if self.twin >= 0 and len(tour) == 1 + (self.takes - 1) // 2:
                tour.append(self.twin)
                continue
            tour.append(int(np.argmin(left[tour[-1]])))
            left[:, tour[-1]] = np.inf
        return np.array(tour)

    def improved(self, tour: Tour) -> Tour:
        """Reverse and move stretches while that shortens the tour."""
        while True:
            better = next((other for other in self._moves(tour) if self.allowed(other)), None)
            if better is None:
                return tour
            tour = better

    def _moves(self, tour: Tour) -> Iterator[Tour]:
        """Shorter tours near this one, those that save most first."""
        costs, after = self.costs, np.roll(tour, -1)
        here = costs[tour, after]
        saved = here[:, None] + here[None, :] - costs[np.ix_(tour, tour)] - costs[np.ix_(after, after)]
        for i, j in _best_of(np.triu(saved, 1)):
            yield np.concatenate((tour[: i + 1], tour[i + 1 : j + 1][::-1], tour[j + 1 :]))
        count = len(tour)
        for length in range(1, min(STRETCH, count - 3) + 1):
            # Stretch i..i+length-1 goes between the take at j and the one after it.
            last, before, behind = np.roll(tour, 1 - length), np.roll(tour, 1), np.roll(tour, -length)
            taken = costs[before, tour] + costs[last, behind] - costs[before, behind]
            offset = (np.arange(count)[None, :] - np.arange(count)[:, None]) % count
            outside = (offset >= length) & (offset < count - 1)
            for turned in (False, True):
                first, end = (last, tour) if turned else (tour, last)
                added = costs[np.ix_(first, tour)] + costs[np.ix_(end, after)] - here[None, :]
                for i, j in _best_of(np.where(outside, taken[:, None] - added, 0)):
                    ring = np.roll(tour, -i)
                    part, rest = ring[:length], ring[length:]
                    at = (j - i) % count - length + 1
                    yield np.concatenate((rest[:at], part[::-1] if turned else part, rest[at:]))

    def kicked(self, tour: Tour, kicks: int, seed: int) -> Iterator[Tour]:
        """Local optima from double bridges over a short span of the best one so far; ``kicks`` in vain end it."""
        rng = np.random.default_rng(seed)
        count, vain = len(tour), 0
        while vain < kicks:
            if count < FEW:
                kicked = rng.permutation(tour)
            else:
                ring = np.roll(tour, -int(rng.integers(count)))
                a, b, c = np.sort(rng.choice(np.arange(1, min(count, KICK_SPAN)), 3, replace=False))
                kicked = np.concatenate((ring[:a], ring[b:c], ring[a:b], ring[c:]))
            if not self.allowed(kicked):
                vain += 1
                continue
            found = self.improved(kicked)
            vain = 0 if self.seconds(found) < self.seconds(tour) else vain + 1
            if self.seconds(found) <= self.seconds(tour):
                tour = found
            yield found


def _place(tour: Tour, node: int) -> int:
    return int(np.flatnonzero(tour == node)[0])


def _best_of(saved: npt.NDArray[np.int64]) -> list[tuple[int, int]]:
    """Where a table of savings is greatest, greatest first; only true savings."""
    flat = saved.ravel()
    if flat.max(initial=0) <= 0:
        return []
    top = np.argpartition(flat, -min(CANDIDATES, len(flat)))[-min(CANDIDATES, len(flat)) :]
    top = top[flat[top] > 0]
    return [divmod(int(at), saved.shape[1]) for at in top[np.argsort(-flat[top], kind="stable")]]
