"""What every setting of a shelf shows of one reading, as columns: whatever counts how much, it is worked out once.

A row is a setting at which an item was played or measured, or a place between measured ones.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
import numpy.typing as npt

from cata.core.brief import Target
from cata.core.choose.between import Travel
from cata.core.choose.certainty import fits_of
from cata.core.choose.fit import HALF_FIT_JNDS
from cata.core.choose.takes import Known
from cata.core.measure.outcome import Bound
from cata.core.pool.seen import Node

Floats = npt.NDArray[np.floating[Any]]
BETWEEN = "~"
SPREAD = np.array([-np.sqrt(3.0), 0.0, np.sqrt(3.0)]), np.array([1, 4, 1]) / 6
"""Three points that stand for a normal deviation (Gauss and Hermite)."""


def between(ident: int, number: int) -> Node:
    """The node of a place between an item's measured settings, by its number."""
    return f"{BETWEEN}{ident}:{number}"


@dataclass(frozen=True)
class Rows:
    """All settings of a shelf in one order: those that were seen, then the places of each travel."""

    nodes: Mapping[int, Sequence[Node]]
    travels: Mapping[int, Travel]

    @cached_property
    def of(self) -> Mapping[Node, int]:
        """The row of a node."""
        seen = dict.fromkeys(node for mine in self.nodes.values() for node in mine)
        places = [between(ident, at) for ident, travel in self.travels.items() for at in range(len(travel.places))]
        return {node: at for at, node in enumerate((*seen, *places))}

    @cached_property
    def names(self) -> Sequence[Node]:
        """The node of each row."""
        return tuple(self.of)

    @cached_property
    def of_item(self) -> Mapping[int, Sequence[int]]:
        """Rows at which each item was seen."""
        return {ident: [self.of[node] for node in mine] for ident, mine in self.nodes.items()}

    @cached_property
    def places(self) -> Mapping[int, slice]:
        """Rows of the places between each item's measured settings."""
        found, at = {}, len(self.of) - sum(len(travel.places) for travel in self.travels.values())
        for ident, travel in self.travels.items():
            found[ident] = slice(at, at + len(travel.places))
            at += len(travel.places)
        return found


@dataclass(frozen=True)
class Column:
    """One reading by row: ``value``, ``sd`` and ``jnd``, not a number where nothing is known.

    ``bounds``: rows of which only a bound is known; ``freedom`` what deviations are known from, ``against`` what
    differences are held against.
    """

    value: Floats
    sd: Floats
    jnd: Floats
    freedom: Floats
    bounds: Mapping[int, Bound]
    against: str

    def known(self, row: int) -> Known | None:
        """What is known in a row."""
        if np.isnan(self.value[row]):
            return None
        return Known(float(self.value[row]), float(self.sd[row]), float(self.freedom[row]), float(self.jnd[row]),
                     self.bounds.get(row), self.against)  # fmt: skip


@dataclass(frozen=True)
class Fits:
    """How well each row meets a range: by its value, and on average over what it may be; not a number as above."""

    at_value: Floats
    promised: Floats


def fits(column: Column, target: Target, places: Sequence[slice]) -> Fits:
    """The fits of a column; what they promise, their doubt counted, for ``places`` between settings only."""
    with np.errstate(invalid="ignore"):
        found = _fits(column, target, slice(None), np.zeros(1))[:, 0]
        for row, bound in column.bounds.items():
            if (target.low if bound == "at_most" else target.high) is not None:
                found[row] = 0.0  # It may lie anywhere beyond.
        promised = found.copy()
        for mine in places:
            promised[mine] = _fits(column, target, mine, SPREAD[0]) @ SPREAD[1]
    return Fits(found, promised)


def _fits(column: Column, target: Target, rows: slice, deviations: Floats) -> Floats:
    jnd = column.jnd[rows]
    halves = np.array([np.full_like(jnd, drawn) if drawn else HALF_FIT_JNDS * jnd
                       for drawn in (target.soft_low, target.soft_high)])  # fmt: skip
    return fits_of(target, column.value[rows, None] + column.sd[rows, None] * deviations, halves)
