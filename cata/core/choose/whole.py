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
from cata.core.choose.certainty import fits_of
from cata.core.choose.column import Floats
from cata.core.choose.evidence import Asked, Evidence, asked_of
from cata.core.choose.fit import fit_of, halves_of
from cata.core.choose.takes import Known, key_of, slack_of
from cata.core.pool.estimate import BYPASS, Estimate
from cata.core.pool.links import Link, missing_link
from cata.core.pool.seen import NOTHING, Node

WORTH_TURNING = 0.02
"""So much better, expected, must a place between measured settings be before anybody is sent there."""
SPAN_DRAWS = 400


@dataclass(frozen=True)
class Meets:
    """How well every setting meets a sound: ``score`` with what is not known as bad, the ``known`` share of its weight.

    ``promised`` is the score that is expected, its doubt counted.
    """

    score: Floats
    known: Floats
    promised: Floats


@dataclass
class Whole:
    """Items of a shelf as contenders, one test for every sound (a ground for fits and chances).

    ``can_be_off``: a player turns an item off where a clean sound is served better without.
    """

    need: Need
    evidence: Evidence
    can_be_off: bool = False
    _of_sound: dict[str, Meets] = field(default_factory=dict)
    _chosen: dict[str, dict[int, int]] = field(default_factory=dict)
    _off: dict[str, float | None] = field(default_factory=dict)

    @cached_property
    def _estimates(self) -> Mapping[Asked, Estimate | None]:
        return {
            asked_of(sound, target): self.evidence.estimate(asked_of(sound, target), self.evidence.trait(target))
            for sound in self.need.sounds
            for target in sound.targets
        }

    @cached_property
    def _sounds(self) -> Mapping[str, Sound]:
        return {sound.key: sound for sound in self.need.sounds}

    @property
    def drawn(self) -> dict[Hashable, Any]:
        """What certainty drew from this ground the last time."""
        return self.evidence.drawn

    def has(self, ident: int, sound: str) -> bool:
        """True where something was seen of an item in a sound, linked or not."""
        return not self._seen_in.get(sound, frozenset()).isdisjoint(self.evidence.nodes.get(ident, ()))

    def meets(self, ident: int, sound: Sound) -> tuple[float, float]:
        """How well an item meets a sound at its best setting, and what share of the sound is known there."""
        row, meets = self._row(ident, sound.key), self._meets(sound)
        return (0.0, 0.0) if row is None else (float(meets.score[row]), float(meets.known[row]))

    def takes(self, ident: int, sound: str) -> int:
        """In how many takes an item was seen for a sound, at the setting that serves it best."""
        if not self.has(ident, sound):
            return 0
        return self.evidence.takes.get((self.setting_for(ident, sound) or NOTHING, sound), 0)

    @cached_property
    def _seen_in(self) -> Mapping[str, set[Node]]:
        found: dict[str, set[Node]] = {}
        for (test, _, _), seen in self.evidence.seen.items():
            found.setdefault(test, set()).update(one.node for one in seen)
        return found

    def setting_for(self, ident: int, sound: str) -> Node | None:
        """The setting of an item that serves a sound best, by what is known; None where nothing is."""
        row = self._row(ident, sound)
        return None if row is None else self.evidence.rows.names[row]

    @property
    def standing(self) -> tuple[Node | None, ...]:
        """At which settings all stand, in the order of items and sounds."""
        return tuple(self.setting_for(ident, test) for ident in self.evidence.nodes for test in self._sounds)

    def _row(self, ident: int, sound: str) -> int | None:
        if sound not in self._chosen:
            self._chosen[sound] = self._best_rows(self._sounds[sound])
        return self._chosen[sound].get(ident)

    def _best_rows(self, sound: Sound) -> dict[int, int]:
        """The row that serves a sound best, of every item of which something is known."""
        meets, rows, found = self._meets(sound), self.evidence.rows, {}
        scores, known = meets.score.tolist(), meets.known.tolist()
        for ident, mine in rows.of_item.items():
            best = max((row for row in mine if known[row] > 0), key=scores.__getitem__, default=None)
            if best is None:
                continue
            places = rows.places.get(ident, slice(0, 0))
            if places.start < places.stop:
                between = places.start + int(meets.promised[places].argmax())
                if meets.promised[between] > scores[best] + WORTH_TURNING:
                    best = between
            found[ident] = best
        return found

    def _meets(self, sound: Sound) -> Meets:
        if sound.key not in self._of_sound:
            count, total = len(self.evidence.rows.of), sum(target.weight for target in sound.targets) or 1.0
            found = Meets(np.zeros(count), np.zeros(count), np.zeros(count))
            for target in sound.targets:
                fits = self.evidence.fits(asked_of(sound, target), target)
                # What counts for nothing was judged all the same: its setting is one to stand at.
                share = max(target.weight / total, 1e-12)
                found.score[:] += share * np.nan_to_num(fits.at_value)
                found.promised[:] += share * np.nan_to_num(fits.promised)
                found.known[:] += share * ~np.isnan(fits.at_value)
            self._of_sound[sound.key] = found
        return self._of_sound[sound.key]

    def _mix(self, node: Node, asked: Asked) -> tuple[list[int], Floats] | None:
        """A node as a sum of what is known: where its parts stand and what each counts; None where not all are."""
        one = self._estimates.get(asked)
        if one is None:
            return None
        between = self.evidence.place(node)
        if between is None:
            found = one.places.get(node)
            return None if found is None else ([found], np.ones(1))
        at = [one.places[mine] for mine in between[0].nodes if mine in one.places]
        return (at, between[1].weights) if len(at) == len(between[0].nodes) else None

    def off(self, sound: Sound) -> float | None:
        """How well a sound is served with all items off; None where they are never off, or nobody knows."""
        if sound.key not in self._off:
            self._off[sound.key] = self.idle(sound) if self.can_be_off and sound.asks_for_clean else None
        return self._off[sound.key]

    def idle(self, sound: Sound) -> float | None:
        """How well a sound is served where nothing stands in the place of these items; None where nobody knows."""
        found = []
        for target in sound.targets:
            one = self._estimates.get(asked_of(sound, target))
            if one is None or (target.against and not one.against_nothing):
                return None
            if not target.against and BYPASS not in one.nodes:
                return None
            value = 0.0 if target.against else float(one.mean[one.places[BYPASS]])
            found.append(target.weight * fit_of(target, value, self.jnd(target, value))[0])
        total = sum(target.weight for target in sound.targets)
        return sum(found) / total if total else None

    def fit_for(self, ident: int, sound: Sound) -> float:
        """How well an item serves a sound at its best setting; what is not known counts as bad."""
        return self.meets(ident, sound)[0]

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

    def known(self, ident: int, sound: str, target: Target) -> Known | None:
        """What is known of a target at the setting that serves the sound best."""
        row = self._row(ident, sound)
        return None if row is None else self.evidence.column((sound, key_of(target), target.against), target).known(row)

    def values(self, sound: str, target: Target) -> list[float]:
        """What all items show of a target, each at its best setting."""
        rows = [row for ident in self.evidence.nodes if (row := self._row(ident, sound)) is not None]
        found = self.evidence.column((sound, key_of(target), target.against), target).value[rows]
        return [value for value in found.tolist() if value == value]

    def covariance(self, idents: Sequence[int], sound: str, target: Target) -> list[list[float]] | None:
        """Of what some items show: what links them has its doubt in common."""
        asked = (sound, key_of(target), target.against)
        one = self._estimates.get(asked)
        if one is None:
            return None
        # Each as a sum of what is known: for most a single node, of which nothing has to be multiplied.
        mixes = [self._mix(self.setting_for(ident, sound) or NOTHING, asked) for ident in idents]
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
            known = self.known(ident, sound, target)
            table[row, row] = known.sd**2 if known is not None else 0.0
        return table.tolist()

    def common_sd(self, _known: Sequence[Known], target: Target) -> float:
        """What the customer's own playing does to a reading that does not carry over; a flight's phrases show it."""
        return 0.0 if self.evidence.one_flight else slack_of(target)

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
        return (one := self._estimates[asked]) is not None and any(
            node in one.places for node in self.evidence.nodes[ident]
        )
