"""How near is it to a reference? A line from 0 to 100, with the reference hidden among the glasses and two anchors.

The method is that of ITU-R BS.1534-3; who is counted is not. The standard drops who gives the hidden reference under 90
points. What is left has the reference high by choice: contenders that are identical to it came out below. Here only the
anchors decide, which stand on neither side of that difference.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import sqrt
from statistics import fmean, stdev

import scipy

from cata.core.words import plural
from cata.said import Said, said

REFERENCE, ANCHOR, MILD = -1, -2, -3
"""What stands in the hidden glasses besides contenders."""
ANCHOR_HZ = {ANCHOR: 3500.0, MILD: 7000.0}
"""An anchor is the reference without what lies above: a loss that anybody who listens finds, and a milder one."""
FOUND = 90.0
"""The hidden reference is found with so many points: told, and no reason to count somebody or not."""
MISSES = 0.15
"""Who puts the anchor over all other glasses, or over the mild one, in more of the rounds is not counted."""
CLAIM = 0.95


@dataclass(frozen=True)
class Rated:
    """What one taster gave in one round: points 0 to 100 by contender, with the hidden reference and both anchors."""

    taster: str
    points: Mapping[int, float]


@dataclass(frozen=True)
class Nearness:
    """Points of a contender below (negative) the hidden reference: mean and its band, over counted rounds."""

    ident: int
    points: float
    below: float
    band: float | None
    rounds: int


def why_not_counted(rounds: Sequence[Rated]) -> Said | None:
    """Why what a taster gave is not counted; None where it is."""
    if not rounds:
        return None
    lost = sum(_anchor_best(one) for one in rounds)
    if lost > MISSES * len(rounds):
        words = "gave the dulled reference as much as any other glass in {lost} of {rounds}"
        return said("anchor_best", words, lost=lost, rounds=plural(len(rounds), "round"))
    turned = sum(one.points.get(ANCHOR, 0.0) > one.points.get(MILD, 100.0) for one in rounds)
    if turned > MISSES * len(rounds):
        words = "put the dulled reference over the mildly dulled one in {turned} of {rounds}"
        return said("anchors_turned", words, turned=turned, rounds=plural(len(rounds), "round"))
    return None


def _anchor_best(one: Rated) -> bool:
    others = [points for ident, points in one.points.items() if ident not in ANCHOR_HZ]
    return ANCHOR in one.points and bool(others) and one.points[ANCHOR] >= max(others)


def told_of_reference(rounds: Sequence[Rated]) -> Said:
    """In how many rounds a taster found the hidden reference."""
    found = sum(one.points.get(REFERENCE, 0.0) >= FOUND for one in rounds)
    words = "gave the hidden reference {least:.0f} points or more in {found} of {rounds}"
    return said("reference_found", words, least=FOUND, found=found, rounds=plural(len(rounds), "round"))


def counted(rounds: Sequence[Rated]) -> list[Rated]:
    """What tasters gave who can be counted."""
    tasters = {one.taster for one in rounds}
    fine = {name for name in tasters if why_not_counted([one for one in rounds if one.taster == name]) is None}
    return [one for one in rounds if one.taster in fine]


def nearness(rounds: Sequence[Rated], idents: Sequence[int]) -> list[Nearness]:
    """Of every contender how near it comes, the nearest first; what nobody counted rated is left out."""
    fine, found = counted(rounds), []
    for ident in idents:
        mine = [one for one in fine if ident in one.points and REFERENCE in one.points]
        if not mine:
            continue
        below = [one.points[ident] - one.points[REFERENCE] for one in mine]
        found.append(Nearness(ident, fmean(one.points[ident] for one in mine), fmean(below), _band(mine, below),
                              len(mine)))  # fmt: skip
    return sorted(found, key=lambda one: -one.below)


def _band(mine: Sequence[Rated], below: Sequence[float]) -> float | None:
    """Half of the interval around a mean: over tasters where there are several, else over rounds."""
    by_taster: dict[str, list[float]] = {}
    for one, value in zip(mine, below, strict=True):
        by_taster.setdefault(one.taster, []).append(value)
    values = [fmean(each) for each in by_taster.values()] if len(by_taster) > 1 else list(below)
    if len(values) < 2:
        return None
    return float(scipy.special.stdtrit(len(values) - 1, (1 + CLAIM) / 2)) * stdev(values) / sqrt(len(values))


def told(rounds: Sequence[Rated], idents: Sequence[int], names: Mapping[int, str], reference: str) -> Said:
    """Which comes nearest to the reference, and whether its distance is sure."""
    found = nearness(rounds, idents)
    if not found:
        return Said("nobody_counted", "Nobody is counted: nobody heard what was dulled.")
    best = found[0]
    numbers = {"ident": best.ident, "below": best.below, "rounds": best.rounds}
    if best.band is None:
        words = f"{names[best.ident]} came nearest to {reference}, in a single round: more are needed to be sure."
        return Said("one_round", words, numbers)
    apart = f"{abs(best.below):.0f} points of 100, give or take {best.band:.0f}"
    scale = ""
    if mild := [one.points[MILD] - one.points[REFERENCE] for one in counted(rounds) if MILD in one.points]:
        numbers["mild"] = fmean(mild)
        scale = f" Without all above 7 kHz it lay {abs(numbers['mild']):.0f} below." if numbers["mild"] < 0 else ""
    if best.below + best.band >= 0:
        return Said(
            "as_near", f"{names[best.ident]} was not told from {reference}: they are {apart} apart.{scale}", numbers
        )
    return Said("nearest", f"{names[best.ident]} comes nearest to {reference}, below it by {apart}.{scale}", numbers)
