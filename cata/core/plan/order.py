"""The order of takes that costs the least change-over time.

A travelling-salesman path: nodes are takes, distances are change-over seconds (symmetric, triangle inequality).
Anchors are the same take again at the start, in the middle third and at the end. Small plans are solved exactly by
dynamic programming (Held & Karp 1962); larger ones by iterated local search, held against the bound of the
subtour linear programme (Dantzig, Fulkerson & Johnson 1954) and closed by the HiGHS integer solver of scipy where
the two still differ.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import numpy.typing as npt

from cata.core.plan.search import home_place, improve, settle
from cata.core.plan.tour import least_tour
from cata.errors import Invalid

EXACT_NODES = 12
NEVER = 10**9
Costs = npt.NDArray[np.int64]


@dataclass(frozen=True)
class Order:
    """Takes as indices in playing order (an anchor comes up to three times), and their change-overs in seconds.

    ``least_s`` is what no order can beat; the order is the best there is where it equals ``seconds``.
    """

    sequence: tuple[int, ...]
    seconds: int
    least_s: int

    @property
    def is_best(self) -> bool:
        """True where no order takes less time."""
        return self.seconds <= self.least_s

    @property
    def gap_percent(self) -> float:
        """At most how many per cent the best order would save."""
        return 0.0 if self.is_best else 100 * (self.seconds - self.least_s) / max(self.seconds, 1)


def path_seconds(costs: Costs, sequence: tuple[int, ...] | list[int]) -> int:
    """Change-over seconds of a sequence."""
    return int(sum(costs[a, b] for a, b in pairwise(sequence)))


def middle_window(count: int) -> tuple[int, int]:
    """Between which numbers of takes played (the first anchor aside) the middle anchor may stand, both included."""
    return max(1, count // 3), max(1, -(-2 * count // 3))


def best_order(costs: Costs, anchor: int | None = None, *, seed: int = 1, effort: int = 400) -> Order:
    """The order of least change-over time.

    ``costs`` are seconds, shape (takes, takes), symmetric, zero diagonal. ``anchor`` is the index of the take that is
    repeated, or None. Takes are played once each; with an anchor it opens, closes, and returns in the middle third
    (from four takes on). Raises Invalid for another shape or negative costs.
    """
    costs = np.asarray(costs, dtype=np.int64)
    count = len(costs)
    if costs.ndim != 2 or costs.shape != (count, count) or np.any(costs < 0) or not np.array_equal(costs, costs.T):
        raise Invalid("change-over costs must be a symmetric table of seconds, none negative")
    if anchor is not None and not 0 <= anchor < count:
        raise Invalid(f"the anchor must be one of the {count} takes, got {anchor}")
    if count <= 1:
        return Order(tuple(range(count)), 0, 0)
    if count <= EXACT_NODES:
        return _exact(costs, anchor)
    if anchor is None:
        return _long_path(costs, seed, effort)
    return _long_anchored(costs, anchor, seed, effort)


def _exact(costs: Costs, anchor: int | None) -> Order:
    """Held-Karp over (takes played, last take, whether the middle anchor has been played)."""
    if anchor is None:
        return _exact_path(costs)
    others = [i for i in range(len(costs)) if i != anchor]
    count = len(others)
    inner = costs[np.ix_(others, others)]
    home = costs[anchor, others]
    # Going home in between: the detour over the anchor instead of the direct change.
    detour = home[:, None] + home[None, :]
    low, high = middle_window(count) if count >= 3 else (0, -1)
    full = (1 << count) - 1
    best = np.full((2, full + 1, count), NEVER, dtype=np.int64)
    came = np.full((2, full + 1, count, 2), -1, dtype=np.int64)
    for i in range(count):
        best[0, 1 << i, i] = home[i]
    for mask in range(1, full + 1):
        played = mask.bit_count()
        for flag in (0, 1):
            row = best[flag, mask]
            if row.min() >= NEVER:
                continue
            steps = [(flag, inner)]
            if flag == 0 and low <= played <= high:
                steps.append((1, detour))
            for after, table in steps:
                reach = row[:, None] + table
                last = reach.argmin(axis=0)
                value = reach[last, np.arange(count)]
                for i in range(count):
                    if not mask >> i & 1 and value[i] < best[after, mask | 1 << i, i]:
                        best[after, mask | 1 << i, i] = value[i]
                        came[after, mask | 1 << i, i] = (last[i], flag)
    need = 1 if low <= high else 0
    ends = best[need, full] + home
    last, flag, mask = int(ends.argmin()), need, full
    seconds = int(ends.min())
    back: list[int] = [anchor]
    while True:
        back.append(others[last])
        before, was = came[flag, mask, last]
        mask ^= 1 << last
        if mask == 0:
            break
        if was != flag:
            back.append(anchor)
        last, flag = int(before), int(was)
    back.append(anchor)
    return Order(tuple(reversed(back)), seconds, seconds)


def _exact_path(costs: Costs) -> Order:
    count = len(costs)
    full = (1 << count) - 1
    best = np.full((full + 1, count), NEVER, dtype=np.int64)
    came = np.full((full + 1, count), -1, dtype=np.int64)
    for i in range(count):
        best[1 << i, i] = 0
    for mask in range(1, full + 1):
        reach = best[mask][:, None] + costs
        last = reach.argmin(axis=0)
        value = reach[last, np.arange(count)]
        for i in range(count):
            if not mask >> i & 1 and value[i] < best[mask | 1 << i, i]:
                best[mask | 1 << i, i] = value[i]
                came[mask | 1 << i, i] = last[i]
    last_one, mask = int(best[full].argmin()), full
    seconds = int(best[full].min())
    back = []
    while last_one >= 0:
        back.append(last_one)
        mask, last_one = mask ^ 1 << last_one, int(came[mask, last_one])
    return Order(tuple(reversed(back)), seconds, seconds)


def _long_path(costs: Costs, seed: int, effort: int) -> Order:
    """A path is a tour over one more take that costs nothing to reach."""
    count = len(costs)
    grown = np.zeros((count + 1, count + 1), dtype=np.int64)
    grown[:count, :count] = costs
    tour = improve(grown, seed=seed, effort=effort)
    least, exact = least_tour(grown, tour)
    at = exact.index(count)
    sequence = tuple(exact[at + 1 :] + exact[:at])
    return Order(sequence, path_seconds(costs, sequence), least)


def _long_anchored(costs: Costs, anchor: int, seed: int, effort: int) -> Order:
    """The middle anchor is one node more, at no distance from the first, that must lie a third of the way off."""
    tour = improve(costs, seed=seed, effort=effort)
    at = tour.index(anchor)
    ring = settle(costs, anchor, tour[at + 1 :] + tour[:at], middle_window(len(tour) - 1))
    place = home_place(costs, anchor, ring, middle_window(len(ring)))
    twin = len(costs)
    grown = np.pad(costs, (0, 1))
    grown[twin, :twin] = grown[:twin, twin] = costs[anchor]
    # Fewer than a third of the takes cannot lie between the anchors: whatever set of them stands round both, the tour
    # leaves it on either way from one to the other. Those nearest the anchor bind hardest.
    low, _ = middle_window(len(ring))
    near = [int(i) for i in np.argsort(costs[anchor], kind="stable") if i != anchor]
    apart = [[anchor, twin, *near[:size]] for size in range(low)]
    least, found = least_tour(grown, [anchor, *ring[:place], twin, *ring[place:]], apart)
    sequence = [anchor, *ring[:place], anchor, *ring[place:], anchor]
    other = _unrolled(found, anchor, twin)
    if other is not None and path_seconds(costs, other) < path_seconds(costs, sequence):
        sequence = other
    return Order(tuple(sequence), path_seconds(costs, sequence), least)


def _unrolled(tour: list[int], anchor: int, twin: int) -> list[int] | None:
    """A tour over an anchor and its twin as a sequence; None where the twin is not in the middle third."""
    at = tour.index(anchor)
    ring = tour[at + 1 :] + tour[:at]
    low, high = middle_window(len(ring) - 1)
    if not low <= ring.index(twin) <= high:
        return None
    return [anchor, *(anchor if node == twin else node for node in ring), anchor]
