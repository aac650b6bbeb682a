"""Which is liked more: pairs, one after another, ranked by how often each is chosen.

Bradley and Terry (1952) with ties after Davidson (1970): what is liked more by ``d`` is chosen with the odds
``exp(d)``, and near likings are often called the same. How far likings spread is not known beforehand and drawn with
them, so that few answers say little. Which pair comes next is where an answer would tell most.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import combinations
from random import Random
from typing import Any

import numpy as np
import numpy.typing as npt

from cata.said import Said, said

Floats = npt.NDArray[np.floating[Any]]

SPREADS = (0.15, 0.35, 0.7, 1.2, 2.0, 3.2, 5.0)
"""Standard deviations of liking that are thought possible, each as likely as the others."""
TIE_PRIOR = (-0.7, 1.0)
"""Mean and standard deviation of the logarithm of how readily somebody calls two the same."""
DRAWS_EACH, FREEDOM = 1_500, 6.0
CLAIM = 0.9
SURE = 0.95
STEPS = 25


@dataclass(frozen=True)
class Choice:
    """One answer: of two contenders the first heard, the second, or neither (None) was preferred."""

    first: int
    second: int
    preferred: int | None

    @property
    def tie(self) -> bool:
        """True where neither was preferred."""
        return self.preferred is None


@dataclass(frozen=True)
class Liked:
    """What answers say of ``idents``: draws (draws, contenders) of how much each is liked, all equally likely."""

    idents: tuple[int, ...]
    draws: Floats

    @cached_property
    def ranks(self) -> npt.NDArray[np.intp]:
        """The place of each in each draw, from 1."""
        return np.asarray((-self.draws).argsort(axis=1).argsort(axis=1) + 1)

    @cached_property
    def order(self) -> tuple[int, ...]:
        """From the most liked to the least, on average."""
        return tuple(self.idents[at] for at in np.argsort(self.ranks.mean(axis=0), kind="stable"))

    def first(self, ident: int) -> float:
        """In which share of draws somebody is the most liked."""
        return float((self.ranks[:, self.idents.index(ident)] == 1).mean())

    def ahead(self, one: int, other: int) -> float:
        """In which share of draws one is liked more than another."""
        at, there = self.idents.index(one), self.idents.index(other)
        return float((self.draws[:, at] > self.draws[:, there]).mean())

    @cached_property
    def spans(self) -> dict[int, tuple[int, int]]:
        """Between which places each stands: the whole order lies within all of them together in nine of ten draws."""
        count, (low, high) = len(self.idents), (0.0, 1.0)
        ranks, best = self.ranks, (np.ones(len(self.idents)), np.full(len(self.idents), len(self.idents)))
        if count < 2:
            return dict.fromkeys(self.idents, (1, count))
        for _ in range(STEPS):
            tail = (low + high) / 2
            ends = (
                np.quantile(ranks, tail / 2, axis=0, method="inverted_cdf"),
                np.quantile(ranks, 1 - tail / 2, axis=0, method="inverted_cdf"),
            )
            held = ((ranks >= ends[0]) & (ranks <= ends[1])).all(axis=1).mean()
            if held >= CLAIM:
                low, best = tail, ends
            else:
                high = tail
        return {ident: (int(best[0][at]), int(best[1][at])) for at, ident in enumerate(self.idents)}


def liked(idents: Sequence[int], choices: Sequence[Choice], seed: int = 1) -> Liked:
    """How much each is liked, by all that was answered (importance sampling around the mode for every spread)."""
    chance = np.random.default_rng(seed)
    place = {ident: at for at, ident in enumerate(idents)}
    pairs, outcome = _asked(place, choices)
    ties = any(one.tie for one in choices)
    drawn, weights = [], []
    for spread in SPREADS:
        mode, cov = _mode(len(idents), pairs, outcome, spread, ties=ties)
        root = np.linalg.cholesky(cov)
        free = chance.standard_normal((DRAWS_EACH, len(mode))) / np.sqrt(
            chance.chisquare(FREEDOM, (DRAWS_EACH, 1)) / FREEDOM
        )
        values = mode + free @ root.T
        proposed = -(FREEDOM + len(mode)) / 2 * np.log1p((free**2).sum(axis=1) / FREEDOM) - np.log(np.diag(root)).sum()
        drawn.append(values[:, : len(idents)])
        weights.append(_posterior(values, pairs, outcome, len(idents), spread, ties=ties) - proposed)
    log = np.concatenate(weights)
    share = np.exp(log - log.max())
    chosen = chance.choice(len(share), size=4 * DRAWS_EACH, p=share / share.sum())
    return Liked(tuple(idents), np.concatenate(drawn)[chosen])


def _asked(place: dict[int, int], choices: Sequence[Choice]) -> tuple[npt.NDArray[np.intp], npt.NDArray[np.intp]]:
    """Pairs (answers, 2) by place, and what was answered: 0 the first, 1 the second, 2 neither."""
    pairs = np.array([(place[one.first], place[one.second]) for one in choices], dtype=np.intp).reshape(-1, 2)
    answers = [2 if one.tie else int(one.preferred == one.second) for one in choices]
    return pairs, np.array(answers, dtype=np.intp)


def _chances(values: Floats, pairs: npt.NDArray[np.intp], count: int, *, ties: bool) -> Floats:
    """Logarithms of the chances of the three answers, (draws, answers, 3)."""
    half = (values[:, pairs[:, 0]] - values[:, pairs[:, 1]]) / 2
    same = np.broadcast_to(values[:, count, None], half.shape) if ties else np.full_like(half, -np.inf)
    scores = np.stack([half, -half, same], axis=-1)
    return np.asarray(scores - np.logaddexp(np.logaddexp(half, -half), same)[..., None])


def _posterior(
    values: Floats, pairs: npt.NDArray[np.intp], outcome: npt.NDArray[np.intp], count: int, spread: float, *, ties: bool
) -> Floats:
    # Only of what was answered: all three answers of every draw would take three times as long.
    half = (values[:, pairs[:, 0]] - values[:, pairs[:, 1]]) / 2
    whole = np.abs(half) + np.log1p(np.exp(-2 * np.abs(half)))
    given = half * np.choose(outcome, (1.0, -1.0, 0.0))
    if ties:
        same = values[:, count, None]
        whole = np.logaddexp(whole, same)
        given = given + same * (outcome == 2)
    told = (given - whole).sum(axis=1)
    prior = -0.5 * (values[:, :count] ** 2).sum(axis=1) / spread**2 - count * np.log(spread)
    if ties:
        prior = prior - 0.5 * ((values[:, count] - TIE_PRIOR[0]) / TIE_PRIOR[1]) ** 2
    return np.asarray(told + prior)


def _mode(
    count: int, pairs: npt.NDArray[np.intp], outcome: npt.NDArray[np.intp], spread: float, *, ties: bool
) -> tuple[Floats, Floats]:
    """Where the posterior is highest, and its inverse curvature there (Newton; its logarithm is concave)."""
    size = count + ties
    features = np.zeros((len(pairs), 3, size))
    rows = np.arange(len(pairs))
    for answer, sign in ((0, 0.5), (1, -0.5)):
        features[rows, answer, pairs[:, 0]] += sign
        features[rows, answer, pairs[:, 1]] -= sign
    middle, precision = np.zeros(size), np.full(size, spread**-2)
    if ties:
        features[:, 2, count] = 1.0
        middle[count], precision[count] = TIE_PRIOR[0], TIE_PRIOR[1] ** -2
    mode = middle.copy()
    for _ in range(STEPS):
        chances = np.exp(_chances(mode[None], pairs, count, ties=ties)[0])
        mean = np.einsum("pa,pas->ps", chances, features)
        slope = (features[rows, outcome] - mean).sum(axis=0) - precision * (mode - middle)
        curve = np.einsum("pa,pas,pat->st", chances, features, features) - mean.T @ mean + np.diag(precision)
        step = np.linalg.solve(curve, slope)
        mode = mode + step * min(1.0, 2.0 / max(float(np.abs(step).max()), 1e-12))
        if float(np.abs(step).max()) < 1e-9:
            break
    return mode, np.asarray(np.linalg.inv(curve))


def next_pair(idents: Sequence[int], choices: Sequence[Choice], chance: Random) -> tuple[int, int]:
    """The pair whose answer would tell most of the order, in the sequence that keeps each as often first as second.

    What it would tell is how open the answer is, times how little is known of the difference; of level ones that
    which was asked least, then by chance.
    """
    asked = dict.fromkeys(combinations(sorted(idents), 2), 0)
    firsts = dict.fromkeys(idents, 0)
    for given in choices:
        asked[min(given.first, given.second), max(given.first, given.second)] += 1
        firsts[given.first] += 1
    least = min(asked.values())
    open_pairs = [pair for pair, times in asked.items() if times == least] if least == 0 else list(asked)
    now = liked(idents, choices, seed=len(choices))
    tells = {}
    for pair in open_pairs:
        ahead = now.ahead(*pair)
        tells[pair] = round(ahead * (1 - ahead) / (1 + asked[pair]), 4)
    best = max(tells.values())
    one, other = chance.choice([pair for pair, value in tells.items() if value >= best])
    if firsts[one] == firsts[other]:
        return (one, other) if chance.random() < 0.5 else (other, one)
    return (one, other) if firsts[one] < firsts[other] else (other, one)


def circular(idents: Sequence[int], choices: Sequence[Choice]) -> list[tuple[int, int, int]]:
    """Triples of which each was preferred to the next and the last to the first, by most answers (Kendall 1940)."""
    won: dict[tuple[int, int], int] = {}
    for one in choices:
        if one.preferred is not None:
            loser = one.second if one.preferred == one.first else one.first
            won[one.preferred, loser] = won.get((one.preferred, loser), 0) + 1

    def beats(one: int, other: int) -> bool:
        return won.get((one, other), 0) > won.get((other, one), 0)

    return [
        (a, *pair)
        for a, b, c in combinations(sorted(idents), 3)
        for pair in ((b, c), (c, b))
        if beats(a, pair[0]) and beats(pair[0], pair[1]) and beats(pair[1], a)
    ]


def told(now: Liked, names: dict[int, str], answers: int) -> Said:
    """Which is preferred, as far as answers say."""
    best, *others = now.order
    share = now.first(best)
    if share >= SURE:
        words = "{name} is preferred: first in {of_100:.0f} of 100 orders that {answers} answers leave open."
        return said("preferred", words, name=names[best], of_100=100 * share, answers=answers)
    level = [names[ident] for ident in (best, *others) if now.ahead(best, ident) < SURE]
    if len(level) == len(names):
        words = "No favourite: after {answers} answers any of them may be the most liked."
        return said("no_favourite", words, answers=answers)
    least = ", ".join(names[ident] for ident in others if now.ahead(best, ident) >= SURE)
    words = "No single favourite: {level} may each be the most liked; {best} is liked more than {least}."
    return said("some_favourites", words, level=", ".join(level), best=names[best], least=least)


def agreement(by_taster: Sequence[Sequence[Choice]]) -> tuple[int, int]:
    """Of how many comparisons of the same pair by two tasters, both with a preference, how many agree."""
    preferred: list[dict[tuple[int, int], int]] = []
    for choices in by_taster:
        mine: dict[tuple[int, int], int] = {}
        for one in choices:
            pair = min(one.first, one.second), max(one.first, one.second)
            mine[pair] = mine.get(pair, 0) + (0 if one.tie else 1 if one.preferred == pair[0] else -1)
        preferred.append({pair: value for pair, value in mine.items() if value})
    same = of = 0
    for first, second in combinations(preferred, 2):
        for pair in first.keys() & second.keys():
            of += 1
            same += (first[pair] > 0) == (second[pair] > 0)
    return same, of
