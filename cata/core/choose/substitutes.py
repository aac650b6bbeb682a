"""Substitutes: what sounds nearest to an item, by what was measured of both, and whether an equaliser would close it.

Two things differ by their tone (third octaves, level aside) and by what no equaliser changes: drive, dynamics, decay.
Each is counted in just-noticeable differences; the distance is their root mean square over these four. What a smooth
equaliser explains is the part of the tone's difference that a slow curve over frequency follows, within 12 dB.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from itertools import pairwise
from math import hypot
from typing import Any

import numpy as np
import numpy.typing as npt

from cata.core.comparison import Comparison
from cata.core.measure.registry import BY_KEY
from cata.core.motion.told import STILL, move_alike
from cata.said import Said, said

Floats = npt.NDArray[np.floating[Any]]
TONE = "third_octaves_db"
BESIDE = ("equivalent_drive.percent", "level_spread_db", "sustain.db_per_s")
"""What no equaliser changes."""
SPREAD, SPREAD_BY_TONE = "level_spread_db", 0.4
"""Hard strokes are brighter, so tone changes the spread too: in dB for each dB of smooth tone (rms 0.31 for a string
model, 0.47 for a sampler, 48 pairs each, random equalisers)."""
REGIONS = ("lows", "low_mids", "mids", "upper_mids", "presence", "air")
SLOW_TERMS = 6
"""Cosines over log frequency that a smooth equaliser may use: about a control in every octave and a half."""
MOST_DB = 12.0
FEWEST_BANDS = 12
MOST_TOLD = 3
MOVES_APART = 6.0
"""Just-noticeable differences that a motion counts at least, which the other has not."""
CLOSED, IN_PART = 0.7, 0.3
"""Of a difference this share is closed by an equaliser, or this much in part."""


@dataclass(frozen=True)
class Shows:
    """What an item shows, by reading or part: value, standard deviation, and what is just noticed there.

    ``motion``: by what it moves by itself, as :func:`cata.core.motion.told.does` has it, and in words.
    """

    values: Mapping[str, tuple[float, float, float]]
    motion: Mapping[str, float] = field(default_factory=dict)
    moves: str = ""


@dataclass(frozen=True)
class Substitute:
    """How far one item is from another: ``distance`` in just-noticeable differences, ``explained`` 0 to 1.

    ``after`` is the distance that is left after the equaliser. ``same``: nothing that can be trusted differs.
    """

    distance: float
    after: float
    explained: float
    same: bool
    told: tuple[Said, ...]

    @property
    def closes(self) -> Said:
        """Whether an equaliser closes the difference, in words."""
        if self.same:
            return Said("same", "no difference you can trust")
        if self.explained >= CLOSED and self.after < 1:
            code, words = (
                "closed",
                "an equaliser closes {percent:.0f} % of the difference: what is left can hardly be heard",
            )
        elif self.explained >= IN_PART:
            code, words = "part", "an equaliser closes {percent:.0f} % of the difference"
        else:
            code, words = "open", "no equaliser closes it ({percent:.0f} %)"
        return said(code, words, percent=self.explained * 100)


def compare(wanted: Shows, other: Shows) -> Substitute | None:
    """How the other differs from what is wanted; None where too little is known of both."""
    bands = [part for part, _ in BY_KEY[TONE].parts if _both(wanted, other, f"{TONE}.{part}")]
    if len(bands) < FEWEST_BANDS:
        return None
    gaps = np.array([_gap(wanted, other, f"{TONE}.{band}")[0] for band in bands])
    sds = np.array([_gap(wanted, other, f"{TONE}.{band}")[1] for band in bands])
    gaps = gaps - np.median(gaps)
    step = BY_KEY[TONE].jnd or 1.0
    left = gaps - np.clip(_slow(gaps), -MOST_DB, MOST_DB)
    tone, rest = float(np.sqrt(np.mean(gaps**2))) / step, float(np.sqrt(np.mean(left**2))) / step
    doubts = {SPREAD: SPREAD_BY_TONE * float(np.sqrt(np.mean((gaps - left) ** 2)))}
    beside = {key: _steps(wanted, other, key, doubts.get(key, 0.0)) for key in BESIDE if _both(wanted, other, key)}
    # What may be chance is no difference that an equaliser leaves.
    others = sum(steps**2 for steps, sure in beside.values() if sure)
    count = 1 + len(beside)
    distance, after = ((part**2 + others) / count for part in (tone, rest))
    bands_differ = [Comparison(float(gap), step, float(sd)).trusted for gap, sd in zip(gaps, sds, strict=True)]
    # Two neighbours, as a verdict asks for: one of two dozen bands is far off by chance.
    trusted = any(pair == (True, True) for pair in pairwise(bands_differ)) or any(sure for _, sure in beside.values())
    explained = 1 - after / distance if distance > 0 else 0.0
    words = tuple(_told(wanted, other, beside))
    if not move_alike(wanted.motion, other.motion):
        # No equaliser swings or repeats, and no distance says how far apart these are.
        moving = Said("moves", other.moves or STILL)
        return Substitute(max(distance**0.5, MOVES_APART), max(after**0.5, MOVES_APART), 0.0, False, (moving, *words))
    return Substitute(distance**0.5, after**0.5, max(0.0, explained), not trusted, words)


def _both(one: Shows, other: Shows, key: str) -> bool:
    return key in one.values and key in other.values


def _gap(wanted: Shows, other: Shows, key: str) -> tuple[float, float]:
    """By how much the other differs, and the standard deviation of that."""
    (mine, sd, _), (theirs, their_sd, _) = wanted.values[key], other.values[key]
    return theirs - mine, hypot(sd, their_sd)


def _steps(wanted: Shows, other: Shows, key: str, doubt: float = 0.0) -> tuple[float, bool]:
    """A difference in just-noticeable ones, and whether it can be trusted; ``doubt`` is a deviation beside theirs."""
    gap, sd = _gap(wanted, other, key)
    step = wanted.values[key][2]
    return gap / step, Comparison(gap, step, hypot(sd, doubt)).trusted


def _slow(gaps: Floats) -> Floats:
    """The part of a curve over third octaves that a few slow cosines follow."""
    at = (np.arange(gaps.size) + 0.5) / gaps.size
    basis = np.cos(np.pi * np.outer(at, np.arange(SLOW_TERMS)))
    weights = np.linalg.lstsq(basis, gaps, rcond=None)[0]
    found: Floats = basis @ weights
    return found


def _told(wanted: Shows, other: Shows, beside: Mapping[str, tuple[float, bool]]) -> Sequence[Said]:
    """What differs most and can be trusted, in words."""
    found = [(abs(steps), _in_words(wanted, other, key)) for key, (steps, sure) in beside.items() if sure]
    for region in REGIONS:
        key = f"regions_db.{region}"
        if _both(wanted, other, key):
            steps, sure = _steps(wanted, other, key)
            if sure:
                found.append((abs(steps), _in_words(wanted, other, key)))
    return [words for _, words in sorted(found, key=lambda pair: -pair[0])[:MOST_TOLD]]


def _in_words(wanted: Shows, other: Shows, key: str) -> Said:
    name, _, part = key.partition(".")
    reading = BY_KEY[name]
    gap, _ = _gap(wanted, other, key)
    word = reading.more if gap > 0 else reading.less
    plain = dict(reading.parts).get(part, "").split(",")[0].lower()
    what = f"{word} {plain}" if name == "regions_db" else word
    return said(
        "differs", f"{what} by {{gap:.{reading.decimals}f}} {reading.step_unit}".strip(), gap=abs(gap), reading=key
    )
