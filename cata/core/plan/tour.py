"""The least tour: the bound of the subtour linear programme, and the integer programme where it leaves a gap.

Degree constraints first; subtours are cut off as they appear, fractional ones by minimum cuts. Solved with HiGHS
through scipy.
"""

from __future__ import annotations

from collections.abc import Sequence
from math import ceil

import numpy as np
import numpy.typing as npt
import scipy.optimize
import scipy.sparse
from scipy.sparse.csgraph import breadth_first_order, connected_components, maximum_flow

Costs = npt.NDArray[np.int64]
SCALE = 10_000
ROUNDS = 60
INTEGER_ROUNDS = 25
SOLVER_LIMIT_S = 20.0


class _Programme:
    """Edges as variables; rows for degrees and for the cuts found so far."""

    def __init__(self, costs: Costs) -> None:
        self.count = len(costs)
        self.first, self.second = np.triu_indices(self.count, 1)
        self.weights = costs[self.first, self.second].astype(np.float64)
        edges = np.arange(len(self.weights))
        self.degrees = scipy.sparse.csr_matrix(
            (np.ones(2 * len(edges)), (np.concatenate((self.first, self.second)), np.concatenate((edges, edges)))),
            shape=(self.count, len(edges)),
        )
        self.cuts: list[npt.NDArray[np.float64]] = []
        self.least: list[float] = []

    def cut(self, side: Sequence[int], edges: int = 2) -> None:
        """At least ``edges`` edges leave this set of nodes."""
        inside = np.zeros(self.count, dtype=bool)
        inside[list(side)] = True
        self.cuts.append((inside[self.first] != inside[self.second]).astype(np.float64))
        self.least.append(float(edges))

    def relaxed(self) -> tuple[float, npt.NDArray[np.float64]]:
        """Value and edges of the linear programme."""
        rows = {"A_ub": -np.array(self.cuts), "b_ub": -np.array(self.least)} if self.cuts else {}
        solved = scipy.optimize.linprog(
            self.weights, A_eq=self.degrees, b_eq=np.full(self.count, 2.0), bounds=(0, 1), method="highs", **rows
        )
        return float(solved.fun), np.asarray(solved.x)

    def whole(self) -> tuple[float, npt.NDArray[np.float64]] | None:
        """Value and edges of the integer programme; None where the solver ran out of time."""
        rules = [scipy.optimize.LinearConstraint(self.degrees, 2, 2)]
        if self.cuts:
            rules.append(scipy.optimize.LinearConstraint(np.array(self.cuts), np.array(self.least), np.inf))
        solved = scipy.optimize.milp(
            self.weights,
            constraints=rules,
            integrality=np.ones(len(self.weights)),
            bounds=scipy.optimize.Bounds(0, 1),
            options={"time_limit": SOLVER_LIMIT_S},
        )
        return (float(solved.fun), np.asarray(solved.x)) if solved.status == 0 else None

    def graph(self, edges: npt.NDArray[np.float64]) -> scipy.sparse.csr_matrix:
        """The used edges as a symmetric graph of scaled capacities."""
        used = edges > 1e-6
        capacity = np.round(edges[used] * SCALE).astype(np.int32)
        a, b = self.first[used], self.second[used]
        return scipy.sparse.csr_matrix(
            (np.concatenate((capacity, capacity)), (np.concatenate((a, b)), np.concatenate((b, a)))),
            shape=(self.count, self.count),
        )


def _violated(programme: _Programme, edges: npt.NDArray[np.float64]) -> list[list[int]]:
    """Sets of nodes that fewer than two edges leave."""
    graph = programme.graph(edges)
    parts, labels = connected_components(graph, directed=False)
    if parts > 1:
        return [np.flatnonzero(labels == part).tolist() for part in range(parts)]
    sides: list[list[int]] = []
    for node in range(1, programme.count):
        flow = maximum_flow(graph, 0, node)
        if flow.flow_value < 2 * SCALE - 20:
            rest = graph - flow.flow
            rest.data[rest.data < 0] = 0
            rest.eliminate_zeros()
            side = breadth_first_order(rest, 0, return_predecessors=False)
            if (found := sorted(int(i) for i in side)) not in sides:
                sides.append(found)
    return sides


def _walk(programme: _Programme, edges: npt.NDArray[np.float64]) -> list[int]:
    """The tour that whole edges form."""
    near: list[list[int]] = [[] for _ in range(programme.count)]
    for a, b, value in zip(programme.first, programme.second, edges, strict=True):
        if value > 0.5:
            near[a].append(int(b))
            near[b].append(int(a))
    tour, before = [0], -1
    while len(tour) < programme.count:
        here = tour[-1]
        step = next(node for node in near[here] if node != before or near[here].count(before) > 1)
        before = here
        tour.append(step)
    return tour


def least_tour(costs: Costs, tour: list[int], apart: Sequence[Sequence[int]] = ()) -> tuple[int, list[int]]:
    """A length that no closed tour can beat, and the best tour known (the given one, or a shorter one).

    ``costs`` are whole numbers, so a fractional bound rounds up. ``apart`` are sets of nodes that every allowed tour
    leaves twice (four edges): two anchors among too few others to lie between them. A shorter tour that comes back
    keeps to those sets, but the caller must look whether it is allowed.
    """
    order = np.asarray(tour)
    known = int(costs[order, np.roll(order, -1)].sum())
    programme = _Programme(costs)
    for side in apart:
        programme.cut(side, 4)
    value, edges = programme.relaxed()
    for _ in range(ROUNDS):
        if ceil(value - 1e-6) >= known or not (sides := _violated(programme, edges)):
            break
        for side in sides:
            programme.cut(side)
        value, edges = programme.relaxed()
    bound = ceil(value - 1e-6)
    for _ in range(INTEGER_ROUNDS):
        if bound >= known:
            break
        solved = programme.whole()
        if solved is None:
            break
        bound = max(bound, ceil(solved[0] - 1e-6))
        parts, labels = connected_components(programme.graph(solved[1]), directed=False)
        if parts == 1:
            return bound, _walk(programme, solved[1])
        for part in range(parts):
            programme.cut(np.flatnonzero(labels == part).tolist())
    return min(bound, known), tour
