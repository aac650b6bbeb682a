"""Words as people use them: what a person means by one, learnt from takes that were pointed at and from notes.

A person says of a take that it is boxy, or that it is not. Where takes lie along the readings, against the others of
their test, and what was said of them, is a logistic regression; where it begins is what the word usually stands for
(:mod:`cata.core.vocabulary.words`), and how far people depart from that is its prior. What comes out is a direction
with its doubt (Laplace's approximation: MacKay 1992), so that little teaching changes little and is sure of little.
Some people mean something else entirely: both are fitted, and each counts by its evidence.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import erf, sqrt
from typing import Any

import numpy as np
import numpy.typing as npt

from cata.core.comparison import sds_among
from cata.core.measure.registry import BY_KEY
from cata.core.vocabulary.leaning import HEARD_STEPS, KNOWN_SHARE, Lying, capped, step_of
from cata.core.vocabulary.words import KEYS, Word
from cata.said import Said, said

Floats = npt.NDArray[np.floating[Any]]
PER_STEP = 0.8
"""How fast, per noticed step, people begin to say a word (log odds)."""
OWN_SD, OTHER_SD = 0.4, 0.2
"""How far people depart from what a word usually stands for: along its readings, and along others."""
MEANS_ELSE, ELSE_SD = 0.2, 0.4
"""How many mean something else by it, and how much a reading then counts."""
FROM, FROM_SD = 1.0, 1.0
"""From how many steps on a word is said, in log odds, and how far people differ in that."""
SWEEPS, SMALL = 30, 1e-6
FEWEST = 4
SURE = 0.9
"""Of a word as people use it something is said where that is right nine times in ten: teaching never ends."""
NAMED = 4
LEADS_SDS = 1.0
"""A reading is named as part of a word where it is so many standard deviations from nothing."""


@dataclass(frozen=True)
class Example:
    """A take of which a word was said, or denied: by reading, how far it lies from the others of its test."""

    off: Mapping[str, float]
    said: bool


@dataclass(frozen=True)
class Part:
    """What a reading counts in a word as it is used: per noticed step, and the standard deviation of that."""

    key: str
    weight: float
    sd: float

    @property
    def words(self) -> str:
        """Which way it goes: "harsher", "less lows"."""
        key, _, part = self.key.partition(".")
        reading = BY_KEY[key]
        way = reading.more if self.weight > 0 else reading.less
        return f"{way} {dict(reading.parts)[part].partition(',')[0]}" if way in ("more", "less") else way


@dataclass(frozen=True)
class Learned:
    """A word as it is used: log odds per step of every reading of ``KEYS``, from where on it is said, and their doubt.

    ``of``: takes that it was learnt from.
    """

    word: Word
    mean: Floats
    starts: float
    cov: Floats
    of: int

    @property
    def parts(self) -> tuple[Part, ...]:
        """The readings that it leans on, the heaviest first."""
        sds = np.sqrt(np.diag(self.cov))
        found = [Part(key, float(w), float(sd)) for key, w, sd in zip(KEYS, self.mean, sds, strict=True)]
        leads = (one for one in found if abs(one.weight) > LEADS_SDS * one.sd)
        return tuple(sorted(leads, key=lambda one: -abs(one.weight)))

    def said_of(self, off: Mapping[str, float]) -> bool:
        """True where it would be said of a take more likely than not."""
        return float(self.mean @ _steps(off)) > self.starts

    def steps(self, off: Mapping[str, float]) -> float | None:
        """How much of it is in something, in noticed steps along it; None where too little of the word is known."""
        known = np.array([key in off for key in KEYS])
        there, whole = (float(np.linalg.norm(one)) for one in (self.mean[known], self.mean))
        if not whole or there < KNOWN_SHARE * whole:
            return None
        return float(self.mean @ _steps(off)) / there

    def more(self, one: Lying, other: Lying) -> float:
        """The chance that one thing has more of it than another, when both are played again; a half where unknown."""
        weights, apart, again = self._between(one, other)
        spread = float(apart @ self.cov @ apart) + again
        return 0.5 * (1 + erf(float(weights @ apart) / sqrt(2 * max(spread, 1e-12))))

    def _between(self, one: Lying, other: Lying) -> tuple[Floats, Floats, float]:
        """What counts of two things, how far they lie apart, and the variance that playing them again gives that."""
        both = np.array([key in one.off and key in other.off for key in KEYS])
        weights = np.where(both, self.mean, 0.0)
        apart = np.where(both, _steps(one.off) - _steps(other.off), 0.0)
        again = np.array([one.sd_steps(key) ** 2 + other.sd_steps(key) ** 2 for key in KEYS])
        return weights, apart, float(weights**2 @ again)

    def certainly(self, one: Lying, other: Lying, among: int) -> bool:
        """True where one thing has heard and certainly more of it than another, among so many."""
        mine, its = self.steps(one.off), self.steps(other.off)
        if mine is None or its is None or mine - its < HEARD_STEPS:
            return False
        weights, apart, again = self._between(one, other)
        return float(weights @ apart) >= sds_among(among) * sqrt(again) and self.more(one, other) >= SURE


def learn(word: Word, examples: Sequence[Example]) -> Learned:
    """A word as it is used by whoever said this of these takes."""
    usual, sds = _usual(word)
    rows = np.array([[*_steps(one.off), -1.0] for one in examples]).reshape(len(examples), len(usual))
    said = np.array([one.said for one in examples], dtype=float)
    # Most mean nearly what others do; some mean something else by it.
    else_mean, else_sds = np.append(np.zeros(len(KEYS)), FROM), np.append(np.full(len(KEYS), ELSE_SD), FROM_SD)
    fits = [_fit(rows, said, usual, sds), _fit(rows, said, else_mean, else_sds)]
    logs = np.log([1 - MEANS_ELSE, MEANS_ELSE]) + np.array([fit.evidence for fit in fits])
    shares = np.exp(logs - logs.max())
    shares /= shares.sum()
    at = sum(share * fit.at for share, fit in zip(shares, fits, strict=True))
    cov = sum(share * (fit.cov + np.outer(fit.at - at, fit.at - at)) for share, fit in zip(shares, fits, strict=True))
    return Learned(word, at[:-1], float(at[-1]), cov[:-1, :-1], len(examples))


@dataclass(frozen=True)
class _Fit:
    """A logistic regression with a normal prior: where it peaks, its curvature turned over, and its log evidence."""

    at: Floats
    cov: Floats
    evidence: float


def _fit(rows: Floats, said: Floats, mean: Floats, sds: Floats) -> _Fit:
    precision, at = np.diag(1 / sds**2), mean
    for _ in range(SWEEPS):
        odds = _chance(rows @ at)
        slope = rows.T @ (said - odds) - precision @ (at - mean)
        move = np.linalg.solve(_bend(rows, odds) + precision, slope)
        at = at + move
        if np.abs(move).max() < SMALL:
            break
    odds = np.clip(_chance(rows @ at), 1e-9, 1 - 1e-9)
    cov = np.linalg.inv(_bend(rows, odds) + precision)
    off = (at - mean) / sds
    fits = float(np.sum(said * np.log(odds) + (1 - said) * np.log(1 - odds)) - 0.5 * off @ off)
    return _Fit(at, cov, fits - float(np.log(sds).sum()) + 0.5 * float(np.linalg.slogdet(cov)[1]))


def agreeing(word: Word, examples: Sequence[Example]) -> int | None:
    """Of how many takes was said what those that are left would have it; None below four."""
    if len(examples) < FEWEST:
        return None
    rest = ([*examples[:at], *examples[at + 1 :]] for at in range(len(examples)))
    return sum(learn(word, others).said_of(one.off) == one.said for others, one in zip(rest, examples, strict=True))


def told_learned(one: Learned, foretold: int | None) -> Said:
    """What a word leans on as it is used, and how well that holds."""
    signs = [part.words for part in one.parts[:NAMED]]
    words = "Learnt from {takes}: {lean}." if signs else "Learnt from {takes}: it leans on nothing for sure yet."
    if foretold is not None:
        words += " Each foretold by the others: {foretold} of {of} right."
    takes = "one take" if one.of == 1 else f"{one.of} takes"
    return said("learned", words, takes=takes, lean=", ".join(signs), foretold=foretold or 0, of=one.of)


def _usual(word: Word) -> tuple[Floats, Floats]:
    signs = np.array([word.signs.get(key, 0.0) for key in KEYS])
    length = float(np.linalg.norm(signs)) or 1.0
    return (np.append(PER_STEP * signs / length, FROM),
            np.append(np.where(signs != 0, OWN_SD, OTHER_SD), FROM_SD))  # fmt: skip


def _steps(off: Mapping[str, float]) -> Floats:
    return np.array([capped(off[key] / step_of(key)) if key in off else 0.0 for key in KEYS])


def _chance(odds: Floats) -> Floats:
    return np.asarray(1 / (1 + np.exp(-np.clip(odds, -30, 30))))


def _bend(rows: Floats, odds: Floats) -> Floats:
    return np.asarray((rows.T * (odds * (1 - odds))) @ rows)
