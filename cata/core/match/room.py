"""Room and delay: how far the level falls where the playing stops.

A phrase that stops short shows the space of the take: the level falls at once, and what falls slowly then is the room,
a reverb or a delay; or strings that ring, a compressor or a fuzz that lifts their end. One take alone cannot tell these
apart: the rules hold it against its contender in other tests and against its test through other contenders.
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from cata.core.measure.material import Material, db

HOP_S = 0.01
BEFORE_S = 0.1
AFTER_S = (0.15, 0.35)
QUIET_SHARE = 4.0
"""Percentile of a take's level that is its noise."""
PLAYED_DB = 35.0
STOPS_DB, FLOOR_DB, STILL_DB = 20.0, 4.0, 25.0

Floats = npt.NDArray[np.float64]


def levels_of(material: Material) -> Floats:
    """Level every 10 ms in dB of the carrier, shape (frames,)."""
    samples = material.work.carrier
    hop = int(HOP_S * material.work.rate_hz)
    frames = len(samples) // hop
    return db(np.square(samples[: frames * hop].reshape(frames, hop), dtype=np.float64).mean(axis=1))


def falls_of(levels: Floats, onsets_s: Floats) -> Floats:
    """How far the level falls within a quarter of a second, dB, at each frame after the last stroke; nan before it.

    From the mean power of the 0.1 s before a frame to that of 0.15 to 0.35 s after it.
    """
    before, (first, last) = round(BEFORE_S / HOP_S), (round(one / HOP_S) for one in AFTER_S)
    found = np.full(len(levels), np.nan)
    begin = max(before, (int(onsets_s[-1] / HOP_S) if len(onsets_s) else 0) + before // 2)
    frames = np.arange(begin, len(levels) - last)
    if not len(frames):
        return found
    power = np.concatenate(([0.0], np.cumsum(10 ** (levels / 10))))
    loud = db((power[frames] - power[frames - before]) / before)
    late = db((power[frames + last] - power[frames + first]) / (last - first))
    played = loud > np.percentile(levels, 95) - PLAYED_DB
    found[frames[played]] = (loud - late)[played]
    return found


def stop_of(levels: Floats, onsets_s: Floats) -> float:
    """When the playing stops, seconds after its last stroke; nan where no stop is seen."""
    falls = falls_of(levels, onsets_s)
    if np.isnan(falls).all() or not len(onsets_s):
        return float(np.nan)
    return float(np.nanargmax(falls) * HOP_S - onsets_s[-1])


def still_sounds(levels: Floats, at_s: float) -> bool:
    """Whether a take is loud enough at a time for a stop to be seen there: 20 dB over its noise, and not faded away."""
    at = round(at_s / HOP_S)
    before = levels[max(0, at - round(BEFORE_S / HOP_S)) : max(1, at)]
    if not len(before):
        return False
    playing, floor = np.percentile(levels, (95, QUIET_SHARE))
    return bool(np.mean(before) > max(floor + STOPS_DB, playing - PLAYED_DB))


def fall_of(levels: Floats, onsets_s: Floats) -> float:
    """How far the level falls where the playing stops, dB; nan where that cannot be seen.

    A file that ends while it still sounds does not show the stop; and what falls by less than 20 dB to the take's own
    noise fell by as much as that allows.
    """
    falls = falls_of(levels, onsets_s)
    if np.isnan(falls).all():
        return float(np.nan)
    fall = max(0.0, float(np.nanmax(falls)))
    if fall >= STOPS_DB:
        return fall
    last = round(BEFORE_S / HOP_S)
    end, playing, floor = float(np.mean(levels[-last:])), *np.percentile(levels, (95, QUIET_SHARE))
    # Of frames that fall alike, the first: the last ones lie near the noise by themselves.
    after = int(np.flatnonzero(falls >= fall - 0.1)[0]) + round(AFTER_S[0] / HOP_S)
    late = float(np.mean(levels[after : after + round((AFTER_S[1] - AFTER_S[0]) / HOP_S)]))
    hidden = end > playing - STILL_DB or late < floor + FLOOR_DB
    return float(np.nan) if hidden else fall
