"""Where nothing fits: the fewest wishes to drop so that something does, and the nearest rig."""

from __future__ import annotations

from dataclasses import dataclass, replace

from cata.core.rig.best import Finder
from cata.core.rig.parts import BUDGET, Problem, Solved
from cata.core.rig.solve import LIMIT_S, counts_of, model_of, price_terms
from cata.core.rig.value import price_of

PER_OVERSPENT = 0.5
"""Of two sets of wishes as small the one with the budget in it counts so much more, at twice the budget."""


def least_price(problem: Problem, *, limit_s: float = LIMIT_S) -> int | None:
    """What the cheapest rig costs that is allowed, whatever can be spent; None where there is none."""
    model = model_of(replace(problem, budget_minor=None))
    model.gain = [0.0] * len(model.gain)
    for at, price in price_terms(model).items():
        model.gain[at] = -price
    values, _, _ = model.solve(limit_s)
    return None if values is None else price_of(problem, counts_of(model, values))


@dataclass(frozen=True)
class Nearest:
    """The fewest wishes that have to go, what is then the best rig, and by how much it is over the budget."""

    dropped: frozenset[str]
    solved: Solved
    over_minor: int


def nearest_rig(problem: Problem, *, limit_s: float = LIMIT_S) -> Nearest | None:
    """The rig that comes nearest to all wishes; None where no dropping helps (a slot that nothing fills, a lock)."""
    wishes = problem.wishes
    model = model_of(replace(problem, dropped=problem.dropped | frozenset(wishes)))
    model.gain = [0.0] * len(model.gain)
    dropped = {wish: model.column(-1.0, whole=True) for wish in wishes}
    for part in problem.parts:
        for wish in part.fails - problem.dropped:
            model.row({model.inside[part.ident]: 1.0, dropped[wish]: -1.0}, high=0.0)
    if BUDGET in dropped and problem.budget_minor is not None:
        dearest = float(sum(part.price_minor * part.stock for part in problem.parts) + 1)
        over = model.column(-PER_OVERSPENT / max(1, problem.budget_minor), high=dearest)
        model.row(price_terms(model) | {over: -1.0}, high=float(problem.budget_minor))
        model.row({over: 1.0, dropped[BUDGET]: -dearest}, high=0.0)
    values, _, _ = model.solve(limit_s)
    if values is None:
        return None
    gone = frozenset(wish for wish, at in dropped.items() if values[at] > 0.5)
    least = price_of(problem, counts_of(model, values))
    freed = replace(problem, dropped=problem.dropped | (gone - {BUDGET}))
    if BUDGET in gone:
        freed = replace(freed, budget_minor=least)
    over_minor = max(0, least - problem.budget_minor) if BUDGET in gone and problem.budget_minor is not None else 0
    return Nearest(gone, Finder(freed, limit_s=limit_s).best(), over_minor)
