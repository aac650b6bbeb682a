"""How sure a ranking is: draws of what the readings could be, given how playing repeats and what nobody measured.

What contenders differ by in one test holds both their own differences and the scatter of the playing. Each value is
therefore drawn towards the middle of its test by the share of the spread that scatter alone explains (empirical Bayes,
Efron and Morris 1975): two takes of one thing are not told apart by chance.
"""

from __future__ import annotations

import random
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from math import isinf, sqrt
from statistics import fmean, variance

from cata.core.brief import Need, Target
from cata.core.choose.fit import fit_of, of_sound
from cata.core.choose.takes import Known, Shelf, jnd_at, key_of, slack_of

DRAWS = 400
MOST_DRAWN = 8
"""Contenders that are drawn, from the first on: those further down would not come first."""
LEVEL = 1e-9
Cell = tuple[str, str, str]
"""Test, reading, and what it is held against."""


@dataclass(frozen=True)
class Sureness:
    """``first``: share of draws in which each contender leads; ``ahead``: in which the first placed leads each one."""

    first: Mapping[int, float]
    ahead: Mapping[int, float]


class Draws:
    """Draws for some contenders, the first placed first."""

    def __init__(self, need: Need, shelf: Shelf, idents: Sequence[int], seed: int) -> None:
        self._need, self._shelf, self._seed = need, shelf, seed
        self._idents = list(idents[:MOST_DRAWN])
        asked = [
            (test, target)
            for sound in need.sounds
            if sound.weight > 0
            for test in shelf.tests_for(sound)[0]
            for target in sound.targets
        ]
        self._cells: dict[Cell, Target] = {(test, key_of(target), target.against): target for test, target in asked}
        self._shown = {cell: shelf.values(cell[0], target) for cell, target in self._cells.items()}
        known = {cell: self._found(cell, target) for cell, target in self._cells.items()}
        self._common = {cell: _common_sd(target, known[cell]) for cell, target in self._cells.items()}
        share = _theirs(known.values())
        self._known = {cell: _towards_the_middle(mine, share) for cell, mine in known.items()}

    def _found(self, cell: Cell, target: Target) -> dict[int, Known]:
        mine = {ident: self._shelf.known(ident, cell[0], target) for ident in self._idents}
        return {ident: one for ident, one in mine.items() if one is not None}

    def sureness(self, others: Mapping[int, tuple[float, float]], fit_share: float) -> Sureness:
        """How often who leads, when fit counts ``fit_share`` and what else counts lies between two values each."""
        chance = {ident: random.Random(f"{self._seed}/{ident}") for ident in self._idents}
        common = random.Random(self._seed)
        first = dict.fromkeys(self._idents, 0.0)
        ahead = dict.fromkeys(self._idents, 0.0)
        for _ in range(DRAWS):
            rough = {cell: self._roughness(cell, common) for cell in self._cells}
            moved = {cell: sd * common.gauss(0, 1) for cell, sd in self._common.items()}
            scores = {}
            for ident in self._idents:
                low, high = others[ident]
                other = low + (high - low) * chance[ident].random()
                scores[ident] = fit_share * self._fit(ident, rough, moved, chance[ident]) + (1 - fit_share) * other
            best = max(scores.values())
            leaders = [ident for ident, score in scores.items() if score > best - LEVEL]
            for ident in leaders:
                first[ident] += 1 / len(leaders) / DRAWS
            lead = scores[self._idents[0]]
            for ident, score in scores.items():
                ahead[ident] += (1.0 if lead > score + LEVEL else 0.5 if lead > score - LEVEL else 0.0) / DRAWS
        return Sureness(first, ahead)

    def _roughness(self, cell: Cell, chance: random.Random) -> float:
        """What a deviation known from few repeats is multiplied with: draws become those of a t distribution."""
        freedom = next((one.freedom for one in self._known[cell].values()), float("inf"))
        return 1.0 if isinf(freedom) else sqrt(freedom / max(chance.gammavariate(freedom / 2, 2.0), 1e-9))

    def _fit(
        self, ident: int, rough: Mapping[Cell, float], moved: Mapping[Cell, float], chance: random.Random
    ) -> float:
        drawn: dict[Cell, tuple[float, float, float]] = {}
        for cell in self._cells:
            found = self._value(ident, cell, rough[cell], chance)
            if found is not None:
                drawn[cell] = (found[0] + moved[cell], *found[1:])

        def judged(test: str, target: Target) -> float | None:
            value = drawn.get((test, key_of(target), target.against))
            return None if value is None else value[2] * fit_of(target, *value[:2])[0]

        total = sum(sound.weight for sound in self._need.sounds) or 1.0
        return sum(one.weight * of_sound(one, self._shelf, judged)[0] for one in self._need.sounds) / total

    def _value(self, ident: int, cell: Cell, rough: float, chance: random.Random) -> tuple[float, float, float] | None:
        """A value that a contender could have, what would be noticed there, and how much of its fit counts."""
        known = self._known[cell].get(ident)
        shown = self._shown[cell]
        if known is None:
            if not shown:
                return None
            value = chance.uniform(min(shown), max(shown))
            # What the others show is no bound for what nobody knows: it may be anything down to no fit at all.
            return value, jnd_at(self._cells[cell], value), chance.random()
        value = known.value + known.sd * rough * chance.gauss(0.0, 1.0)
        if known.bound == "at_most":
            value = chance.uniform(min(*shown, value), value)
        if known.bound == "at_least":
            value = chance.uniform(value, max(*shown, value))
        return value, known.jnd, 1.0


def _common_sd(target: Target, known: Mapping[int, Known]) -> float:
    """What moves all takes of a test together: the phrase, or how the reference happened to be played."""
    if target.against:
        return fmean(one.sd for one in known.values()) if known else 0.0
    return slack_of(target)


def _theirs(cells: Iterable[Mapping[int, Known]]) -> float:
    """The share of what contenders differ by, over all readings and tests, that is their own and not scatter."""
    spreads, freedom = 0.0, 0
    for known in cells:
        if len(known) > 1:
            scatter = fmean(one.sd**2 for one in known.values())
            spreads += (len(known) - 1) * variance([one.value for one in known.values()]) / scatter
            freedom += len(known) - 1
    if not freedom:
        return 1.0
    own = max(0.0, spreads / freedom - 1.0)
    return own / (own + 1.0)


def _towards_the_middle(known: Mapping[int, Known], share: float) -> dict[int, Known]:
    if len(known) < 2:
        return dict(known)
    middle = fmean(one.value for one in known.values())
    return {
        ident: replace(one, value=middle + share * (one.value - middle), sd=sqrt(share) * one.sd)
        for ident, one in known.items()
    }
