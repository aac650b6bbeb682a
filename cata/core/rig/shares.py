"""Which part makes most of the sound: what each adds to the fit, whatever the others are (Shapley 1953).

A part adds something else beside good parts than beside poor ones. Its share is the mean, over all orders in which the
parts could be brought in, of what the fit gains when it takes the place of a middling part of the shelf.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations
from math import factorial
from statistics import fmean, quantiles

from cata.core.rig.parts import Part, Problem, Rig
from cata.core.rig.value import worth

Fits = Mapping[int, Mapping[str, float]]
"""Fits by part and sound, one drawing of what they could be."""


@dataclass(frozen=True)
class Share:
    """What a part adds to the fit against a middling one of its slot, with the span of nine draws in ten."""

    ident: int
    adds: float
    low: float
    high: float


def shares(problem: Problem, rig: Rig, draws: Sequence[Fits] = ()) -> list[Share]:
    """What every part of a rig that makes sound adds, the most first."""
    sounding = {slot.key for slot in problem.slots if any(slot.share.values())}
    parts = [part for part in problem.parts if part.ident in rig.counts and part.slot in sounding]
    usual = {part.ident: part.fits for part in problem.parts}

    def added(fits: Fits) -> dict[int, float]:
        # What is middling is drawn along: what all of a slot have in common is no part's own.
        return _adds(problem, rig, parts, fits, {slot: _middling(problem, slot, fits) for slot in sounding})

    adds, drawn = added(usual), [added({**usual, **fits}) for fits in draws]
    found = []
    for part in parts:
        mine = [one[part.ident] for one in drawn]
        if len(mine) < 2:
            found.append(Share(part.ident, adds[part.ident], adds[part.ident], adds[part.ident]))
        else:
            # What is not known is drawn: the middle of the draws belongs to their span, the fit that counts it bad not.
            found.append(Share(part.ident, fmean(mine), quantiles(mine, n=20)[0], quantiles(mine, n=20)[-1]))
    return sorted(found, key=lambda one: -one.adds)


def _middling(problem: Problem, slot: str, known: Fits) -> Mapping[str, float]:
    """A middling part of a slot; where what is alone in its place may stay as it is, that."""
    place = problem.slot_of[slot]
    if place.most == 1 and place.idle:
        return place.idle
    items = {part.item: known[part.ident] for part in problem.parts if part.slot == slot}
    return {
        sound.key: fmean(fits.get(sound.key, 0.0) for fits in items.values()) if items else 0.0
        for sound in problem.sounds
    }


def _adds(
    problem: Problem, rig: Rig, parts: Sequence[Part], fits: Fits, middle: Mapping[str, Mapping[str, float]]
) -> dict[int, float]:
    value = {
        frozenset(some): worth(
            problem, rig.counts, {**fits, **{p.ident: middle[p.slot] for p in parts if p.ident not in some}}
        ).fit
        for count in range(len(parts) + 1)
        for some in combinations([part.ident for part in parts], count)
    }
    total = factorial(len(parts))
    adds = dict.fromkeys((part.ident for part in parts), 0.0)
    for some, fit in value.items():
        for ident in some:
            orders = factorial(len(some) - 1) * factorial(len(parts) - len(some))
            adds[ident] += orders / total * (fit - value[some - {ident}])
    return adds
