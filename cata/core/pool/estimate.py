"""Pooling: what each thing adds by itself, from cells that share things, with the doubt of every link.

A value is what the thing does, what the cell does to all of it (guitar, phrase, amplifier), what this rig makes of this
thing in particular, and scatter. All of it is normal, so the best linear unbiased estimate and its covariance are those
of a mixed model (Henderson 1975): things are compared through the cells they share, directly or over others, and
what one rig makes of a thing enters once for every flight it passes.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from statistics import median
from typing import Any

import numpy as np
import numpy.typing as npt

from cata.core.pool.links import groups
from cata.core.pool.seen import NOTHING, Node, Seen, Trait, values_of

Floats = npt.NDArray[np.floating[Any]]
BYPASS: Node = "no item"
WEAK = 1e3
"""A thing that nothing holds may lie anywhere: so many times what is typical."""


@dataclass(frozen=True)
class Estimate:
    """What each node does by itself: ``mean`` and covariance ``cov`` over ``nodes``.

    ``against_nothing``: held against the bypass; else, of a trait that is relative, against the mean of all. ``apart``
    are groups that nothing links with these, ``freedom`` what the deviations are known from.
    """

    nodes: tuple[Node, ...]
    mean: Floats
    cov: Floats
    against_nothing: bool
    apart: tuple[frozenset[Node], ...]
    freedom: float

    @cached_property
    def places(self) -> Mapping[Node, int]:
        """Where each node stands."""
        return {node: at for at, node in enumerate(self.nodes)}

    def sd(self, node: Node) -> float:
        """Standard deviation of a node's mean."""
        at = self.places[node]
        return float(np.sqrt(self.cov[at, at]))


def estimate(seen: Sequence[Seen], trait: Trait) -> Estimate | None:
    """What all that was seen says of each node; None where nothing can be compared."""
    values = values_of(seen)
    if not trait.relative:
        # The bypass shows what the rig does by itself: something like any other, but nothing to hold others against.
        values = [replace(one, node=BYPASS) if one.node == NOTHING else one for one in values]
    if not values:
        return None
    apart: tuple[frozenset[Node], ...] = ()
    if trait.relative:
        main, *others = groups(values)
        apart = tuple(frozenset(group - {NOTHING}) for group in others if group - {NOTHING})
        values = [one for one in values if one.node in main]
    nodes = tuple(sorted({one.node for one in values} - {NOTHING}))
    if not nodes:
        return None
    precision, right = _normal_equations(values, trait, {node: at for at, node in enumerate(nodes)})
    against_nothing = trait.relative and any(one.node == NOTHING for one in values)
    typical = WEAK * max(float(np.std([one.value for one in values])), median(one.sd for one in values), 1e-9)
    cov: Floats = np.linalg.inv(precision + np.eye(len(nodes)) / typical**2)
    mean = cov @ right
    if trait.relative and not against_nothing:
        centred: Floats = np.eye(len(nodes)) - 1.0 / len(nodes)
        mean, cov = centred @ mean, centred @ cov @ centred.T
    return Estimate(nodes, mean, cov, against_nothing, apart, median(one.freedom for one in values))


def _normal_equations(values: Sequence[Seen], trait: Trait, places: dict[Node, int]) -> tuple[Floats, Floats]:
    """Precision and right side for the nodes, the cells of every flight taken out."""
    precision, right = np.zeros((len(places), len(places))), np.zeros(len(places))
    flights: dict[str, list[Seen]] = {}
    for one in values:
        flights.setdefault(one.flight, []).append(one)
    for mine in flights.values():
        nodes = sorted({one.node for one in mine if one.node != NOTHING})
        at = [places[node] for node in nodes]
        theirs, right_of = _of_flight(mine, nodes, trait)
        precision[np.ix_(at, at)] += theirs
        right[at] += right_of
    return precision, right


def _of_flight(mine: Sequence[Seen], nodes: Sequence[Node], trait: Trait) -> tuple[Floats, Floats]:
    cells = sorted({one.cell for one in mine})
    n, m = len(nodes), len(cells)
    both, right = np.zeros((n + m, n + m)), np.zeros(n + m)
    row_of, column_of = {node: at for at, node in enumerate(nodes)}, {cell: n + at for at, cell in enumerate(cells)}
    families: dict[str, list[Seen]] = {}
    for one in mine:
        families.setdefault(one.node and (one.family or one.node), []).append(one)
    for family in sorted(families):
        theirs = families[family]
        weights = _weights(theirs, trait) if family != NOTHING else np.diag([one.sd**-2 for one in theirs])
        design = np.zeros((len(theirs), n + m))
        for row, one in enumerate(theirs):
            design[row, column_of[one.cell]] = 1.0
            if one.node != NOTHING:
                design[row, row_of[one.node]] = 1.0
        both += design.T @ weights @ design
        right += design.T @ weights @ np.array([one.value for one in theirs])
    if trait.cell_sd is not None:
        both[range(n, n + m), range(n, n + m)] += 1.0 / trait.cell_sd**2
    out = both[:n, n:] @ np.linalg.inv(both[n:, n:])
    return both[:n, :n] - out @ both[n:, :n], right[:n] - out @ right[n:]


def _weights(theirs: Sequence[Seen], trait: Trait) -> Floats:
    """Inverse covariance of one family's values in one flight: each with its scatter, all with what the rig makes."""
    column = np.array([one.sd**-2 for one in theirs])
    shared_sd = max(trait.transfer_sd, *(one.transfer_sd for one in theirs))
    if any(one.setting_sd for one in theirs):
        same = np.array([[one.node == other.node for other in theirs] for one in theirs])
        own = np.array([one.setting_sd for one in theirs])
        return np.asarray(np.linalg.inv(np.diag(1 / column) + shared_sd**2 + same * np.outer(own, own)))
    if shared_sd <= 0.0:
        return np.diag(column)
    return np.asarray(np.diag(column) - np.outer(column, column) / (1.0 / shared_sd**2 + column.sum()))
