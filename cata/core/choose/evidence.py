"""What was seen of the items of a shelf, pooled as it is asked for, and worked out once for all needs."""

from __future__ import annotations

from collections.abc import Hashable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property, lru_cache
from math import hypot
from statistics import median
from typing import Any

from cata.core.brief import Sound, Target
from cata.core.choose.between import Place, Travel
from cata.core.choose.takes import Known, jnd_at, key_of
from cata.core.measure.registry import BY_KEY
from cata.core.pool.estimate import Estimate, estimate
from cata.core.pool.links import links_from
from cata.core.pool.seen import TEST_FILE, Node, Seen, Trait

Asked = tuple[str, str, str]
"""Sound, reading, and what it is held against."""
BETWEEN = "~"
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
    _estimates: dict[tuple[Asked, Trait], Estimate | None] = field(default_factory=dict, repr=False, compare=False)
    known: dict[tuple[Node, Asked, Trait], Known | None] = field(default_factory=dict, repr=False, compare=False)
    """What was worked out of it already, whatever counts how much."""
    drawn: dict[Hashable, Any] = field(default_factory=dict, repr=False, compare=False)
    """What certainty drew from it, to be used again where only weights changed."""

    def place(self, node: Node) -> tuple[Travel, Place] | None:
        """What a node between measured ones is made of; None for one that was measured."""
        if not node.startswith(BETWEEN):
            return None
        ident, _, number = node.removeprefix(BETWEEN).partition(":")
        travel = self.travels[int(ident)]
        return travel, travel.places[int(number)]

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

    def links_from(self, ident: int) -> dict[Node, int]:
        """Over how many others each node is linked with an item, by whatever links them best."""
        found: dict[Node, int] = {}
        for seen in self.seen.values():
            for node, steps in links_from(seen, self.nodes[ident]).items():
                found[node] = min(steps, found.get(node, steps))
        return found
