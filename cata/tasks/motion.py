"""Motion: what moves or repeats in each contender of a flight, from all its takes."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import soxr

from cata.core.clip import ANALYSIS_RATE_HZ
from cata.core.measure.material import QUARTER_RATE_HZ
from cata.core.measure.results import Result
from cata.core.motion.contender import Heard, heard_of, motion_of
from cata.core.motion.told import as_result
from cata.core.motion.track import LONGEST_S, Track, track_of
from cata.media.cuts import cut_of
from cata.tasks.audits import ToCompare, features_at
from cata.tasks.desk import Desk
from cata.tasks.shape import Task

OTHERS = 2


@dataclass(frozen=True)
class ToFollow:
    """A take by its number, whose it is and of which test; ``lag_s`` behind the reference of its test."""

    take_id: int
    take: ToCompare
    contender: int
    test: int
    is_bypass: bool
    lag_s: float


def motion(takes: tuple[ToFollow, ...], desk: Desk) -> dict[int, Result]:
    """The motion of each take's contender, by the number of the take."""
    heard: dict[int, list[Heard]] = defaultdict(list)
    tests: dict[int, list[ToFollow]] = defaultdict(list)
    for one in takes:
        tests[one.test].append(one)
    # A test at a time: the tracks of one lie in memory together, and no more.
    for index, mine in enumerate(tests.values()):
        tracks = [_track(one, desk) for one in mine]
        for one, track in zip(mine, tracks, strict=True):
            others = [(tracks[at], mine[at].lag_s) for at in _others(mine, one)]
            if others:
                heard[one.contender].append(heard_of(track, one.lag_s, others))
        desk.tell((index + 1) / (len(tests) + 1))
    found = {ident: motion_of(mine) for ident, mine in heard.items()}
    return {one.take_id: as_result(found.get(one.contender)) for one in takes}


def _others(takes: Sequence[ToFollow], one: ToFollow) -> list[int]:
    """What a take is held against: the bypass where there is one, else two other contenders."""
    able = [at for at, other in enumerate(takes) if other.contender != one.contender]
    bypass = [at for at in able if takes[at].is_bypass]
    seen = {takes[at].contender: at for at in reversed(able)}
    return bypass[:1] or ([*seen.values()][:OTHERS] if len(seen) >= OTHERS else [])


def _track(one: ToFollow, desk: Desk) -> Track:
    with desk.reading(one.take.copy) as copy:
        features = features_at(one.take, copy, desk)
        part = cut_of(copy, features.mix)(0, min(features.length, round(LONGEST_S * ANALYSIS_RATE_HZ)))
    return track_of(np.asarray(soxr.resample(part, ANALYSIS_RATE_HZ, QUARTER_RATE_HZ, quality="HQ"), dtype=np.float32))


MOTION = Task("motion of a flight", motion, limit_s=1800)
