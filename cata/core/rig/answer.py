"""All that is told of the rigs of a problem: the best, how sure, what makes the sound, what money buys."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from statistics import quantiles

from cata.core.choose.next import Tells
from cata.core.rig.best import Finder, Step
from cata.core.rig.next import Counts, next_for_rig
from cata.core.rig.parts import Problem, Rig
from cata.core.rig.shares import Fits, Share, shares
from cata.core.rig.value import trimmed, worth
from cata.core.rig.wishes import Nearest, least_price, nearest_rig

LEVEL = 1e-9
NOT_WORTH = 0.01
"""A part that adds less than a point is not worth its price, whatever that is."""


@dataclass(frozen=True)
class Asked:
    """A problem, how many rigs are wanted, for which budgets, and drawings of what the parts' fits could be.

    ``counts``: how many takes there are of what could be played once more.
    """

    problem: Problem
    count: int = 10
    budgets: Sequence[int] = ()
    draws: Sequence[Fits] = ()
    counts: Counts = field(default_factory=dict)


@dataclass(frozen=True)
class Answer:
    """Rigs, the best first; ``chances``: in which share of the draws each is the best of them.

    ``spans``: between which fits nine draws in ten lie. ``nearest`` only where nothing fits. ``shares``: what each part
    of the best rig adds. ``least_minor``: below it no rig can be made.
    ``tells``: the one more take that would most likely bring another to the first place.
    """

    rigs: Sequence[Rig]
    bound: float
    proven: bool
    chances: Sequence[float]
    shares: Sequence[Share]
    curve: Sequence[Step]
    nearest: Nearest | None = None
    spans: Sequence[tuple[float, float]] = ()
    tells: Tells | None = None
    least_minor: int | None = None


def answer(asked: Asked) -> Answer:
    """All that is told of a problem."""
    finder = Finder(asked.problem)
    solved = finder.different(asked.count)
    rigs = _worth_buying(asked.problem, [one.rig for one in solved if one.rig is not None])
    curve = finder.curve(asked.budgets) if asked.budgets else []
    least = least_price(asked.problem) if asked.budgets else None
    if not rigs:
        return Answer([], 0.0, True, [], [], curve, nearest_rig(asked.problem), least_minor=least)
    drawn = _drawn(asked.problem, rigs, asked.draws)
    return Answer(
        rigs, solved[0].bound, all(one.proven for one in solved), chances(drawn, len(rigs)),
        shares(asked.problem, rigs[0], asked.draws), curve, spans=_spans(drawn, rigs),
        tells=next_for_rig(asked.problem, drawn, asked.draws, asked.counts), least_minor=least,
    )  # fmt: skip


def _worth_buying(problem: Problem, found: Sequence[Rig]) -> list[Rig]:
    """Rigs without what adds less than a point, in their order then, none twice."""
    rigs = {tuple(sorted(rig.counts.items())): rig for rig in (trimmed(problem, one, NOT_WORTH) for one in found)}
    return sorted(rigs.values(), key=lambda rig: -rig.value)


def _drawn(problem: Problem, rigs: Sequence[Rig], draws: Sequence[Fits]) -> list[list[float]]:
    """What all rigs are worth, draw by draw."""
    found = []
    for fits in draws:
        usual = {part.ident: fits.get(part.ident, part.fits) for part in problem.parts}
        found.append([worth(problem, rig.counts, usual).value for rig in rigs])
    return found


def chances(drawn: Sequence[Sequence[float]], count: int) -> list[float]:
    """In which share of the draws each of ``count`` rigs is the best of these; level ones share a draw."""
    found = [0.0] * count
    for values in drawn:
        leads = [at for at, value in enumerate(values) if value > max(values) - LEVEL]
        for at in leads:
            found[at] += 1 / len(leads) / len(drawn)
    return found


def _spans(drawn: Sequence[Sequence[float]], rigs: Sequence[Rig]) -> list[tuple[float, float]]:
    if len(drawn) < 2:
        return [(rig.fit, rig.fit) for rig in rigs]
    cut = [quantiles(values, n=20) for values in zip(*drawn, strict=True)]
    return [(one[0] - rig.liked, one[-1] - rig.liked) for one, rig in zip(cut, rigs, strict=True)]
