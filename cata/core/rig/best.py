"""The best rig, those that are really different, and what each budget buys: proven, and fast on a whole shelf.

Where the ways are few enough to be listed (millions), they are searched best first with a bound for each: the first rig
that comes is proven the best, and the next ones follow. Else the solver takes the whole.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace

from cata.core.rig.parts import Problem, Rig, Solved
from cata.core.rig.search import Search
from cata.core.rig.solve import LIMIT_S, best_rig, share_of
from cata.core.rig.ways import cheapest

APART = 0.25 - 1e-9
"""Rigs are really different where parts that make a quarter of the sound are others."""


TRIED_A_BUDGET = 6_000
NONE = Solved(None, 0.0, True)


@dataclass(frozen=True)
class Step:
    """What a budget buys."""

    budget_minor: int
    solved: Solved


class Finder:
    """Rigs of one problem."""

    def __init__(self, problem: Problem, *, limit_s: float = LIMIT_S) -> None:
        self._problem = cheapest(problem)
        self._limit_s = limit_s
        self._search = Search(self._problem) if Search.fits(self._problem) else None

    def best(self) -> Solved:
        """The best rig."""
        return next(iter(self.different(1)), NONE)

    def different(self, count: int) -> list[Solved]:
        """So many of the best rigs that are really different from each other, the best first."""
        return [one for _, one in zip(range(count), self._different(), strict=False)]

    def curve(self, budgets: Iterable[int]) -> list[Step]:
        """What each of some budgets buys, the smallest first."""
        steps: list[Step] = []
        last: Solved | None = None
        for budget in sorted(set(budgets), reverse=True):
            # What is best for more money and is within this is best for this too.
            if last is None or not last.proven or (last.rig is not None and last.rig.price_minor > budget):
                found = self._within(budget)
                # Less money buys no more.
                last = found if last is None else replace(found, bound=min(found.bound, last.bound))
            steps.append(Step(budget, last))
        best: Rig | None = None
        for at, step in enumerate(reversed(steps)):
            found = step.solved
            if not found.proven and best is not None and (found.rig is None or found.rig.value < best.value):
                # What less money buys, more buys too.
                steps[-1 - at] = Step(step.budget_minor, replace(found, rig=best))
            best = steps[-1 - at].solved.rig
        return steps[::-1]

    def _within(self, budget: int) -> Solved:
        if self._search is not None:
            return next(self._search.rigs(budget, TRIED_A_BUDGET), NONE)
        return best_rig(replace(self._problem, budget_minor=budget), limit_s=self._limit_s)

    def _different(self) -> Iterator[Solved]:
        found: list[Rig] = []
        if self._search is not None:
            for one in self._search.rigs(self._problem.budget_minor):
                if not one.proven:
                    break
                if one.rig is not None and all(apart(self._problem, one.rig, other) >= APART for other in found):
                    found.append(one.rig)
                    yield one
            else:
                return
        while True:
            one = best_rig(self._problem, limit_s=self._limit_s, beside=found, apart=APART)
            if one.rig is None:
                if not one.proven:
                    yield one
                return
            found.append(one.rig)
            yield one


def apart(problem: Problem, rig: Rig, other: Rig) -> float:
    """How much of the sound is made by parts of another rig that are not in this one."""
    by_ident = {part.ident: part for part in problem.parts}
    mine = {by_ident[ident].item for ident in rig.counts}
    theirs = {by_ident[ident].item: by_ident[ident].slot for ident in other.counts}
    return sum(share_of(problem, slot) for item, slot in theirs.items() if item not in mine)
