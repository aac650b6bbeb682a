"""Small flights of which it is known which take a word belongs to: four played anew, one of them turned."""

from __future__ import annotations

import random
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import cache

import numpy as np
import numpy.typing as npt
import scipy.signal

from cata.core.clip import Clip
from cata.core.drive.grain import grain_of
from cata.core.drive.ladder import ladder_of
from cata.core.drive.of_test import Heard, drives, foot_among
from cata.core.match.strokes import band_powers, strokes_apart, together
from cata.core.measure.analysis import analyse_material
from cata.core.measure.material import Material
from cata.core.measure.of_flights import STROKES
from cata.core.measure.onsets import onsets_of
from cata.core.measure.results import Result, Results
from cata.core.resample import downsample
from cata.core.vocabulary.leaning import Lying, apart, doubts, scatters_of
from cata.core.vocabulary.words import DRIVE
from tests.corpus.parts import RATE_HZ, Floats, bend, clean_amplifier, compress, cut, gain, peak, shelf
from tests.corpus.playing import PHRASES, play

Turn = Callable[[Floats, random.Random], Floats]
TAKES, PERFORMANCES = 4, 8
BASE_DB, FLOOR_DB = (0, 0, 8), -78


def _same(x: Floats, _: random.Random) -> Floats:
    return x


def _low_shelf(x: Floats, hz: float, db: float) -> Floats:
    return gain(db) * shelf(x, hz, -db)


def _envelope(x: Floats, ms: float) -> Floats:
    kept = np.exp(-1000 / (RATE_HZ * ms))
    return np.asarray(np.sqrt(scipy.signal.lfilter([1 - kept], [1, -kept], x**2)) + 1e-4)


def _attack(x: Floats, power: float) -> Floats:
    return np.asarray(x * (_envelope(x, 4) / _envelope(x, 60)) ** power)


def _expand(x: Floats, power: float) -> Floats:
    level = _envelope(x, 30)
    return np.asarray(x * np.minimum(1, level / np.percentile(level, 95)) ** power)


def _ring(x: Floats, r: random.Random) -> Floats:
    """Lows that hang over."""
    count = RATE_HZ // 4
    tail = np.random.default_rng(r.randrange(999)).normal(0, 1, count) * np.exp(-np.arange(count) / RATE_HZ / 0.06)
    low = scipy.signal.fftconvolve(cut(x, 150, "low", 2), tail / np.sqrt((tail**2).sum()))
    return np.asarray(x + 1.5 * low[: len(x)])


def _soft(x: Floats, r: random.Random, least: float, most: float) -> Floats:
    return bend(x * gain(r.uniform(least, most)), np.tanh)


def _hard(x: Floats, r: random.Random, least: float, most: float) -> Floats:
    return bend(x * gain(r.uniform(least, most)), lambda v: np.clip(v, -1, 1))


TURNS: Mapping[str, Turn] = {
    "airy": lambda x, r: shelf(x, 5000, r.uniform(6, 10)),
    "bassy": lambda x, r: _low_shelf(x, 150, r.uniform(5, 9)),
    "biting": lambda x, r: peak(x, 2500, r.uniform(6, 9), 0.6),
    "boomy": lambda x, r: _ring(_low_shelf(x, 120, r.uniform(4, 7)), r),
    "boxy": lambda x, r: peak(x, 500, r.uniform(5, 9), 0.8),
    "bright": lambda x, r: shelf(x, 2000, r.uniform(5, 9)),
    "brittle": lambda x, r: peak(cut(x, 500, "high"), 4000, r.uniform(5, 8), 0.8),
    "buried": lambda x, r: peak(x, 1700, -r.uniform(7, 10), 0.7),
    "chimey": lambda x, r: shelf(peak(x, 1800, r.uniform(3, 5), 0.8), 5000, r.uniform(5, 8)),
    "clean": _same,
    "compressed": lambda x, _: compress(x, -30, 6),
    "creamy": lambda x, r: cut(_soft(x, r, 16, 24), 2500, "low", 2),
    "crunchy": lambda x, r: _soft(x, r, 12, 18),
    "cutting": lambda x, r: peak(x, 1700, r.uniform(6, 9), 0.8),
    "dark": lambda x, r: shelf(x, 1500, -r.uniform(5, 9)),
    "deep": lambda x, r: _low_shelf(x, 100, r.uniform(6, 9)),
    "dirty": lambda x, r: _soft(x, r, 14, 22),
    "dry": lambda x, _: _expand(x, 1.0),
    "dull": lambda x, _: cut(x, 2200, "low", 2),
    "dynamic": _same,
    "fat": lambda x, r: _low_shelf(peak(x, 260, r.uniform(4, 7), 0.6), 120, 3),
    "fizzy": lambda x, r: shelf(_hard(x, r, 20, 28), 4500, r.uniform(6, 9)),
    "full": lambda x, r: _low_shelf(x, 350, r.uniform(5, 8)),
    "fuzzy": lambda x, r: bend(x * gain(r.uniform(34, 42)), lambda v: np.clip(v + 0.2, -0.8, 1) - 0.2),
    "glassy": lambda x, r: shelf(x, 3500, r.uniform(6, 9)),
    "gritty": lambda x, r: peak(_hard(x, r, 16, 24), 1500, 4, 0.8),
    "harsh": lambda x, r: peak(x, 3000, r.uniform(6, 10), 1.0),
    "hissy": _same,
    "honky": lambda x, r: cut(peak(x, 850, r.uniform(6, 9), 1.0), 150, "high"),
    "icy": lambda x, r: peak(shelf(x, 3500, r.uniform(5, 8)), 250, -5, 0.6),
    "jangly": lambda x, r: peak(x, 2600, r.uniform(5, 8), 0.6),
    "lifeless": lambda x, _: _attack(compress(x, -34, 8), -0.5),
    "lively": _same,
    "loose": _ring,
    "mellow": lambda x, r: shelf(x, 2500, -r.uniform(6, 9)),
    "muddy": lambda x, r: peak(x, 250, r.uniform(5, 9), 0.8),
    "nasal": lambda x, r: cut(peak(x, 1000, r.uniform(6, 10), 1.0), 300, "high"),
    "noisy": _same,
    "percussive": lambda x, _: _expand(_attack(x, 0.7), 0.5),
    "punchy": lambda x, _: peak(_attack(x, 0.6), 250, 3, 0.7),
    "quiet": _same,
    "raspy": lambda x, r: peak(_hard(x, r, 16, 24), 2700, r.uniform(5, 8), 0.8),
    "saturated": lambda x, r: _soft(x, r, 28, 36),
    "scooped": lambda x, r: peak(x, 500, -r.uniform(6, 10), 0.6),
    "shallow": lambda x, _: cut(x, 180, "high", 2),
    "shrill": lambda x, r: cut(peak(x, 3500, r.uniform(6, 9), 0.9), 250, "high"),
    "smooth": lambda x, r: peak(_soft(x, r, 18, 18), 3000, -r.uniform(6, 9), 0.8),
    "snappy": lambda x, _: shelf(_attack(x, 0.7), 2500, 3),
    "soft": lambda x, _: shelf(_attack(x, -0.6), 2500, -3),
    "sparkling": lambda x, r: shelf(x, 4500, r.uniform(6, 9)),
    "spongy": lambda x, r: _ring(_attack(compress(x, -34, 6), -0.4), r),
    "sustaining": lambda x, _: compress(x, -45, 8),
    "thick": lambda x, r: peak(x, 320, r.uniform(6, 9), 0.5),
    "thin": lambda x, _: cut(x, 400, "high"),
    "tight": _same,
    "twangy": lambda x, r: _expand(peak(x, 2800, r.uniform(5, 8), 0.7), 0.5),
    "warm": lambda x, r: shelf(peak(x, 260, r.uniform(3, 5), 0.6), 2500, -r.uniform(4, 7)),
    "woody": lambda x, r: peak(x, 600, r.uniform(5, 8), 0.8),
    "woolly": lambda x, _: peak(cut(x, 2000, "low"), 260, 4, 0.7),
}
"""What is done to one take so that a word belongs to it; nothing is named that any other of them would be."""
OTHERS: Mapping[str, Turn] = {
    "clean": lambda x, r: _soft(x, r, 18, 26),
    "dynamic": lambda x, _: compress(x, -32, 6),
    "lively": lambda x, _: compress(x, -32, 6),
    "smooth": lambda x, r: _hard(x, r, 18, 18),
    "tight": _ring,
}
"""What the other takes are, where it is they who have something."""
NOISES: Mapping[str, tuple[float, float]] = {"noisy": (-52, -78), "hissy": (-48, -78), "quiet": (-78, -52)}
"""The noise of the turned take and of the others, in dBFS."""


@dataclass(frozen=True)
class Spoken:
    """Where the four takes lie against each other; ``turned`` is the one that the word belongs to, if any does."""

    lies: Mapping[int, Lying]
    turned: int | None


@cache
def _performance(phrase: str, number: int) -> npt.NDArray[np.float32]:
    """One of some performances of a phrase: flights of several words draw theirs from these."""
    return play(phrase, random.Random(f"{phrase}-{number}")).astype(np.float32)


def spoken(word: str | None, seed: int) -> Spoken:
    """A flight of one phrase; without a word nothing is turned."""
    r = random.Random(f"{seed}-{word}")
    phrase, amplifier = r.choice(sorted(PHRASES)), clean_amplifier(r)
    noise, turned, base = np.random.default_rng(r.randrange(10**9)), r.randrange(TAKES), r.choice(BASE_DB)
    results, heard, clips = dict[int, Results](), list[Heard](), list[Floats]()
    played: list[tuple[Floats, Floats]] = []
    for take, number in enumerate(r.sample(range(PERFORMANCES), TAKES)):
        x = _performance(phrase, number).astype(np.float64)
        x = x + noise.normal(0, gain(-92), len(x))
        if base:
            x = np.tanh(x * gain(base))
        turn = (TURNS[word] if take == turned else OTHERS.get(word, _same)) if word else _same
        y = amplifier(turn(x, r), 0.0)
        y = y / np.abs(y).max() * gain(r.uniform(-9, -4))
        hiss = noise.normal(0, gain(NOISES.get(word or "", (FLOOR_DB, FLOOR_DB))[take != turned]), len(y))
        y = y + (cut(hiss, 2500, "high", 2) if word == "hissy" and take == turned else hiss)
        clips.append(y * min(1.0, 0.7 / float(np.abs(y).max())))
        material = Material(Clip.of(clips[-1].astype(np.float32), RATE_HZ))
        results[take] = analyse_material(material)
        played.append((band_powers(material), material.shared(onsets_of)))
        heard.append(Heard(grain_of(material), results[take].number("plr_db")))
    foot = foot_among(heard)
    if foot is not None:
        ladder = ladder_of(downsample(clips[foot].astype(np.float32), 2))
        for take, drive in enumerate(drives(heard, foot, ladder, {})):
            results[take]["equivalent_drive"] = drive
    open_ = together([strokes_apart(played[0][0], one[0], (played[0][1], one[1])) for one in played[1:]])
    for one in results.values():
        one[STROKES.key] = Result(value={**open_})
    return Spoken(lying(results), turned if word else None)


def lying(results: Mapping[int, Results]) -> dict[int, Lying]:
    """Where takes lie against each other, with what playing them again does."""
    off = apart({take: one.numbers() for take, one in results.items()})
    takes = list(results.values())
    sds = doubts(takes, scatters_of(takes, {}))
    return {take: Lying(off[take], sds, one.number(DRIVE)) for take, one in results.items()}
