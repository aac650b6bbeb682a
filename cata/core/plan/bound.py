"""What no order of takes can beat: the bound of least 1-trees under weights (Held & Karp 1970, 1971).

A tour is a 1-tree in which every node has two edges: a spanning tree of all nodes but one, and two edges of that one.
Weights on the nodes push the least 1-tree towards two edges each without changing which tour is the shortest; the best
weights are found by subgradient ascent (Polyak's step, directions smoothed as Volgenant & Jonker 1982 do).

Where a twin of home must lie a third of the tour away, whatever takes stand round both but are fewer than a third are
left by four edges, for both ways from the one to the other lead out: a wall round each such set takes its own weight.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import scipy

Costs = npt.NDArray[np.int64]
SMOOTHING, FIRST_FACTOR, PATIENCE = 0.4, 0.5, 150
PROGRESS_S = 0.01
ROUNDING_S = 1e-6


@dataclass
class Ascent:
    """How far a bound was climbed: weights of the nodes, of the walls, the directions they last went, and the best."""

    home: int
    levels: list[int]
    weights: list[float]
    walls: list[float]
    last_weights: list[float]
    last_walls: list[float]
    best: float = 0.0
    factor: float = FIRST_FACTOR
    idle: int = 0

    @classmethod
    def at_the_foot(cls, costs: Costs, home: int, twin: int, third: int) -> Ascent:
        """An ascent that begins; ``twin`` is -1 where there is none, ``third`` the least number of takes between."""
        count = len(costs)
        levels = np.zeros(count, dtype=np.int64)
        walls = np.zeros(0)
        if twin >= 0:
            far = costs[home].copy()
            far[[home, twin]] = 0
            # Takes by their distance from the anchor: a wall round all that are nearer, while they are few enough.
            radii = [d for d in np.unique(far) if np.count_nonzero(far <= d) - 2 < third]
            levels = np.searchsorted(np.array(radii), far, side="left")
            nearest = np.array([far[levels == k].min(initial=far.max()) for k in range(len(radii) + 1)])
            walls = np.maximum(np.diff(nearest), 0) / 2
        nothing = [0.0] * count
        return cls(home, levels.tolist(), nothing, walls.tolist(), nothing, [0.0] * len(walls))

    @property
    def least(self) -> int:
        """The bound: costs are whole numbers, so a fractional one rounds up."""
        return int(np.ceil(self.best - ROUNDING_S))

    def climb(self, costs: Costs, known: int, *, steps: int = 10**9, until: Callable[[], bool] = lambda: False) -> None:
        """Go on for ``steps``, until it is told to stop, or to the length of a tour that is ``known``."""
        levels, weights, walls = np.array(self.levels), np.array(self.weights), np.array(self.walls)
        last_weights, last_walls = np.array(self.last_weights), np.array(self.last_walls)
        count = len(costs)
        for _ in range(steps):
            height = np.concatenate(([0.0], np.cumsum(walls)))[levels]
            table = costs + weights[:, None] + weights[None, :] - np.abs(height[:, None] - height[None, :])
            length, first, second = _one_tree(table, self.home)
            value = float(length - 2 * weights.sum() + 4 * walls.sum())
            self.idle = 0 if value > self.best + PROGRESS_S else self.idle + 1
            self.best = max(self.best, value)
            off = np.bincount(np.concatenate((first, second)), minlength=count) - 2.0
            low, high = np.minimum(levels[first], levels[second]), np.maximum(levels[first], levels[second])
            lack = np.array([4.0 - np.count_nonzero((low <= k) & (k < high)) for k in range(len(walls))])
            last_weights = (1 - SMOOTHING) * off + SMOOTHING * last_weights
            last_walls = (1 - SMOOTHING) * lack + SMOOTHING * last_walls
            up = np.where((walls <= 0) & (last_walls < 0), 0.0, last_walls)
            steep = float(last_weights @ last_weights + up @ up)
            if steep == 0 or self.least >= known or until():
                break
            if self.idle >= PATIENCE:
                self.factor, self.idle = self.factor / 2, 0
            step = self.factor * max(known - value, 1.0) / steep
            weights, walls = weights + step * last_weights, np.maximum(0.0, walls + step * up)
        self.weights, self.walls = weights.tolist(), walls.tolist()
        self.last_weights, self.last_walls = last_weights.tolist(), last_walls.tolist()


def _one_tree(table: npt.NDArray[np.float64], home: int) -> tuple[float, npt.NDArray[np.intp], npt.NDArray[np.intp]]:
    """The least spanning tree of all but home, and home's two least edges: length, and both ends of its edges."""
    others = np.delete(np.arange(len(table)), home)
    inner = table[np.ix_(others, others)]
    # A sparse graph has no edge of length 0, and a spanning tree does not mind a shift of all edges.
    shift = 1.0 - float(inner.min())
    tree = scipy.sparse.csgraph.minimum_spanning_tree(inner + shift).tocoo()
    near = others[np.argsort(table[home, others], kind="stable")[:2]]
    first = np.concatenate((others[tree.row], [home, home]))
    second = np.concatenate((others[tree.col], near))
    return float(table[first, second].sum()), first, second
