"""The whole shelf as one ground: items from many flights, each at the setting that serves a sound best.

What an item does is pooled (:mod:`cata.core.pool`): its differences from what all share, with the doubt of every link.
Where nothing links it with the others it cannot be ranked beside them; the one take that would is named.
"""

from __future__ import annotations

from collections.abc import Hashable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

import numpy as np

from cata.core.brief import Need, Sound, Target
from cata.core.choose.between import Floats, Travel
from cata.core.choose.certainty import fits_of
from cata.core.choose.evidence import BETWEEN, Asked, Evidence, asked_of, trait_of
from cata.core.choose.fit import fit_of, halves_of
from cata.core.choose.takes import HEARD_SHARE, Known, jnd_at, key_of, slack_of
from cata.core.pool.estimate import BYPASS, Estimate
from cata.core.pool.links import Link, missing_link
from cata.core.pool.seen import NOTHING, Node

WORTH_TURNING = 0.02
"""So much better, expected, must a place between measured settings be before anybody is sent there."""
SPREAD = np.array([-np.sqrt(3.0), 0.0, np.sqrt(3.0)]), np.array([1, 4, 1]) / 6
"""Three points that stand for a normal deviation (Gauss and Hermite)."""
SPAN_DRAWS = 400


@dataclass
class Whole:
    """Items of a shelf as contenders, one test for every sound (a ground for fits and chances)."""

    need: Need
    evidence: Evidence
    _chosen: dict[tuple[int, str], Node | None] = field(default_factory=dict)
    _known: dict[tuple[int, Asked], Known | None] = field(default_factory=dict)

    @cached_property
    def _estimates(self) -> Mapping[Asked, Estimate | None]:
        return {
            asked_of(sound, target): self.evidence.estimate(asked_of(sound, target), trait_of(target))
            for sound in self.need.sounds
            for target in sound.targets
        }

    @cached_property
    def _places(self) -> Mapping[Asked, Mapping[Node, int]]:
        return {
            asked: {node: at for at, node in enumerate(one.nodes)} if one is not None else {}
            for asked, one in self._estimates.items()
        }

    @cached_property
    def _sounds(self) -> Mapping[str, Sound]:
        return {sound.key: sound for sound in self.need.sounds}

    @property
    def drawn(self) -> dict[Hashable, Any]:
        """What certainty drew from this ground the last time."""
        return self.evidence.drawn

    def tests_for(self, sound: Sound) -> tuple[tuple[str, ...], bool]:
        """Every sound is one test of its own: what all tests that stand for it say together."""
        return (sound.key,), True

    def has(self, ident: int, test: str) -> bool:
        """True where something was seen of an item in a sound, linked or not."""
        return not self._seen_in.get(test, frozenset()).isdisjoint(self.evidence.nodes.get(ident, ()))

    def takes(self, ident: int, test: str) -> int:
        """In how many takes an item was seen for a sound, at the setting that serves it best."""
        return (
            self.evidence.takes.get((self.setting_for(ident, test) or NOTHING, test), 0) if self.has(ident, test) else 0
        )

    @cached_property
    def _seen_in(self) -> Mapping[str, set[Node]]:
        found: dict[str, set[Node]] = {}
        for (test, _, _), seen in self.evidence.seen.items():
            found.setdefault(test, set()).update(one.node for one in seen)
        return found

    def setting_for(self, ident: int, test: str) -> Node | None:
        """The setting of an item that serves a sound best, by what is known; None where nothing is."""
        if (ident, test) not in self._chosen:
            nodes = self.evidence.nodes.get(ident, ())
            fits = {node: self._fit(node, self._sounds[test]) for node in nodes}
            known = [node for node in nodes if fits[node] is not None]
            best = max(known, key=lambda node: fits[node] or 0.0) if known else None
            between = self._best_between(ident, self._sounds[test]) if best is not None else None
            if between is not None and between[0] > (fits[best or NOTHING] or 0.0) + WORTH_TURNING:
                best = between[1]
            self._chosen[ident, test] = best
        return self._chosen[ident, test]

    @property
    def standing(self) -> tuple[Node | None, ...]:
        """At which settings all stand, in the order of items and sounds."""
        return tuple(self.setting_for(ident, test) for ident in self.evidence.nodes for test in self._sounds)

    def _best_between(self, ident: int, sound: Sound) -> tuple[float, Node] | None:
        """The place between measured settings that promises most, and how much that is, its doubt counted."""
        travel = self.evidence.travels.get(ident)
        total = sum(target.weight for target in sound.targets)
        if travel is None or not travel.places or total <= 0:
            return None
        promised, open_share = np.zeros(len(travel.places)), np.array([place.share for place in travel.places])
        for target in sound.targets:
            asked = asked_of(sound, target)
            one, at = self._estimates.get(asked), self._along(travel, asked)
            if one is None or at is None:
                continue
            values = travel.weights @ one.mean[at]
            jnd = self.evidence.jnd(target, float(values.mean()))
            sd = np.sqrt(self._own_doubt(travel, one, at) + open_share * travel.spread(one.mean[at], jnd) ** 2)
            draws = values[:, None] + sd[:, None] * SPREAD[0]
            halves = np.array(halves_of(target, jnd))[:, None]
            promised += target.weight / total * (fits_of(target, draws, halves) @ SPREAD[1])
        best = int(promised.argmax())
        return float(promised[best]), f"{BETWEEN}{ident}:{best}"

    def _along(self, travel: Travel, asked: Asked) -> list[int] | None:
        """Where the settings of a travel stand in what is known of something; None where one is missing."""
        places = self._places[asked]
        found = [places[node] for node in travel.nodes if node in places]
        return found if len(found) == len(travel.nodes) else None

    def _own_doubt(self, travel: Travel, one: Estimate, at: list[int]) -> Floats:
        """Variance at all places of a travel from that of what was measured."""
        cov = one.cov[np.ix_(at, at)]
        return np.asarray(np.einsum("ij,jk,ik->i", travel.weights, cov, travel.weights))

    def _mix(self, node: Node, asked: Asked) -> tuple[list[int], Floats] | None:
        """A node as a sum of what is known: where its parts stand and what each counts; None where not all are."""
        between = self.evidence.place(node)
        if between is None:
            found = self._places.get(asked, {}).get(node)
            return None if found is None else ([found], np.ones(1))
        at = self._along(between[0], asked)
        return None if at is None else (at, between[1].weights)

    def idle(self, sound: Sound) -> float | None:
        """How well a sound is served where nothing stands in the place of these items; None where nobody knows."""
        found = []
        for target in sound.targets:
            one = self._estimates.get(asked_of(sound, target))
            if one is None or (target.against and not one.against_nothing):
                return None
            if not target.against and BYPASS not in one.nodes:
                return None
            value = 0.0 if target.against else float(one.mean[one.nodes.index(BYPASS)])
            found.append(target.weight * fit_of(target, value, self.jnd(target, value))[0])
        total = sum(target.weight for target in sound.targets)
        return sum(found) / total if total else None

    def fit_for(self, ident: int, sound: Sound) -> float:
        """How well an item serves a sound at its best setting; what is not known counts as bad."""
        node = self.setting_for(ident, sound.key)
        return (self._fit(node, sound) or 0.0) if node is not None else 0.0

    def span_for(self, ident: int, sound: Sound) -> tuple[float, float]:
        """Nine in ten of how well an item may serve a sound at its best setting, by what is known there."""
        chance, total = np.random.default_rng(1), sum(target.weight for target in sound.targets) or 1.0
        fits = np.zeros(SPAN_DRAWS)
        for target in sound.targets:
            one = self.known(ident, sound.key, target)
            if one is not None:
                values = one.value + one.sd * chance.standard_normal((1, SPAN_DRAWS))
                halves = np.array(halves_of(target, one.jnd))[:, None]
                fits += target.weight / total * fits_of(target, values, halves)[0]
        low, high = np.quantile(fits, (0.05, 0.95))
        return float(low), float(high)

    def known(self, ident: int, test: str, target: Target) -> Known | None:
        """What is known of a target at the setting that serves the sound best."""
        asked = (test, key_of(target), target.against)
        if (ident, asked) not in self._known:
            node = self.setting_for(ident, test)
            self._known[ident, asked] = None if node is None else self._at(node, asked, target)
        return self._known[ident, asked]

    def values(self, test: str, target: Target) -> list[float]:
        """What all items show of a target, each at its best setting."""
        found = (self.known(ident, test, target) for ident in self.evidence.nodes)
        return [one.value for one in found if one is not None]

    def covariance(self, idents: Sequence[int], test: str, target: Target) -> list[list[float]] | None:
        """Of what some items show: what links them has its doubt in common."""
        asked = (test, key_of(target), target.against)
        one = self._estimates.get(asked)
        if one is None:
            return None
        # Each as a sum of what is known: for most a single node, of which nothing has to be multiplied.
        mixes = [self._mix(self.setting_for(ident, test) or NOTHING, asked) for ident in idents]
        first = np.array([mix[0][0] if mix is not None else 0 for mix in mixes], dtype=np.intp)
        table: Floats = one.cov[np.ix_(first, first)]
        sums = {row: mix for row, mix in enumerate(mixes) if mix is not None and len(mix[0]) > 1}
        along = {row: weights @ one.cov[at] for row, (at, weights) in sums.items()}
        for row, mine in along.items():
            table[row] = table[:, row] = mine[first]
        for row, mine in along.items():
            for other, (at, weights) in sums.items():
                table[row, other] = mine[at] @ weights
        unknown = [row for row, mix in enumerate(mixes) if mix is None]
        table[unknown] = 0.0
        table[:, unknown] = 0.0
        for row, ident in enumerate(idents):
            known = self.known(ident, test, target)
            table[row, row] = known.sd**2 if known is not None else 0.0
        return table.tolist()

    def common_sd(self, _known: Sequence[Known], target: Target) -> float:
        """What the customer's own playing does to a reading that does not carry over."""
        return slack_of(target)

    def jnd(self, target: Target, value: float) -> float:
        """What would just be noticed there."""
        return self.evidence.jnd(target, value)

    @cached_property
    def apart(self) -> Mapping[int, Link | None]:
        """Items that were seen and that nothing links with the others, with the take that would link them."""
        found: dict[int, Link | None] = {}
        for asked, one in self._estimates.items():
            if one is None:
                continue
            main = frozenset(one.nodes) | ({NOTHING} if one.against_nothing else frozenset())
            for group in one.apart:
                mine = [ident for ident, nodes in self.evidence.nodes.items() if group & set(nodes)]
                linked = [ident for ident in mine if self._is_linked(ident, asked)]
                for ident in set(mine) - set(linked) - set(found):
                    found[ident] = missing_link(self.evidence.seen[asked], group, main)
        return found

    def _is_linked(self, ident: int, asked: Asked) -> bool:
        return any(node in self._places[asked] for node in self.evidence.nodes[ident])

    def _at(self, node: Node, asked: Asked, target: Target) -> Known | None:
        at = node, asked, trait_of(target)
        known = self.evidence.known
        if at not in known:
            known[at] = self._worked_out(node, asked, target)
        return known[at]

    def _worked_out(self, node: Node, asked: Asked, target: Target) -> Known | None:
        mix, one = self._mix(node, asked), self._estimates.get(asked)
        if one is None or mix is None:
            return self._bound(node, asked, target)
        at, weights = mix
        value = float(weights @ one.mean[at])
        jnd = self.evidence.jnd(target, value)
        variance = float(weights @ one.cov[np.ix_(at, at)] @ weights)
        if between := self.evidence.place(node):
            variance += between[1].share * between[0].spread(one.mean[at], jnd) ** 2
        sd = max(variance**0.5, HEARD_SHARE * jnd)
        against = ("the bypass" if one.against_nothing else "the middle of the shelf") if target.against else ""
        return Known(value, sd, one.freedom, jnd, None, against)

    def _bound(self, node: Node, asked: Asked, target: Target) -> Known | None:
        """A bound, where that is all that is known and it holds by itself."""
        if target.against:
            return None
        mine = [one for one in self.evidence.seen.get(asked, ()) if one.node == node and one.bound is not None]
        if not mine:
            return None
        best = (
            min(mine, key=lambda one: one.value) if mine[0].bound == "at_most" else max(mine, key=lambda one: one.value)
        )
        return Known(best.value, best.sd, best.freedom, jnd_at(target, best.value), best.bound)

    def _fit(self, node: Node, sound: Sound) -> float | None:
        """How well a node serves a sound by what is known; None where nothing is."""
        found = [(target, self._at(node, asked_of(sound, target), target)) for target in sound.targets]
        if all(known is None for _, known in found):
            return None
        total = sum(target.weight for target, _ in found) or 1.0
        return (
            sum(target.weight * fit_of(target, one.value, one.jnd)[0] for target, one in found if one is not None)
            / total
        )
