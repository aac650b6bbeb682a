"""All rigs in the order of their value: exact, by best first over ways and what the places for several add to them."""

from __future__ import annotations

import heapq
from bisect import bisect_right
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import accumulate, combinations
from math import inf
from typing import Any

import numpy as np

from cata.core.rig.parts import BUDGET, WEAKEST_SHARE, Part, Problem, Solved
from cata.core.rig.silent import Silent
from cata.core.rig.value import trimmed, worth
from cata.core.rig.ways import NO, Floats, Ways, silent_slots

NEAR = 1e-7
MOST_TRIED = 60_000
MOST_RIDERS = 4
BLOCK = 512


@dataclass(frozen=True)
class Found:
    """A rig by its parts, and what it is worth."""

    value: float
    counts: Mapping[int, int]
    used: frozenset[int]


class Search:
    """Rigs of a problem, for any budget."""

    def __init__(self, problem: Problem) -> None:
        self._problem = problem
        self._silent = Silent(problem, silent_slots(problem))
        self.ways = Ways(problem, self._needed())
        self.several = self.ways.several[0] if self.ways.several else None
        options = [part for part in (self.several.parts if self.several else ()) if part is not None]
        self._locked = [part for part in options if part.item in problem.locked]
        self._riders = [part for part in options if part in riders_of(problem) and part not in self._locked]
        own = {part.item for part in options}
        self.off_within = sum(one.discount_minor for one in problem.bundles if one.items <= own)
        """What deals among the parts of the place for several may take off."""
        self._by_ident = {part.ident: part for part in problem.parts}
        self._never = [frozenset({one.first, one.second}) for one in problem.clashes if one.never]
        self.left = 0
        """How many more ways to serve the sounds are tried before the search gives up."""

    @staticmethod
    def fits(problem: Problem) -> bool:
        """True where this problem can be searched; else the solver has to take it as it is."""
        if not Ways.can_be_listed(problem):
            return False
        several = {slot.key: slot for slot in problem.slots if slot.most > 1 and any(slot.share.values())}
        # Parts that are there for more than their sound are not looked for.
        needed = {item for one in problem.requires for item in one.one_of}
        plain = not any(part.slot in several and (part.gives or part.item in needed) for part in problem.parts)
        optional = all(slot.least == 0 for slot in several.values())
        plain = plain and not any(part.liked and (part.gives or part.slot in several) for part in problem.parts)
        # Where a deal takes off more than a part of the sound costs, more parts may cost less: no bound holds.
        silent = {slot.key for slot in silent_slots(problem)}
        sounding = [part for part in problem.parts if part.slot not in silent]
        plain = plain and all(_off(problem, part.item) <= part.price_minor for part in sounding)
        few = len(several) <= 1 and len(riders_of(problem)) <= MOST_RIDERS
        return plain and optional and few and Silent.can_be_listed(problem, silent_slots(problem))

    def _needed(self) -> dict[int, float]:
        """What parts cannot do without (power, a place on the board) adds to the least that all rigs cost."""
        problem = self._problem
        silent = {slot.key for slot in silent_slots(problem)}
        alone = self._silent.beside([])
        if alone is None or any(part.gives for part in problem.parts if part.slot not in silent):
            return {}
        items = {part.item for part in problem.parts if part.slot in silent}
        off = sum(one.discount_minor for one in problem.bundles if one.items & items)
        found = {}
        for part in problem.parts:
            if part.slot not in silent:
                beside = self._silent.beside([part])
                found[part.ident] = inf if beside is None else max(0.0, beside[0] - alone[0] - off)
        return found

    def rigs(self, budget_minor: int | None, most_tried: int = MOST_TRIED) -> Iterator[Solved]:
        """All rigs within a budget in the order of what they are worth, the best first.

        After so many tries the best that is known comes last, with the bound and without a proof.
        """
        self.left = most_tried
        limit = None if BUDGET in self._problem.dropped else budget_minor
        granted = self.ways.granted(limit)
        sets = (some for count in range(len(self._riders) + 1) for some in combinations(self._riders, count))
        yield from heapq.merge(
            *(self._rigs(granted, limit, [*self._locked, *some]) for some in sets),
            key=lambda one: (-one.bound, one.rig.price_minor if one.rig else 0),
        )

    def _rigs(self, granted: Floats, limit: int | None, locked: Sequence[Part]) -> Iterator[Solved]:
        order = np.argsort(-granted, kind="stable")
        order = order[granted[order] > NO / 2]
        left = self.ways.left_of(limit)
        at = 0
        waiting: list[tuple[float, int]] = []
        fillings: dict[int, Filling] = {}
        known: list[tuple[float, int, int, Found]] = []
        while self.left > 0:
            while at < len(order) and granted[order[at]] > max(_top(known), _top(waiting)) + NEAR:
                some = order[at : at + BLOCK]
                for way, may in zip(some.tolist(), self.ways.refined(some, left[some]).tolist(), strict=True):
                    heapq.heappush(waiting, (-may, way))
                at += BLOCK
            if waiting and _top(waiting) > _top(known) + NEAR:
                _, way = heapq.heappop(waiting)
                if way not in fillings:
                    fillings[way] = Filling(self, way, limit, locked)
                least = _top(known)
                found = fillings[way].better_than(least)
                if found is not None:
                    # Of rigs that fit alike the cheaper one comes first.
                    heapq.heappush(known, (-found.value, self._price(found.counts), way, found))
                elif known:
                    heapq.heappush(waiting, (-least, way))
                continue
            if not known:
                return
            _, _, way, found = heapq.heappop(known)
            rig = trimmed(self._problem, worth(self._problem, found.counts))
            yield Solved(rig, rig.value, True)
            heapq.heappush(waiting, (-found.value, way))
        bound = max(_top(known), _top(waiting), float(granted[order[at]]) if at < len(order) else -inf)
        yield Solved(worth(self._problem, known[0][3].counts) if known else None, bound, False)

    def whole(self, fixed: Sequence[Part], used: Sequence[Part], limit: int | None) -> dict[int, int] | None:
        """The rig with what must be added to it, None where it is not allowed or cannot be paid."""
        if self.several is not None and len(used) > self.several.slot.most:
            return None
        parts = [*fixed, *used]
        labels = {label for part in parts for label in part.labels}
        if any(pair <= labels for pair in self._never):
            return None
        more = self._silent.beside(parts)
        if more is None:
            return None
        counts = {part.ident: 1 for part in parts} | more[1]
        items = {self._by_ident[ident].item for ident in counts}
        if len(items) < len(counts) or not self._problem.locked <= items:
            return None
        if any(one.item in items and not one.one_of & items for one in self._problem.requires):
            return None
        return counts if limit is None or self._price(counts) <= limit else None

    def _price(self, counts: Mapping[int, int]) -> int:
        parts = [(self._by_ident[ident], count) for ident, count in counts.items()]
        items = {part.item for part, _ in parts}
        off = sum(one.discount_minor for one in self._problem.bundles if one.items <= items)
        return sum(part.price_minor * count for part, count in parts) - off


def _top(heap: Sequence[tuple[Any, ...]]) -> float:
    """The best fit in a heap of negatives."""
    return -float(heap[0][0]) if heap else -inf


def _off(problem: Problem, item: int) -> int:
    """What all deals with an item take off."""
    return sum(one.discount_minor for one in problem.bundles if item in one.items)


def riders_of(problem: Problem) -> list[Part]:
    """Parts of places for several that may pay for themselves in a bundle, whether they serve a sound or not."""
    several = {slot.key for slot in problem.slots if slot.most > 1 and any(slot.share.values())}
    return [
        part for part in problem.parts if part.slot in several and _off(problem, part.item) >= max(1, part.price_minor)
    ]


class Filling:
    """What the place for several adds to one way: which of its parts serves which sound."""

    def __init__(self, search: Search, way: int, limit: int | None, locked: Sequence[Part]) -> None:
        self._locked = locked
        self._search, self._fixed, self._limit = search, search.ways.parts_of(way), limit
        self._values = search.ways.served(way)
        several = search.several
        self._parts: Sequence[Part | None] = several.parts if several else [None]
        self._own = [0.0 if part is None else float(part.price_minor) for part in self._parts]
        self._prices = several.prices.tolist() if several else [0.0]
        self._most = several.slot.most if several else 0
        self._left = inf if limit is None else limit - search.ways.price_of(way) + search.off_within + NEAR
        self._weights = search.ways.mean_weights
        self._liked = sum(part.liked for part in self._fixed)
        self._orders = [
            [at for at in sorted(range(len(mine)), key=lambda at: -mine[at]) if mine[at] > NO / 2]
            for mine in self._values
        ]
        # The best of what can be paid with so much: options are in the order of their prices.
        self._up_to = [list(accumulate(mine, max)) for mine in self._values]
        self._given: set[frozenset[int]] = set()
        self._best: Found | None = None
        self._least = -inf

    def better_than(self, least: float) -> Found | None:
        """The best that was not given yet, where it is worth more than ``least``."""
        least -= self._liked
        self._best, self._least = None, least
        if self._parts[0] is None:
            # Something that is allowed at once, so that all that is worse need not be tried.
            idle = [mine[0] for mine in self._values]
            if (fit := self._search.ways.fit_of(idle)) > least + NEAR:
                self._judge((), fit)
        self._try(0, (), inf, 0.0, 0.0)
        if self._best is not None:
            self._given.add(self._best.used)
        return self._best

    def _try(self, sound: int, used: tuple[int, ...], weakest: float, mean: float, spent: float) -> None:
        """Every way to serve the sounds from this one on that may still be better than the best so far."""
        self._search.left -= 1
        if self._search.left < 0:
            return
        if sound == len(self._values):
            self._judge(used, WEAKEST_SHARE * weakest + (1 - WEAKEST_SHARE) * mean)
            return
        values, weight = self._values[sound], self._weights[sound]
        for at in self._orders[sound]:
            value = values[at]
            free = at in used or self._parts[at] is None
            now, paid = (used, spent) if free else ((*used, at), spent + self._own[at])
            if paid > self._left or len(now) > self._most:
                continue
            low, more = min(weakest, value), mean + weight * value
            if self._grant(sound + 1, now, low, more, paid) > self._least + NEAR:
                self._try(sound + 1, now, low, more, paid)
            elif free:
                # What comes after is worth less here, and leaves no more for the others.
                break

    def _grant(self, sound: int, used: tuple[int, ...], weakest: float, mean: float, spent: float) -> float:
        """What may be reached at most when the sounds from this one on are served by the best that can be paid."""
        last = max(bisect_right(self._prices, self._left - spent) - 1, 0)
        for later in range(sound, len(self._values)):
            best = self._up_to[later][last]
            for at in used:
                best = max(best, self._values[later][at])
            weakest = min(weakest, best)
            mean += self._weights[later] * best
        return WEAKEST_SHARE * weakest + (1 - WEAKEST_SHARE) * mean

    def _judge(self, used: tuple[int, ...], fit: float) -> None:
        parts = {part.ident: part for at in used if (part := self._parts[at]) is not None}
        parts |= {part.ident: part for part in self._locked}
        if frozenset(parts) in self._given:
            return
        counts = self._search.whole(self._fixed, list(parts.values()), self._limit)
        if counts is not None:
            self._best, self._least = Found(fit + self._liked, counts, frozenset(parts)), fit
