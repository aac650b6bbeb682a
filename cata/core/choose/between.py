"""Settings that nobody measured: what an item shows there, drawn between those at which it was measured.

Ordinary kriging over the travel of its knobs (Cressie 1993, 3.2): a value between is a weighted sum of the measured
ones, so that what those have in common with other items stays in it, and its own doubt grows with the distance from
them.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
import numpy.typing as npt

from cata.core.pool.seen import Node

Floats = npt.NDArray[np.floating[Any]]

REACH = 1.0
"""Over so much of a knob's travel do readings hang together (Matern 5/2)."""
NUGGET = 0.005
MOST_SHARE = 0.25
"""A place is asked only where so much of what the item moves by, squared, is left open at most."""
STEP = 0.05
PLACES = 128
PRIOR_FREEDOM = 2.0
NEAR = 0.26
"""No knob may stand farther off where something is to be heard for a setting that nobody played."""


@dataclass(frozen=True)
class Place:
    """A setting between measured ones.

    ``weights`` of the measured nodes (adding up to 1), and the ``share`` of the item's own variance that is left open.
    """

    positions: Mapping[str, float]
    weights: Floats
    share: float


@dataclass(frozen=True)
class Travel:
    """The measured settings of one item that differ in some knobs only, as positions (nodes, knobs) from 0 to 1."""

    nodes: tuple[Node, ...]
    knobs: tuple[str, ...]
    positions: Floats
    held: Mapping[str, float]

    @cached_property
    def _inverse(self) -> Floats:
        count = len(self.nodes)
        table = np.ones((count + 1, count + 1))
        table[:count, :count] = _alike(self.positions, self.positions) + NUGGET * np.eye(count)
        table[count, count] = 0.0
        return np.asarray(np.linalg.inv(table))

    def at(self, positions: Floats) -> tuple[Floats, Floats]:
        """Weights (places, nodes) and open shares (places,) for settings (places, knobs)."""
        near = np.hstack([_alike(positions, self.positions), np.ones((len(positions), 1))])
        found = near @ self._inverse
        share = np.clip(1.0 - np.einsum("ij,ij->i", found, near), 0.0, None)
        return found[:, :-1], share

    @cached_property
    def places(self) -> tuple[Place, ...]:
        """Settings worth asking about: all over the measured travel, where what is around says enough."""
        wanted = self._grid()
        weights, share = self.at(wanted)
        return tuple(
            Place({**self.held, **dict(zip(self.knobs, map(float, at), strict=True))}, row, float(open_share))
            for at, row, open_share in zip(wanted, weights, share, strict=True)
            if open_share <= MOST_SHARE and not self._measured(at)
        )

    def _measured(self, positions: Floats) -> bool:
        return bool((np.abs(self.positions - positions).max(axis=1) < STEP / 2).any())

    @cached_property
    def weights(self) -> Floats:
        """Of all places, (places, nodes)."""
        return np.array([place.weights for place in self.places]).reshape(len(self.places), len(self.nodes))

    @cached_property
    def shares(self) -> Floats:
        """The open shares of all places, (places,)."""
        return np.array([place.share for place in self.places])

    def spread(self, values: Floats, jnd: Floats) -> Floats:
        """Standard deviation of what lies between measured values (nodes,), drawn to each ``jnd`` that is noticed."""
        count = len(self.nodes)
        inverse = np.linalg.inv(_alike(self.positions, self.positions) + NUGGET * np.eye(count))
        middle = inverse.sum(axis=0) @ values / inverse.sum()
        off = values - middle
        freedom = count - 1.0
        return np.asarray(np.sqrt((PRIOR_FREEDOM * jnd**2 + off @ inverse @ off) / (PRIOR_FREEDOM + freedom)))

    def _grid(self) -> Floats:
        low, high = self.positions.min(axis=0), self.positions.max(axis=0)
        if len(self.knobs) == 1:
            return np.arange(low[0], high[0] + STEP / 2, STEP)[:, None]
        # Evenly all over the box, without the columns of a grid (Roberts 2018: the plastic number and its kin).
        root = 2.0
        for _ in range(30):
            root = (1 + root) ** (1 / (len(self.knobs) + 1))
        drawn = np.outer(np.arange(1, PLACES + 1), root ** -np.arange(1.0, len(self.knobs) + 1)) % 1.0
        return np.unique(np.clip(np.round((low + drawn * (high - low)) / STEP) * STEP, low, high), axis=0)


def travels(measured: Mapping[Node, Mapping[str, float]], knobs: Sequence[str]) -> Travel | None:
    """The largest set of an item's settings that differ in these ``knobs`` only; None where fewer than three do."""
    families: dict[tuple[tuple[str, float], ...], dict[Node, Mapping[str, float]]] = {}
    for node, settings in measured.items():
        rest = tuple(sorted((key, round(at, 2)) for key, at in settings.items() if key not in knobs))
        families.setdefault(rest, {})[node] = settings
    if not families:
        return None
    held, family = max(families.items(), key=lambda one: (len(one[1]), sorted(one[1])))
    moved = tuple(key for key in knobs if len({round(one.get(key, 0.5), 2) for one in family.values()}) > 1)
    if len(family) < 3 or not moved:
        return None
    still = {key: at for key, at in next(iter(family.values())).items() if key not in moved}
    positions = np.array([[one.get(key, 0.5) for key in moved] for one in family.values()])
    return Travel(tuple(family), moved, positions, dict(held) | still)


def _alike(first: Floats, second: Floats) -> Floats:
    apart = np.sqrt(5.0) * np.linalg.norm(first[:, None, :] - second[None, :, :], axis=2) / REACH
    return np.asarray((1 + apart + apart**2 / 3) * np.exp(-apart))
