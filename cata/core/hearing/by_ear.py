"""Equal loudness by ear: gains at which takes are perceived as equally loud. Imports no numpy.

Loudness in LUFS follows the energy of all that is loud; the ear hears a sustained, filled sound louder and a dark one
softer than its energy. What of a stretch is exceeded in 5 % of the time (N5) is held equal.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import log2
from statistics import median

VERSION = 1
OFFSETS_DB = (-10.0, 0.0, 10.0)
"""Levels, re -23 LUFS, at which the loudness of a take is known."""
PACE_S = 0.02
EXCEEDED_SHARE = 0.05
MOST_DB = 15.0
PHON_OF_SONE, PHON_PER_DOUBLING = 40.0, 10.0
NOTE_PHON = 2.0


@dataclass(frozen=True)
class Curves:
    """Loudness in sone every 20 ms, for each of :data:`OFFSETS_DB`."""

    sone: tuple[Sequence[float], ...]

    def n5(self, from_s: float | None = None, to_s: float | None = None) -> tuple[float, ...]:
        """What loudness exceeds in 5 % of a stretch, at each level; the whole take where it is too short for that."""
        first = 0 if from_s is None else max(0, round(from_s / PACE_S))
        last = None if to_s is None else round(to_s / PACE_S)
        parts = [curve[first:last] for curve in self.sone]
        if len(parts[0]) < 5:
            parts = list(self.sone)
        return tuple(_exceeded(part) for part in parts)


def _exceeded(values: Sequence[float]) -> float:
    ordered = sorted(values)
    return ordered[min(len(ordered) - 1, int((1 - EXCEEDED_SHARE) * len(ordered)))] if ordered else 0.0


def phon(sone: float) -> float:
    """Loudness level of a loudness: 40 phon are one sone, 10 phon more are twice as loud (ISO 532-1, annex A)."""
    if sone >= 1.0:
        return PHON_OF_SONE + PHON_PER_DOUBLING * log2(sone)
    return max(PHON_OF_SONE * (sone + 0.0005) ** 0.35, 3.0)


def gains_by_ear(known: Sequence[tuple[float, ...]]) -> list[float]:
    """Gains in dB on takes that measure -23 LUFS, at which all have the middle one's N5.

    ``known`` holds the N5 of each take at each of :data:`OFFSETS_DB`.
    """
    audible = [one for one in known if min(one) > 0]
    if not audible:
        return [0.0] * len(known)
    target = median(one[1] for one in audible)
    return [_gain_to(one, target) if min(one) > 0 else 0.0 for one in known]


def _gain_to(n5: tuple[float, ...], target: float) -> float:
    """Between two levels the logarithm of loudness grows evenly with the level, about doubled by 10 dB."""
    logs = [log2(one) for one in n5]
    wanted = log2(target)
    low = 0 if wanted <= logs[1] else 1
    slope = (logs[low + 1] - logs[low]) / (OFFSETS_DB[low + 1] - OFFSETS_DB[low])
    gain = OFFSETS_DB[low] + (wanted - logs[low]) / slope if slope > 0 else 0.0
    return max(-MOST_DB, min(MOST_DB, gain))


def phon_apart(known: Sequence[tuple[float, ...]]) -> float:
    """How far takes of equal LUFS lie apart to the ear, in phon."""
    at_equal = [one[1] for one in known if one[1] > 0]
    return phon(max(at_equal)) - phon(min(at_equal)) if at_equal else 0.0
