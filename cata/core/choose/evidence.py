"""What was seen of the items of a shelf, pooled as it is asked for, and worked out once for all needs."""

from __future__ import annotations

from collections.abc import Hashable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property, lru_cache
from math import hypot
from statistics import median
from typing import Any

import numpy as np

from cata.core.brief import Sound, Target
from cata.core.choose.between import Place, Travel
from cata.core.choose.column import Column, Fits, Floats, Rows, fits
from cata.core.choose.takes import HEARD_SHARE, jnd_at, key_of
from cata.core.measure.registry import BY_KEY
from cata.core.pool.estimate import Estimate, estimate
from cata.core.pool.links import links_from
from cata.core.pool.seen import TEST_FILE, Node, Seen, Trait

Asked = tuple[str, str, str]
"""Sound, reading, and what it is held against."""
NO_TRANSFER_JNDS = 1.0
"""Where nobody measured what rigs make of a difference: as much as is just noticed."""


def asked_of(sound: Sound, target: Target) -> Asked:
    """What a target asks of a sound's tests."""
    return sound.key, key_of(target), target.against


def trait_of(target: Target) -> Trait:
    """How a target's reading carries from one rig to another."""
    return _trait(target.reading, target.part, target.against, target.low or target.high or 0.0)


@lru_cache(maxsize=4096)
def _trait(key: str, part: str, against: str, near: float) -> Trait:
    reading = BY_KEY[key]
    transfer = reading.transfer(part)
    if transfer is None:
        transfer = NO_TRANSFER_JNDS * jnd_at(Target(reading=key, part=part), near)
    return Trait(transfer, None if against else hypot(reading.phrase_sd or 0.0, transfer))


@dataclass(frozen=True)
class Evidence:
    """What was seen of the items of a shelf, by what is asked, and at which nodes (settings) each item stands.

    A place between an item's measured settings is a node too, by its number (:meth:`place`).
    """

    seen: Mapping[Asked, Sequence[Seen]]
    nodes: Mapping[int, Sequence[Node]]
    travels: Mapping[int, Travel] = field(default_factory=dict)
    """What was measured of an item over the travel of its knobs, where settings between can be asked."""
    one_flight: bool = False
    """Of one flight, as things were set and played there: what other rigs make of them is not asked."""
    _estimates: dict[tuple[Asked, Trait], Estimate | None] = field(default_factory=dict, repr=False, compare=False)
    _columns: dict[tuple[Asked, Trait], Column] = field(default_factory=dict, repr=False, compare=False)
    _fits: dict[Hashable, Fits] = field(default_factory=dict, repr=False, compare=False)
    _links: dict[int, Mapping[Node, int]] = field(default_factory=dict, repr=False, compare=False)
    drawn: dict[Hashable, Any] = field(default_factory=dict, repr=False, compare=False)
    """What certainty drew from it, to be used again where only weights changed."""

    @cached_property
    def rows(self) -> Rows:
        """All settings of all items, and the places between."""
        return Rows(self.nodes, self.travels)

    def trait(self, target: Target) -> Trait:
        """How a target's reading carries as far as this evidence goes."""
        found = trait_of(target)
        if not self.one_flight:
            return found
        cell_sd = None if found.relative else BY_KEY[target.reading].phrase_sd or found.cell_sd
        return replace(found, transfer_sd=0.0, cell_sd=cell_sd)

    def place(self, node: Node) -> tuple[Travel, Place] | None:
        """What a node between measured ones is made of; None for one that was measured."""
        return self._places.get(node)

    @cached_property
    def _places(self) -> Mapping[Node, tuple[Travel, Place]]:
        names = self.rows.names
        return {
            names[rows.start + at]: (self.travels[ident], place)
            for ident, rows in self.rows.places.items()
            for at, place in enumerate(self.travels[ident].places)
        }

    @cached_property
    def takes(self) -> Mapping[tuple[Node, str], int]:
        """How many takes there are of each node for each sound."""
        found: dict[tuple[Node, str], int] = {}
        for (test, _, _), seen in self.seen.items():
            counts: dict[Node, int] = {}
            for one in seen:
                if one.flight != TEST_FILE:
                    counts[one.node] = counts.get(one.node, 0) + 1
            for node, count in counts.items():
                found[node, test] = max(count, found.get((node, test), 0))
        return found

    def estimate(self, asked: Asked, trait: Trait) -> Estimate | None:
        """What all that was seen says; worked out once, whatever counts how much in a need."""
        if (asked, trait) not in self._estimates:
            self._estimates[asked, trait] = estimate(self.seen.get(asked, ()), trait)
        return self._estimates[asked, trait]

    def column(self, asked: Asked, target: Target) -> Column:
        """What all settings show of a target's reading."""
        key = asked, self.trait(target)
        if key not in self._columns:
            self._columns[key] = self._column(asked, target)
        return self._columns[key]

    def fits(self, asked: Asked, target: Target) -> Fits:
        """How well all settings meet a target."""
        key = asked, self.trait(target), target.low, target.high, target.soft_low, target.soft_high
        if key not in self._fits:
            self._fits[key] = fits(self.column(asked, target), target, tuple(self.rows.places.values()))
        return self._fits[key]

    def _column(self, asked: Asked, target: Target) -> Column:
        one, rows = self.estimate(asked, self.trait(target)), self.rows.of
        value, variance, jnd, freedom = (np.full(len(rows), np.nan) for _ in range(4))
        bounds = self._bounds(asked, target, set() if one is None else set(one.nodes))
        for row, seen in bounds.items():
            value[row], variance[row], freedom[row] = seen.value, seen.sd**2, seen.freedom
            jnd[row] = jnd_at(target, seen.value)
        against = ""
        if one is not None:
            here = [(rows[node], at) for at, node in enumerate(one.nodes) if node in rows]
            to, at = np.array(here, dtype=np.intp).reshape(-1, 2).T
            value[to], variance[to], freedom[to] = one.mean[at], np.diag(one.cov)[at], one.freedom
            jnd[to] = self._jnds(target, value[to])
            for ident, places in self.rows.places.items():
                if (found := self._between(self.travels[ident], one, target)) is not None:
                    value[places], variance[places], jnd[places] = found
                    freedom[places] = one.freedom
            if target.against:
                middle = "the middle of the flight" if self.one_flight else "the middle of the shelf"
                against = "the bypass" if one.against_nothing else middle
        sd = np.maximum(np.sqrt(np.maximum(variance, 0.0)), HEARD_SHARE * jnd)
        return Column(value, sd, jnd, freedom, {row: seen.bound for row, seen in bounds.items() if seen.bound}, against)

    def _between(self, travel: Travel, one: Estimate, target: Target) -> tuple[Floats, Floats, Floats] | None:
        """Values, variances and what would be noticed at the places of a travel; None where a setting is missing."""
        places = one.places
        if not travel.places or any(node not in places for node in travel.nodes):
            return None
        at = [places[node] for node in travel.nodes]
        value: Floats = travel.weights @ one.mean[at]
        jnd = self._jnds(target, value)
        own = np.einsum("ij,jk,ik->i", travel.weights, one.cov[np.ix_(at, at)], travel.weights)
        return value, own + travel.shares * travel.spread(one.mean[at], jnd) ** 2, jnd

    def _jnds(self, target: Target, values: Floats) -> Floats:
        if target.against and key_of(target) in self._usual:
            return np.full(len(values), self.jnd(target, 0.0))
        return np.array([self.jnd(target, float(value)) for value in values])

    def _bounds(self, asked: Asked, target: Target, pooled: set[Node]) -> Mapping[int, Seen]:
        """Rows of which a bound is all that is known, where it holds by itself: the narrowest."""
        found: dict[int, Seen] = {}
        for one in () if target.against else self.seen.get(asked, ()):
            if one.bound is None or one.node in pooled or one.node not in self.rows.of:
                continue
            row = self.rows.of[one.node]
            best = found.get(row, one)
            narrower = one.value < best.value if best.bound == "at_most" else one.value > best.value
            found[row] = one if narrower else best
        return found

    def jnd(self, target: Target, value: float) -> float:
        """What would just be noticed there; of a difference, where such values usually lie."""
        return jnd_at(target, self._usual.get(key_of(target), value) if target.against else value)

    @cached_property
    def _usual(self) -> Mapping[str, float]:
        """The middle of all that was seen of each reading."""
        values: dict[str, list[float]] = {}
        for (_, key, _), seen in self.seen.items():
            values.setdefault(key, []).extend(one.value for one in seen)
        return {key: median(mine) for key, mine in values.items() if mine}

    def links_from(self, ident: int) -> Mapping[Node, int]:
        """Over how many others each node is linked with an item, by whatever links them best."""
        if ident not in self._links:
            self._links[ident] = self._links_from(ident)
        return self._links[ident]

    def _links_from(self, ident: int) -> dict[Node, int]:
        found: dict[Node, int] = {}
        for seen in self.seen.values():
            for node, steps in links_from(seen, self.nodes.get(ident, ())).items():
                found[node] = min(steps, found.get(node, steps))
        return found
