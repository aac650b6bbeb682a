"""What is poured into a glass: the same stretch of every take at its level, of one length, nothing to know it by."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt
import scipy

from cata.core.clip import Audio
from cata.core.taste.rate import ANCHOR_HZ

FADE_S = 0.02
LAST_BIT = 2.0**-23
ANCHOR_ORDER = 10


@dataclass(frozen=True)
class Stretch:
    """Seconds of a common time line that all takes of a test have; ``lag`` of each is where it begins in the take."""

    start_s: float
    end_s: float

    @property
    def length_s(self) -> float:
        """How long it is; nothing where takes have no time in common."""
        return max(0.0, self.end_s - self.start_s)


def common(takes: list[tuple[float, float]]) -> Stretch:
    """The stretch that takes have in common, each given by its lag and its duration in seconds."""
    return Stretch(max(-lag for lag, _ in takes), min(duration - lag for lag, duration in takes))


def glass(
    audio: Audio, rate_hz: int, lag_s: float, gain_db: float, stretch: Stretch, chance: np.random.Generator, *,
    dulled: bool = False,
) -> Audio:  # fmt: skip
    """The samples of a glass, (2, samples): cut to the stretch, at its gain, faded at both ends.

    Noise of the last bit of 24 makes every pouring other bytes, so that two of the same cannot be known by them.
    """
    first, count = round((stretch.start_s + lag_s) * rate_hz), round(stretch.length_s * rate_hz)
    cut = np.zeros((audio.shape[0], count), dtype=np.float64)
    there = audio[:, max(0, first) : first + count]
    cut[:, max(0, -first) : max(0, -first) + there.shape[1]] = there
    if dulled:
        cut = scipy.signal.sosfilt(scipy.signal.butter(ANCHOR_ORDER, ANCHOR_HZ, fs=rate_hz, output="sos"), cut, axis=1)
    both = np.repeat(cut, 2, axis=0) if len(cut) == 1 else cut[:2]
    both *= 10 ** (gain_db / 20) * _fades(count, round(FADE_S * rate_hz))
    both += (chance.random(both.shape) - chance.random(both.shape)) * LAST_BIT
    return np.asarray(np.clip(both, -1.0, 1.0 - LAST_BIT), dtype=np.float32)


def _fades(count: int, fade: int) -> npt.NDArray[np.floating[Any]]:
    curve = np.ones(count)
    fade = min(fade, count // 2)
    if fade:
        rise = 0.5 - 0.5 * np.cos(np.pi * np.arange(fade) / fade)
        curve[:fade] *= rise
        curve[-fade:] *= rise[::-1]
    return curve
