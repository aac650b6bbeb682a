"""Small flights of which it is known which take a word belongs to: four played anew, one of them turned."""

from __future__ import annotations

import random
from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np

from cata.core.choose.takes import BAND_SDS
from cata.core.clip import Clip
from cata.core.measure.analysis import analyse_material
from cata.core.measure.material import Material
from cata.core.measure.results import Results
from cata.core.vocabulary.leaning import Lying, apart, scatter_of
from cata.core.vocabulary.learned import KEYS
from tests.corpus.parts import RATE_HZ, Floats, clean_amplifier, compress, cut, gain, peak, shelf
from tests.corpus.playing import PHRASES, play

Turn = Callable[[Floats, random.Random], Floats]
TAKES = 4
BASE_DB, NOISE_DB, FLOOR_DB = (0, 0, 8), -52, -78


def _low_shelf(x: Floats, hz: float, db: float) -> Floats:
    return gain(db) * shelf(x, hz, -db)


TURNS: Mapping[str, Turn] = {
    "boxy": lambda x, r: peak(x, 500, r.uniform(5, 9), 0.8),
    "scooped": lambda x, r: peak(x, 500, -r.uniform(6, 10), 0.6),
    "bassy": lambda x, r: _low_shelf(x, 150, r.uniform(5, 9)),
    "shallow": lambda x, _: cut(x, 180, "high", 2),
    "thin": lambda x, _: cut(x, 400, "high"),
    "bright": lambda x, r: shelf(x, 2000, r.uniform(5, 9)),
    "dark": lambda x, r: shelf(x, 1500, -r.uniform(5, 9)),
    "dull": lambda x, _: cut(x, 2200, "low", 2),
    "muddy": lambda x, r: peak(x, 250, r.uniform(5, 9), 0.8),
    "nasal": lambda x, r: cut(peak(x, 1000, r.uniform(6, 10), 1.0), 300, "high"),
    "harsh": lambda x, r: peak(x, 3000, r.uniform(6, 10), 1.0),
    "airy": lambda x, r: shelf(x, 5000, r.uniform(6, 10)),
    "compressed": lambda x, _: compress(x, -30, 6),
    "noisy": lambda x, _: x,
}
"""What is done to one take so that a word belongs to it; nothing is named that any other of them would be."""


@dataclass(frozen=True)
class Spoken:
    """Where the four takes lie against each other; ``turned`` is the one that the word belongs to, if any does."""

    lies: Mapping[int, Lying]
    turned: int | None


def spoken(word: str | None, seed: int) -> Spoken:
    """A flight of one phrase; without a word nothing is turned."""
    r = random.Random(f"{seed}-{word}")
    phrase, amplifier = r.choice(sorted(PHRASES)), clean_amplifier(r)
    noise, turned, base = np.random.default_rng(r.randrange(10**9)), r.randrange(TAKES), r.choice(BASE_DB)
    results: dict[int, Results] = {}
    for take in range(TAKES):
        x = play(phrase, r)
        x = x + noise.normal(0, gain(-92), len(x))
        if base:
            x = np.tanh(x * gain(base))
        mine = word if take == turned else None
        y = amplifier(TURNS[mine](x, r) if mine else x, 0.0)
        y = y / np.abs(y).max() * gain(r.uniform(-9, -4))
        y = y + noise.normal(0, gain(NOISE_DB if mine == "noisy" else FLOOR_DB), len(y))
        clip = Clip.of(y * min(1.0, 0.7 / float(np.abs(y).max())), RATE_HZ)
        results[take] = analyse_material(Material(clip))
    return Spoken(lying(results), turned if word else None)


def lying(results: Mapping[int, Results]) -> dict[int, Lying]:
    """Where takes lie against each other, with what playing them again does."""
    off = apart({take: one.numbers() for take, one in results.items()})
    sds = {take: {key: float(np.hypot(scatter_of(key), one.bands.get(key, 0.0) / BAND_SDS)) for key in KEYS}
           for take, one in results.items()}  # fmt: skip
    return {take: Lying(off[take], sds[take]) for take in results}
