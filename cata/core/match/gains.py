"""Gains for listening. Louder is taken for better, so takes are compared at equal loudness."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from statistics import median
from typing import Literal, get_args

School = Literal["equal", "by_ear", "as_set"]
SCHOOLS: tuple[School, ...] = get_args(School)

CEILING_DBTP = -1.0
"""No take may exceed this after its gain (headroom for the converter of any listener)."""


@dataclass(frozen=True)
class Level:
    """What the gains need of a take: loudness in LUFS and true peak in dBTP; None where refused."""

    loudness_lufs: float | None
    true_peak_dbtp: float | None


@dataclass(frozen=True)
class Gains:
    """One gain in dB a take, in the order given, and by how much all were lowered for the ceiling."""

    gains_db: tuple[float, ...]
    lowered_db: float


def listening_gains(levels: Sequence[Level], school: School, by_ear_db: Sequence[float] = ()) -> Gains:
    """Gains in dB for takes that are heard against each other.

    "equal": every take at the median loudness of the set; one without a loudness keeps 0 dB.
    "by_ear": the same, and ``by_ear_db`` on top, which makes them equally loud to the ear.
    "as_set": 0 dB each, since output is part of the gear. In all, the takes are lowered
    together by as much as the highest true peak exceeds -1 dBTP: between takes nothing changes.
    """
    known = [level.loudness_lufs for level in levels if level.loudness_lufs is not None]
    target = median(known) if known else 0.0
    gains = [
        target - level.loudness_lufs if school != "as_set" and level.loudness_lufs is not None else 0.0
        for level in levels
    ]
    if school == "by_ear" and by_ear_db:
        gains = [gain + more for gain, more in zip(gains, by_ear_db, strict=True)]
    over = [
        gain + level.true_peak_dbtp - CEILING_DBTP
        for gain, level in zip(gains, levels, strict=True)
        if level.true_peak_dbtp is not None
    ]
    lowered = max([0.0, *over])
    return Gains(tuple(gain - lowered for gain in gains), lowered)
