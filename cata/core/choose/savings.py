"""Fit against price: who is worth considering at all, and what a saving costs in sound."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from cata.core.brief import Need
from cata.core.choose.fit import Judged
from cata.core.choose.ranking import Ranked
from cata.core.choose.takes import key_of
from cata.core.choose.told import part_name, than_wanted
from cata.core.measure.registry import BY_KEY
from cata.core.money import show_price
from cata.said import Said, said

MOST_TOLD = 3
AUDIBLE = 1.0


@dataclass(frozen=True)
class Saving:
    """What a cheaper one costs in sound against a dearer one.

    ``steps``: just-noticeable differences further from what is wanted, as the brief weighs the readings;
    ``per_step_minor``: what each of them saves, None where there is none.
    """

    dearer: int
    cheaper: int
    saved_minor: int
    steps: float
    per_step_minor: int | None
    told: Said


def front(ranked: Sequence[Ranked]) -> list[Ranked]:
    """Those that nobody undercuts at the same fit or better, the cheapest first; only what has a price."""
    priced = [one for one in ranked if one.candidate.price_minor is not None]
    priced.sort(key=lambda one: (one.candidate.price_minor or 0, -one.fit.score, one.place))
    found: list[Ranked] = []
    for one in priced:
        if not found or one.fit.score > found[-1].fit.score + 1e-9:
            found.append(one)
    return found


def savings(need: Need, ranked: Sequence[Ranked]) -> list[Saving]:
    """What each step down the front saves and costs, the dearest first."""
    steps = front(ranked)[::-1]
    return [saving(need, dearer, cheaper) for dearer, cheaper in pairwise(steps)]


def saving(need: Need, dearer: Ranked, cheaper: Ranked) -> Saving:
    """What the cheaper of two costs in sound: how much further it lies from what is wanted, reading by reading."""
    saved = (dearer.candidate.price_minor or 0) - (cheaper.candidate.price_minor or 0)
    weights = {sound.key: sound.weight for sound in need.sounds}
    before = {_key(one): one for one in dearer.fit.judged}
    worse: list[tuple[float, Judged]] = []
    steps = 0.0
    total = sum(weights[one.sound] * one.target.weight for one in cheaper.fit.judged) or 1.0
    for one in cheaper.fit.judged:
        other = before.get(_key(one))
        if other is None:
            continue
        further = one.missed_jnds - other.missed_jnds
        steps += weights[one.sound] * one.target.weight / total * further
        if further >= AUDIBLE:
            worse.append((weights[one.sound] * one.target.weight * further, one))
    names = {sound.key: sound.name for sound in need.sounds}
    words = [_less(one, names[one.sound]) for _, one in sorted(worse, key=lambda pair: -pair[0])[:MOST_TOLD]]
    amount = show_price(saved, need.currency)
    if words:
        told = said("costs", f"{{name}} saves {{amount}}, and costs: {'; '.join(words)}",
                    name=cheaper.candidate.name, amount=amount)  # fmt: skip
    else:
        told = said("costs_nothing", "{name} saves {amount}, and nothing that can be heard is known to be worse",
                    name=cheaper.candidate.name, amount=amount)  # fmt: skip
    per_step = round(saved / steps) if steps >= AUDIBLE / 2 else None
    return Saving(dearer.candidate.ident, cheaper.candidate.ident, saved, round(steps, 2), per_step, told)


def _key(one: Judged) -> tuple[str, str, str]:
    return one.sound, key_of(one.target), one.target.against


def _less(one: Judged, sound: str) -> str:
    reading = BY_KEY[one.target.reading]
    amount = f"{abs(one.miss):.{reading.decimals}f} {reading.step_unit}".strip()
    return f"{sound.lower()} {than_wanted(one, part_name(one.target))} by {amount}"
