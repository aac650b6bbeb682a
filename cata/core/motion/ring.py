"""How long a device rings on where the playing stops: how slowly its level falls where another's falls at once."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import scipy

from cata.core.motion.track import HOP_S, Floats, Track

BEFORE_S, AFTER_S, GAP_S = 0.1, 0.25, 0.35
STOPS_DB, FASTER = 22.0, 1.8
FROM_S, TO_S, OVER_FLOOR_DB = 0.12, 1.2, 8.0
LEAST_S, LEAST_DB, LEAST_R2 = 0.2, 7.0, 0.9
RISES_DB = 4.0


@dataclass(frozen=True)
class Fall:
    """How fast a take falls, dB a second, where another stopped, which fell by ``other`` dB a second at least."""

    own: float
    other: float


def falls_between(take: Track, other: Track, lag_s: float) -> list[Fall]:
    """How fast ``take`` falls at every place where ``other``, which begins ``lag_s`` earlier, stops at once."""
    mine, theirs = _level(take), _level(other)
    shift = round(lag_s / HOP_S)
    found = []
    for at in _stops(theirs):
        start = at + shift + round(FROM_S / HOP_S)
        own = _slope(mine, start, _end(theirs, at) + shift)
        if own is not None:
            found.append(Fall(own, float(theirs[at] - theirs[at + round(AFTER_S / HOP_S)]) / AFTER_S))
    return found


def ring_of(falls: Sequence[Sequence[Fall]]) -> float | None:
    """Time in seconds to fall by 60 dB, of a device that rings on in most of its tests; None where it does not."""
    each = [float(np.median([one.own for one in test])) for test in falls if test]
    rings = [
        slope
        for test, slope in zip([test for test in falls if test], each, strict=True)
        if slope * FASTER < float(np.median([one.other for one in test]))
    ]
    if not each or len(rings) * 2 <= len(each):
        return None
    return 60.0 / float(np.median(rings))


def _level(track: Track) -> Floats:
    return np.asarray(scipy.special.logsumexp(track.levels_db * (np.log(10) / 10), axis=1) * (10 / np.log(10)))


def _stops(level: Floats) -> list[int]:
    """Frames before which it plays and a quarter of a second after which it has fallen by 22 dB, one for each stop."""
    after, gap = round(AFTER_S / HOP_S), round(GAP_S / HOP_S)
    if len(level) <= 2 * gap:
        return []
    fall = np.zeros(len(level))
    fall[:-after] = level[:-after] - level[after:]
    fall[level < np.percentile(level, 95) - 30] = 0.0
    peaks, _ = scipy.signal.find_peaks(fall, height=STOPS_DB, distance=gap)
    return [int(at) for at in peaks if at + gap < len(level)]


def _end(level: Floats, at: int) -> int:
    """Where the next stroke begins."""
    rest = level[at : at + round((FROM_S + TO_S) / HOP_S)]
    lowest = np.minimum.accumulate(rest)
    again = np.flatnonzero(rest > lowest + RISES_DB)
    return at + (int(again[0]) if len(again) else len(rest))


def _slope(level: Floats, start: int, end: int) -> float | None:
    """How fast it falls from here on, dB a second; None where that cannot be seen."""
    floor = float(np.percentile(level, 2)) + OVER_FLOOR_DB
    part = level[max(start, 0) : max(end, 0)]
    low = np.flatnonzero(part < floor)
    part = part[: low[0]] if len(low) else part
    if len(part) < LEAST_S / HOP_S or part[0] - part[-1] < LEAST_DB:
        return None
    time = np.arange(len(part)) * HOP_S
    slope, begin = np.polyfit(time, part, 1)
    left = part - begin - slope * time
    return float(-slope) if slope < 0 and np.var(left) < (1 - LEAST_R2) * np.var(part) else None
