"""Where two takes show what they differ by."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import soxr

from cata.core.clip import ANALYSIS_RATE_HZ, Audio
from cata.core.drive.of_test import shifted
from cata.core.measure.material import HALF_RATE_HZ, Material
from cata.core.taught.places import SHOWN_BY, place_of
from cata.media.decode import Limits, decode
from cata.tasks.desk import Desk
from cata.tasks.shape import Task


@dataclass(frozen=True)
class ToProve:
    """Two listening copies, how much later the second one plays, and the reading to be shown, in which band."""

    copy: str
    other: str
    lag_s: float
    reading: str
    low_hz: float = 0.0
    high_hz: float = 0.0


def prove(wish: ToProve, desk: Desk) -> tuple[float, float]:
    """Start and end in seconds of the first take."""
    take, other = (_carrier(name, desk) for name in (wish.copy, wish.other))
    return place_of(take, shifted(other, wish.lag_s), SHOWN_BY.get(wish.reading, "playing"), wish.low_hz, wish.high_hz)


def _carrier(name: str, desk: Desk) -> Audio:
    with desk.reading(name) as path:
        recording = decode(path, Limits(max_duration_s=float("inf")))
    carrier = Material(recording.clip).work.carrier
    return np.asarray(soxr.resample(carrier, ANALYSIS_RATE_HZ, HALF_RATE_HZ, quality="HQ"), dtype=np.float32)


PROVE = Task("find the place that shows a difference", prove, limit_s=120)
