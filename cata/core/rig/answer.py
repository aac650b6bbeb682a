"""All that is told of the rigs of a problem: the best, how sure, what makes the sound, what money buys."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from cata.core.rig.best import Finder, Step
from cata.core.rig.parts import Problem, Rig
from cata.core.rig.shares import Fits, Share, shares
from cata.core.rig.value import worth
from cata.core.rig.wishes import Nearest, nearest_rig

LEVEL = 1e-9


@dataclass(frozen=True)
class Asked:
    """A problem, how many rigs are wanted, for which budgets, and drawings of what the parts' fits could be."""

    problem: Problem
    count: int = 10
    budgets: Sequence[int] = ()
    draws: Sequence[Fits] = ()


@dataclass(frozen=True)
class Answer:
    """Rigs, the best first; ``chances``: in which share of the draws each is the best of them.

    ``nearest`` only where nothing fits. ``shares``: what each part of the best rig adds.
    """

    rigs: Sequence[Rig]
    bound: float
    proven: bool
    chances: Sequence[float]
    shares: Sequence[Share]
    curve: Sequence[Step]
    nearest: Nearest | None = None


def answer(asked: Asked) -> Answer:
    """All that is told of a problem."""
    finder = Finder(asked.problem)
    solved = finder.different(asked.count)
    rigs = [one.rig for one in solved if one.rig is not None]
    curve = finder.curve(asked.budgets) if asked.budgets else []
    if not rigs:
        return Answer([], 0.0, True, [], [], curve, nearest_rig(asked.problem))
    return Answer(
        rigs, solved[0].bound, all(one.proven for one in solved), chances(asked.problem, rigs, asked.draws),
        shares(asked.problem, rigs[0], asked.draws), curve,
    )  # fmt: skip


def chances(problem: Problem, rigs: Sequence[Rig], draws: Sequence[Fits]) -> list[float]:
    """In which share of the draws each rig is the best of these; level ones share a draw."""
    found = [0.0] * len(rigs)
    for fits in draws:
        usual = {part.ident: fits.get(part.ident, part.fits) for part in problem.parts}
        values = [worth(problem, rig.counts, usual).fit for rig in rigs]
        leads = [at for at, value in enumerate(values) if value > max(values) - LEVEL]
        for at in leads:
            found[at] += 1 / len(leads) / len(draws)
    return found
