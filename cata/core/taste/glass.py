"""What is poured into a glass: the same stretch of every take at its level, of one length, nothing to know it by."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt
import scipy

from cata.core.clip import Audio

FADE_S = 0.02
FULL_SCALE = 2**23
ANCHOR_ORDER = 10
MOST_DOWN_DB = 0.1
BLOCK = 1 << 17


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


def wine(audio: Audio, rate_hz: int, lag_s: float, gain_db: float, stretch: Stretch, *, below_hz: float = 0.0) -> Audio:
    """What fills a glass, (2, samples): a take cut to the stretch, at its gain, faded at both ends.

    ``below_hz``: without what lies above, where it is not 0.
    """
    first, count = round((stretch.start_s + lag_s) * rate_hz), round(stretch.length_s * rate_hz)
    cut = np.zeros((audio.shape[0], count), dtype=np.float32)
    there = audio[:, max(0, first) : max(0, first + count)]
    cut[:, max(0, -first) : max(0, -first) + there.shape[1]] = there
    if below_hz:
        low_pass = scipy.signal.butter(ANCHOR_ORDER, below_hz, fs=rate_hz, output="sos").astype(np.float32)
        cut = scipy.signal.sosfilt(low_pass, cut, axis=1)
    both = np.repeat(cut, 2, axis=0) if len(cut) == 1 else cut[:2]
    both *= np.float32(10 ** (gain_db / 20)) * _fades(count, round(FADE_S * rate_hz))
    return np.asarray(both, dtype=np.float32)


def poured(filled: Audio, chance: np.random.Generator) -> npt.NDArray[np.uint8]:
    """One pouring of (2, samples) as the bytes of 24-bit samples in turn, with a gain and a last bit of its own.

    No two pourings of a take have the same bytes, and their difference is no silence. The gain, at most 0.1 dB down, is
    a tenth of what can be heard. It takes as long and makes as much, whatever is poured.
    """
    gain = np.float32(10 ** (-MOST_DOWN_DB * chance.random() / 20))
    out = np.empty(filled.T.shape, dtype="<i4")
    for at in range(0, filled.shape[1], BLOCK):
        part = filled[:, at : at + BLOCK].T
        noise = chance.integers(0, 256, (2, *part.shape), dtype=np.int16)
        whole = np.rint(part * gain * FULL_SCALE) + (noise[0] - noise[1]) / np.float32(256)
        out[at : at + BLOCK] = np.clip(np.rint(whole), -FULL_SCALE, FULL_SCALE - 1)
    return np.ascontiguousarray(out.view(np.uint8).reshape(-1, 4)[:, :3])


def _fades(count: int, fade: int) -> npt.NDArray[np.floating[Any]]:
    curve = np.ones(count, dtype=np.float32)
    fade = min(fade, count // 2)
    if fade:
        rise = 0.5 - 0.5 * np.cos(np.pi * np.arange(fade) / fade)
        curve[:fade] *= rise
        curve[-fade:] *= rise[::-1]
    return curve
