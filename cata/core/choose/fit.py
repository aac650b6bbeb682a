"""Fit of a contender's readings to the target ranges of a brief.

Inside a range the fit is 1. Outside it falls with the distance counted in just-noticeable
differences: one of them costs little, three halve it. A reading that was refused does not count; how
much of the brief could be judged is said beside the fit.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from statistics import fmean

from cata.core.brief import Need, Sound, Target
from cata.core.measure.registry import BY_KEY, jnd_of

HALF_FIT_JNDS = 3.0
FALLBACK_JND_SHARE = 0.1
LOWEST_BAND_OF_WORDS = 0.98

Readings = Mapping[str, float]
"""Readings of one take that are numbers; a part is written reading.part."""


@dataclass(frozen=True)
class TakeReadings:
    """The readings of one take, and the sound its test stands for (empty: any)."""

    test: str
    sound: str
    values: Readings


@dataclass(frozen=True)
class Judged:
    """One target of one sound: the value found (mean over its takes), the fit 0 to 1, and by how much it misses.

    ``miss`` is signed and in the unit of the reading: below the range negative, above it positive.
    """

    sound: str
    target: Target
    value: float
    fit: float
    miss: float
    missed_jnds: float


@dataclass(frozen=True)
class Fit:
    """``score`` 0 to 1, None where nothing could be judged; ``coverage`` the share of the brief's weight that was."""

    score: float | None
    coverage: float
    judged: tuple[Judged, ...]


def key_of(target: Target) -> str:
    """The name of a target's reading among :data:`Readings`."""
    return f"{target.reading}.{target.part}" if target.part else target.reading


def jnd_at(target: Target, value: float) -> float:
    """Just-noticeable difference used to weigh a miss; a tenth of the value where none is known."""
    return jnd_of(BY_KEY[target.reading], value) or max(abs(value) * FALLBACK_JND_SHARE, 1e-6)


def judge(sound: Sound, target: Target, value: float) -> Judged:
    """The fit of one value to one target."""
    miss = 0.0
    if target.low is not None and value < target.low:
        miss = value - target.low
    elif target.high is not None and value > target.high:
        miss = value - target.high
    jnds = abs(miss) / jnd_at(target, value)
    return Judged(sound.key, target, value, 1.0 / (1.0 + (jnds / HALF_FIT_JNDS) ** 2), miss, jnds)


def takes_for(sound: Sound, takes: Sequence[TakeReadings]) -> list[TakeReadings]:
    """The takes that stand for a sound; all of them where no test was given to it."""
    own = [take for take in takes if take.sound == sound.key]
    return own or [take for take in takes if not take.sound]


def fit(need: Need, takes: Sequence[TakeReadings]) -> Fit:
    """How well the takes of one contender meet a need."""
    judged: list[Judged] = []
    total = reached = possible = 0.0
    for sound in need.sounds:
        played = takes_for(sound, takes)
        for target in sound.targets:
            weight = sound.weight * target.weight
            possible += weight
            values = [take.values[key_of(target)] for take in played if key_of(target) in take.values]
            if not values or weight == 0:
                continue
            one = judge(sound, target, fmean(values))
            judged.append(one)
            total += weight * one.fit
            reached += weight
    score = total / reached if reached else None
    return Fit(score, reached / possible if possible else 0.0, tuple(judged))
