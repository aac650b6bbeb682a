"""The place in two takes that shows a difference between them most: a few seconds to listen to again and again."""

from __future__ import annotations

from typing import Literal

import numpy as np
import numpy.typing as npt

from cata.core.clip import Audio
from cata.core.drive.grain import BIN_HZ, HOP, SIZE, TOP, spectra_of
from cata.core.measure import frames
from cata.core.measure.material import HALF_RATE_HZ, db

Floats = npt.NDArray[np.float64]
Shown = Literal["band", "decay", "rest", "playing"]
LENGTH_S = 3.0
FRAME_S = HOP / HALF_RATE_HZ
SHOWN_BY: dict[str, Shown] = {"tone": "band", "sustain": "decay", "motion": "decay", "noise_floor_dbfs": "rest"}


def place_of(take: Audio, other: Audio, shown: Shown, low_hz: float = 0.0, high_hz: float = 0.0) -> tuple[float, float]:
    """Start and end in seconds of the stretch; both takes at 24 kHz, the second laid under the first.

    "band": where level and difference in the band are greatest together, loudness aside; "decay": the longest held
    note's end; "rest": the quietest stretch; "playing": the loudest.
    """
    mine, theirs = (frames.power(spectra_of(one)).astype(np.float64) for one in (take, other))
    count = min(len(mine), len(theirs))
    width = max(1, min(count, round(LENGTH_S / FRAME_S)))
    level = mine[:count].sum(axis=1)
    if shown == "band":
        low, high = round(max(low_hz, 60.0) / BIN_HZ), round(min(high_hz or 8000.0, 8000.0) / BIN_HZ)
        scale = level.sum() / max(theirs[:count].sum(), 1e-30)
        bands = [one[:count, low : min(high, TOP)].sum(axis=1) for one in (mine, theirs * scale)]
        worth = np.abs(np.sqrt(bands[0]) - np.sqrt(bands[1]))
    elif shown == "rest":
        worth = -level
    elif shown == "decay":
        worth = _held(level)
    else:
        worth = np.sqrt(level)
    sums = np.convolve(worth, np.ones(width), mode="valid")
    start = float(int(np.argmax(sums)) * FRAME_S)
    return start, min(start + LENGTH_S, len(take) / HALF_RATE_HZ, start + width * FRAME_S + SIZE / HALF_RATE_HZ)


def _held(level: Floats) -> Floats:
    """Counts frames since the last stroke while something still sounds: greatest at the end of the longest note."""
    loud = db(level)
    top = float(np.percentile(loud, 95))
    held = np.zeros(len(level))
    for at in range(1, len(level)):
        if loud[at] > top - 40 and loud[at] < loud[at - 1] + 3:
            held[at] = held[at - 1] + 1
    return held
