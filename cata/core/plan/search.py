"""Iterated local search for tours: 2-opt and moved stretches (Or-opt), with double-bridge kicks."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

Costs = npt.NDArray[np.int64]
SETTLE_ROUNDS = 3


def tour_seconds(costs: Costs, tour: list[int]) -> int:
    """The length of a closed tour."""
    order = np.asarray(tour)
    return int(costs[order, np.roll(order, -1)].sum())


def nearest(costs: Costs, start: int) -> list[int]:
    """The tour that always goes to the nearest node next."""
    left = costs.astype(np.float64)
    tour = [start]
    left[:, start] = np.inf
    while len(tour) < len(costs):
        tour.append(int(np.argmin(left[tour[-1]])))
        left[:, tour[-1]] = np.inf
    return tour


def two_opt(costs: Costs, tour: list[int]) -> list[int]:
    """Reverse stretches and move stretches of up to three while that shortens the tour."""
    order = np.asarray(tour)
    while True:
        if (better := _reversed(costs, order)) is None and (better := _moved(costs, order)) is None:
            return [int(node) for node in order]
        order = better


def _reversed(costs: Costs, order: npt.NDArray[np.int64]) -> npt.NDArray[np.int64] | None:
    after = np.roll(order, -1)
    here = costs[order, after]
    gain = here[:, None] + here[None, :] - costs[np.ix_(order, order)] - costs[np.ix_(after, after)]
    gain = np.triu(gain, 1)
    at = int(gain.argmax())
    if gain.flat[at] <= 0:
        return None
    i, j = divmod(at, len(order))
    return np.concatenate((order[: i + 1], order[i + 1 : j + 1][::-1], order[j + 1 :]))


def _moved(costs: Costs, order: npt.NDArray[np.int64]) -> npt.NDArray[np.int64] | None:
    count = len(order)
    for length in (1, 2, 3):
        if count < length + 3:
            continue
        for start in range(count):
            ring = np.roll(order, -start)
            part, rest = ring[:length], ring[length:]
            saved = costs[rest[-1], part[0]] + costs[part[-1], rest[0]] - costs[rest[-1], rest[0]]
            if saved <= 0:
                continue
            added = costs[rest[:-1], rest[1:]]
            straight = costs[rest[:-1], part[0]] + costs[part[-1], rest[1:]] - added
            turned = costs[rest[:-1], part[-1]] + costs[part[0], rest[1:]] - added
            for table, piece in ((straight, part), (turned, part[::-1])):
                at = int(table.argmin())
                if table[at] < saved:
                    return np.concatenate((rest[: at + 1], piece, rest[at + 1 :]))
    return None


def improve(costs: Costs, *, seed: int, effort: int) -> list[int]:
    """A good tour of all nodes: local optima from several starts, then ``effort`` kicks. Deterministic for a seed."""
    rng = np.random.default_rng(seed)
    starts = {0, *rng.integers(0, len(costs), 4).tolist()}
    best = min((two_opt(costs, nearest(costs, start)) for start in starts), key=lambda t: tour_seconds(costs, t))
    shortest = tour_seconds(costs, best)
    idle = 0
    while idle < effort and len(costs) >= 8:
        a, b, c = sorted(rng.choice(np.arange(1, len(best)), 3, replace=False).tolist())
        tour = two_opt(costs, best[:a] + best[b:c] + best[a:b] + best[c:])
        length = tour_seconds(costs, tour)
        idle += 1
        if length <= shortest:
            idle = 0 if length < shortest else idle
            best, shortest = tour, length
    return best


def home_place(costs: Costs, home: int, ring: list[int], window: tuple[int, int]) -> int:
    """After how many takes of a ring coming home in between costs least, inside a window of such numbers."""
    return min(range(window[0], window[1] + 1), key=lambda place: _detour(costs, home, ring, place))


def _detour(costs: Costs, home: int, ring: list[int], place: int) -> int:
    before, after = ring[place - 1], ring[place] if place < len(ring) else home
    return int(costs[before, home] + costs[home, after] - costs[before, after])


def settle(costs: Costs, home: int, ring: list[int], window: tuple[int, int]) -> list[int]:
    """A ring from home and back, improved for the way home that is taken in between: stretches are moved and turned."""

    def seconds(order: list[int]) -> int:
        whole = tour_seconds(costs, [home, *order])
        return whole + min(_detour(costs, home, order, place) for place in range(window[0], window[1] + 1))

    best, shortest = ring, seconds(ring)
    for _ in range(SETTLE_ROUNDS):
        before = shortest
        for length in (1, 2, 4, 8):
            for start in range(len(ring) - length + 1):
                part, rest = best[start : start + length], best[:start] + best[start + length :]
                for at in range(len(rest) + 1):
                    for piece in (part, part[::-1]):
                        order = rest[:at] + piece + rest[at:]
                        if tour_seconds(costs, [home, *order]) <= shortest and (value := seconds(order)) < shortest:
                            best, shortest = order, value
        if shortest == before:
            break
    return best
