"""Choosing against plain numpy and a plain solver: a ranking with its certainty, and the rig of a large shelf."""

from __future__ import annotations

import random
from collections.abc import Callable
from functools import cache
from typing import Any

import numpy as np

from cata.core.brief import Need, Sound, Target
from cata.core.choose.evidence import Evidence, asked_of
from cata.core.choose.ranking import Candidate, Ranked, rank_on
from cata.core.choose.whole import Whole
from cata.core.measure.regions import REGIONS, THIRD_OCTAVES_HZ
from cata.core.pool.seen import NOTHING, Seen
from cata.core.rig.best import Finder
from cata.core.rig.parts import Clash, Part, Problem, Slot, Wanted
from cata.core.rig.solve import model_of

ITEMS, DRAWS, SOUNDS = 200, 2_000, 2
BANDS = [("third_octaves_db", str(hz)) for hz in THIRD_OCTAVES_HZ[:14]] + [("regions_db", one.key) for one in REGIONS]
SLOTS = ("guitar", "pickup", "pedals", "amplifier", "speaker", "supply", "cable", "strings")
RIG_ITEMS, BUDGET_MINOR = 300, 200_000


@cache
def _evidence() -> tuple[Need, Evidence, list[Candidate]]:
    """200 items, 40 readings of two sounds, each item in one of twenty flights with the bypass."""
    chance = np.random.default_rng(1)
    targets = [Target(reading=key, part=part, low=-2, high=2, against="reference") for key, part in BANDS]
    sounds = [Sound(key=f"s{n}", name=f"S{n}", targets=targets) for n in range(SOUNDS)]
    seen: dict[Any, list[Seen]] = {}
    for sound in sounds:
        for target in sound.targets:
            mine = [Seen(f"i{n}", f"f{n % 20}", f"c{n % 20}", float(chance.normal(0, 4)), 0.7) for n in range(ITEMS)]
            mine += [Seen(NOTHING, f"f{n}", f"c{n}", 0.0, 0.7) for n in range(20)]
            seen[asked_of(sound, target)] = mine
    need = Need(sounds=sounds, budget_minor=BUDGET_MINOR)
    return (
        need,
        Evidence(seen, {n: [f"i{n}"] for n in range(ITEMS)}),
        [Candidate(n, f"i{n}", 100 * n) for n in range(ITEMS)],
    )


def first_time() -> list[Ranked]:
    """Pooled, ranked, drawn: what a new take costs."""
    need, known, standing = _evidence()
    return rank_on(Whole(need, Evidence(known.seen, known.nodes)), need, standing, ())


def other_weight() -> Callable[[], list[Ranked]]:
    """The ranking once more with another weight, after it was worked out once."""
    need, known, standing = _evidence()
    rank_on(Whole(need, known), need, standing, ())
    changed = need.model_copy(update={"price_weight": need.price_weight + 1})
    return lambda: rank_on(Whole(changed, known), changed, standing, ())


def deviates() -> Any:
    """As many normal deviates as 2,000 draws of all readings of all items need."""
    chance = np.random.default_rng(1)
    return [chance.standard_normal((ITEMS, DRAWS), dtype=np.float32) for _ in range(len(BANDS) * SOUNDS)]


@cache
def _shelf() -> Problem:
    """300 items in eight places, some of which do not get on with each other."""
    chance = random.Random(1)
    parts = [
        Part(ident=n, item=n, slot=SLOTS[n % len(SLOTS)], price_minor=chance.randrange(2_000, 90_000),
             fits={f"s{k}": chance.random() for k in range(4)},
             labels=frozenset(f"{SLOTS[n % len(SLOTS)]} {aspect}={chance.choice('abc')}" for aspect in "xyz"))
        for n in range(RIG_ITEMS)
    ]  # fmt: skip
    slots = [Slot(key=key, least=1, most=4 if key == "pedals" else 1, share={f"s{k}": 1 / len(SLOTS) for k in range(4)})
             for key in SLOTS]  # fmt: skip
    clashes = [
        Clash(f"{first} {aspect}={chance.choice('abc')}", f"{second} {aspect}={chance.choice('abc')}",
              {f"s{k}": chance.choice((0.05, 0.1, 0.2)) for k in range(4)})
        for first, second in (("pedals", "amplifier"), ("pickup", "amplifier"), ("pickup", "pedals"))
        for aspect in "xyz"
    ]  # fmt: skip
    return Problem(parts=parts, slots=slots, sounds=[Wanted(f"s{k}") for k in range(4)], budget_minor=BUDGET_MINOR,
                   clashes=clashes)  # fmt: skip


def rig() -> Any:
    """The proven optimum of 300 items in eight places."""
    return Finder(_shelf()).best()


def plain_solver() -> Any:
    """The same model handed to the solver as it is."""
    return model_of(_shelf()).solve(60.0)
