"""How sure a ranking is: draws of what the readings could be, given how playing repeats and what nobody measured.

What contenders differ by in one sound holds both their own differences and the scatter of the playing. Each value is
therefore drawn towards the middle of all by the share of the spread that scatter alone explains (empirical Bayes,
Efron and Morris 1975): two takes of one thing are not told apart by chance.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from math import isinf
from typing import Any

import numpy as np
import numpy.typing as npt

from cata.core.brief import Need, Sound, Target
from cata.core.choose.fit import halves_of
from cata.core.choose.takes import Ground, key_of

DRAWS = 2000
MET_WHOLE = 1 / 3
"""How often a range is met whole of which nobody knows anything."""
LEVEL, RIDGE = 1e-6, 1e-9
"""Single precision tells no less apart."""
MOST_IDENTS = 2**53
"""Seeds are not negative; contenders that are no items have negative numbers."""
Floats = npt.NDArray[np.floating[Any]]
Cell = tuple[str, str, str]
"""Sound, reading, and what it is held against."""
Curve = tuple[float | None, ...]
"""All of a range that draws depend on: not how much it counts."""


@dataclass(frozen=True)
class Sureness:
    """``first``: share of draws in which each contender leads; ``ahead``: in which the first placed leads each one.

    ``spans``: between what fits nine draws in ten lie.
    """

    first: Mapping[int, float]
    ahead: Mapping[int, float]
    spans: Mapping[int, tuple[float, float]]


@dataclass(frozen=True)
class Showing:
    """What some contenders show of a cell: where those that show it stand among all, their means and covariance."""

    at: npt.NDArray[np.intp]
    mean: Floats
    cov: Floats
    jnd: Floats
    bounds: Sequence[str | None]
    freedom: float
    shown: Sequence[float]
    common_sd: float

    @property
    def scatter(self) -> float:
        """Variance of what two of them differ by, by chance alone."""
        count = len(self.at)
        return max(float(np.trace(self.cov) - self.cov.sum() / count) / (count - 1), 1e-18)

    @property
    def spread(self) -> float:
        """Variance of what they were seen to differ by."""
        return float(np.var(self.mean, ddof=1))


class Draws:
    """What the contenders could fit by, in so many draws; the first placed first."""

    def __init__(self, need: Need, ground: Ground, idents: Sequence[int], seed: int, count: int = DRAWS) -> None:
        self._need, self._ground, self._given, self._seed = need, ground, list(idents), seed
        self._count = count
        # In one order whoever leads, so that the same draws can be used again where only weights changed.
        self._idents = sorted(self._given)
        self._order = [self._idents.index(ident) for ident in self._given]
        ranges: dict[tuple[Cell, Curve], Target] = {
            (cell_of(sound, target), _curve(target)): target
            for sound in need.sounds
            if sound.weight > 0
            for target in sound.targets
        }
        self._rows = {one: row for row, one in enumerate(ranges)}
        key = (ground.standing, *self._idents, *ranges)
        # Somebody else may draw from the same ground meanwhile: a ranking and a rig each have their own.
        before, known = ground.drawn.get((seed, count), (None, None))
        if known is None or before != key:
            known = self._draw(ranges)
            ground.drawn[seed, count] = key, known
        self._fits: Floats = known

    def _draw(self, ranges: Mapping[tuple[Cell, Curve], Target]) -> Floats:
        """The fits of all contenders to all ranges, shape (ranges, contenders, draws)."""
        asked: dict[Cell, list[Target]] = {}
        for (cell, _), target in ranges.items():
            asked.setdefault(cell, []).append(target)
        showings = {cell: self._showing(cell, mine[0]) for cell, mine in asked.items()}
        own = _theirs(showings.values())
        self._common = np.random.default_rng([self._seed])
        # Each has a stream of its own, so that what is drawn of one does not depend on who else there is.
        self._own = [np.random.default_rng([self._seed, ident + MOST_IDENTS]) for ident in self._idents]
        fits = np.zeros((len(ranges), len(self._idents), self._count), dtype=np.float32)
        for cell, mine in asked.items():
            # A sound may ask twice of one reading: what is found is one thing, held against each range.
            rows = {_curve(target): self._rows[cell, _curve(target)] for target in mine}
            self._drawn(mine, [fits[rows[_curve(target)]] for target in mine], showings[cell], own)
        return fits

    def _showing(self, cell: Cell, target: Target) -> Showing:
        sound = cell[0]
        found = [(at, self._ground.known(ident, sound, target)) for at, ident in enumerate(self._idents)]
        known = [(at, one) for at, one in found if one is not None]
        idents = [self._idents[at] for at, _ in known]
        together = self._ground.covariance(idents, sound, target) if known else None
        return Showing(
            at=np.array([at for at, _ in known], dtype=np.intp),
            mean=np.array([one.value for _, one in known]),
            cov=np.diag([one.sd**2 for _, one in known]) if together is None else np.array(together),
            jnd=np.array([one.jnd for _, one in known]),
            bounds=[one.bound for _, one in known],
            freedom=known[0][1].freedom if known else float("inf"),
            shown=self._ground.values(sound, target),
            common_sd=self._ground.common_sd([one for _, one in known], target),
        )

    def _drawn(self, targets: Sequence[Target], fits: Sequence[Floats], one: Showing, own: float | None) -> None:
        """Fill in the fits of every contender to some ranges on one thing, shape (contenders, draws) each."""
        rough = self._roughness(one.freedom)
        moved = (one.common_sd * self._common.standard_normal(self._count)).astype(np.float32)
        if len(one.at):
            mean, factor = _towards_the_middle(one, own)
            free = np.empty((len(one.at), self._count), dtype=np.float32)
            for row, at in zip(free, one.at, strict=True):
                self._own[at].standard_normal(dtype=np.float32, out=row)
            values = factor.astype(np.float32) @ free if factor.ndim == 2 else factor[:, None].astype(np.float32) * free
            values *= rough
            values += mean[:, None].astype(np.float32)
            for place, bound in enumerate(one.bounds):
                if bound is not None:
                    drawn = values[place]
                    end = min(*one.shown, mean[place]) if bound == "at_most" else max(*one.shown, mean[place])
                    values[place] = drawn + (end - drawn) * self._own[one.at[place]].random(self._count)
            values += moved
            for target, mine in zip(targets, fits, strict=True):
                halves = np.array([halves_of(target, jnd) for jnd in one.jnd]).reshape(-1, 2).T
                mine[one.at] = fits_of(target, values, halves)
        for at in set(range(len(self._idents))) - set(one.at.tolist()):
            if len(one.shown) < 2:
                # Nobody to go by: how well it fits is open, and so is who would be ahead.
                met = _anything(self._own[at], self._count)
                for mine in fits:
                    mine[at] = met
                continue
            value = (self._like_the_others(one.shown, self._own[at]) + moved)[None]
            usual = self._ground.jnd(targets[0], float(np.mean(one.shown)))
            for target, mine in zip(targets, fits, strict=True):
                mine[at] = fits_of(target, value, np.array(halves_of(target, usual))[:, None])[0]

    def _like_the_others(self, shown: Sequence[float], chance: np.random.Generator) -> Floats:
        """What one may show of which nobody knows it: one more of those that are known, and they are few.

        The predictive distribution of a normal sample (Student's t; Gelman et al., Bayesian Data Analysis, 3.2).
        """
        count = len(shown)
        sd = float(np.std(shown, ddof=1)) * np.sqrt(1 + 1 / count)
        found: Floats = (np.mean(shown) + sd * chance.standard_t(count - 1, self._count)).astype(np.float32)
        return found

    def _roughness(self, freedom: float) -> Floats:
        """What a deviation known from few repeats is multiplied with: draws become those of a t distribution."""
        if isinf(freedom):
            return np.ones(self._count, dtype=np.float32)
        drawn: Floats = np.sqrt(freedom / np.maximum(2 * self._common.gamma(freedom / 2, size=self._count), 1e-9))
        return drawn.astype(np.float32)

    @property
    def fits(self) -> Floats:
        """How well each contender meets the whole need, shape (contenders, draws), 0 to 1."""
        total = sum(sound.weight for sound in self._need.sounds) or 1.0
        fits = np.zeros((len(self._idents), self._count), dtype=np.float32)
        for sound, drawn in self.of_sounds():
            fits += np.float32(sound.weight / total) * drawn
        return fits

    def of_sounds(self, first: int | None = None) -> Iterable[tuple[Sound, Floats]]:
        """How well each of the ``first`` contenders meets each sound that counts, shape (contenders, draws)."""
        few = self._order[:first]
        for sound in self._need.sounds:
            if sound.weight > 0 and first is None:
                yield sound, self._of_sound(sound, self._fits)[few]
            elif sound.weight > 0:
                yield sound, self._of_sound(sound, self._fits[:, few])

    def _of_sound(self, sound: Sound, drawn: Floats) -> Floats:
        total = sum(target.weight for target in sound.targets)
        if total <= 0:
            return np.zeros(drawn.shape[1:], dtype=np.float32)
        weights = np.array([target.weight / total for target in sound.targets], dtype=np.float32)
        rows = [self._rows[cell_of(sound, target), _curve(target)] for target in sound.targets]
        in_row = rows == list(range(rows[0], rows[0] + len(rows)))
        mine = drawn[rows[0] : rows[-1] + 1] if in_row else drawn[rows]
        met, off = np.tensordot(weights, mine, 1), self._ground.off(sound)
        return met if off is None else np.maximum(met, np.float32(off))

    def sureness(self, others: Mapping[int, tuple[float, float]], fit_share: float) -> Sureness:
        """How often who leads, when fit counts ``fit_share`` and what else counts lies between two values each."""
        fits = self.fits
        scores = np.float32(fit_share) * fits
        for at, ident in enumerate(self._given):
            low, high = others[ident]
            scores[at] += (1 - fit_share) * low
            if low < high:
                chance = np.random.default_rng([self._seed, ident + MOST_IDENTS, 1])
                scores[at] += (1 - fit_share) * (high - low) * chance.random(self._count)
        leads = scores >= scores.max(axis=0) - LEVEL
        first = leads @ (1.0 / leads.sum(axis=0)) / self._count
        gap = scores[0] - scores
        ahead = (np.count_nonzero(gap > LEVEL, axis=1) + np.count_nonzero(gap >= -LEVEL, axis=1)) / (2 * self._count)
        low, high = np.quantile(fits, (0.05, 0.95), axis=1).tolist()
        idents = self._given
        return Sureness(
            dict(zip(idents, first.tolist(), strict=True)),
            dict(zip(idents, ahead.tolist(), strict=True)),
            dict(zip(idents, zip(low, high, strict=True), strict=True)),
        )


def _anything(chance: np.random.Generator, count: int) -> Floats:
    """Fits of what nobody knows: a range is met whole in a third of cases, else anything down to no fit at all."""
    return np.minimum(chance.random(count, dtype=np.float32) * np.float32(1 / (1 - MET_WHOLE)), np.float32(1.0))


def cell_of(sound: Sound, target: Target) -> Cell:
    """What a target asks of a sound."""
    return sound.key, key_of(target), target.against


def _curve(target: Target) -> Curve:
    return target.low, target.high, target.soft_low, target.soft_high


def fits_of(target: Target, values: Floats, halves: Floats) -> Floats:
    """Fit to a range, as :func:`cata.core.choose.fit.fit_of` has it; ``halves`` below and above by contender."""
    missed = np.zeros_like(values)
    halves = halves.astype(values.dtype)
    if target.low is not None:
        missed += np.maximum(0, values.dtype.type(target.low) - values) / halves[0][:, None]
    if target.high is not None:
        missed += np.maximum(0, values - values.dtype.type(target.high)) / halves[1][:, None]
    missed *= missed
    missed += 1
    return np.reciprocal(missed, out=missed)


def _theirs(showings: Iterable[Showing]) -> float | None:
    """How much more than scatter contenders differ by, over all readings and tests; None where nobody can tell."""
    spreads, freedom = 0.0, 0
    for one in showings:
        if len(one.at) > 1:
            spreads += (len(one.at) - 1) * one.spread / one.scatter
            freedom += len(one.at) - 1
    return max(0.0, spreads / freedom - 1.0) if freedom else None


def _towards_the_middle(one: Showing, own: float | None) -> tuple[Floats, Floats]:
    """Means and a factor of the covariance (its diagonal where that is all); own variance ``own`` times the scatter."""
    if len(one.at) < 2 or own is None:
        return one.mean, _factor(one.cov)
    theirs, count = own * one.scatter, len(one.at)
    if theirs <= 0.0:
        # Nothing tells them apart: all are the middle, which is as sure as all of them together.
        weights = np.linalg.solve(one.cov + RIDGE * np.trace(one.cov) / count * np.eye(count), np.ones(count))
        sure = float(weights.sum())
        return np.full(count, weights @ one.mean / sure), _factor(np.full((count, count), 1.0 / sure))
    inverse = np.linalg.inv(theirs * np.eye(count) + one.cov)
    gain, sure = theirs * inverse, float(inverse.sum())
    middle = float(inverse.sum(axis=0) @ one.mean) / sure
    # Where the middle lies is not known either; it moves most what is drawn to it most.
    drawn_to = 1.0 - gain.sum(axis=1)
    return middle + gain @ (one.mean - middle), _factor(gain @ one.cov + np.outer(drawn_to, drawn_to) / sure)


def _factor(cov: Floats) -> Floats:
    """A square root of a covariance that may be singular; of one that is diagonal only its diagonal."""
    if np.count_nonzero(cov) <= len(cov):
        return np.sqrt(np.maximum(np.diag(cov), 0.0))
    values, vectors = np.linalg.eigh((cov + cov.T) / 2)
    # The symmetric root: which way an eigenvector points, and how those of one value lie, is chance.
    root: Floats = (vectors * np.sqrt(np.maximum(values, 0.0))) @ vectors.T
    return root
