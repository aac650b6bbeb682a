"""Room and delay: how long sound hangs on after a damped stop.

A phrase that stops short with silence behind it shows the space of the take: the level falls at once, and what falls
slowly then is the room, a reverb or a delay. A note that rings on by itself never falls at once and is refused.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from cata.core.measure.material import Material, db

HOP_S = 0.01
AFTER_S = 0.7
FALL_DB, FALL_S = 5.0, 0.1
LOUD_DB = 25.0
FIT_RANGE_DB = 12.0
LATE_S = 0.05
RISE_DB = 6.0
OVER_NOISE_DB = 6.0

Floats = npt.NDArray[np.float64]


@dataclass(frozen=True)
class Tail:
    """A tail after a stop: its T60 in seconds (0 where nothing hangs on), when it stops, and the curve of its level."""

    t60_s: float
    stop_s: float
    level_db: list[float]


def levels_of(material: Material) -> Floats:
    """Level every 10 ms in dB of the carrier, shape (frames,)."""
    samples = material.work.carrier
    hop = int(HOP_S * material.work.rate_hz)
    frames = len(samples) // hop
    return db(np.square(samples[: frames * hop].reshape(frames, hop), dtype=np.float64).mean(axis=1))


def _stops(levels: Floats, floor: float) -> list[int]:
    """Frames at which something loud ends and stays away for 0.7 s."""
    after, fall = round(AFTER_S / HOP_S), round(FALL_S / HOP_S)
    top = float(np.percentile(levels, 95))
    found = []
    for frame in range(1, len(levels) - after):
        here = float(levels[frame])
        rest = levels[frame + 1 : frame + after]
        if here < top - LOUD_DB or rest.max() > here - 1.0:
            continue
        # Damped: it falls at once, where a string rings on; and nothing is played into the rest.
        heard = np.maximum(rest, floor + OVER_NOISE_DB)
        risen = float((heard - np.minimum.accumulate(heard)).max())
        if rest[fall - 1 :].max() <= here - FALL_DB and risen < RISE_DB:
            found.append(frame)
    return found


def tail_of(levels: Floats) -> Tail | None:
    """The longest tail after a damped stop, from :func:`levels_of`.

    None where no stop has 0.7 s of rest after it, or all ring on.
    """
    floor = float(np.percentile(levels, 2))
    stops = _stops(levels, floor)
    if not stops:
        return None
    tails = [_tail(levels, frame, floor) for frame in stops]
    return max(tails, key=lambda tail: tail.t60_s)


def _tail(levels: Floats, frame: int, floor: float) -> Tail:
    late = levels[frame + round(LATE_S / HOP_S) : frame + round(AFTER_S / HOP_S)]
    usable = late[: int(np.argmax(late < floor + OVER_NOISE_DB))] if (late < floor + OVER_NOISE_DB).any() else late
    curve = [round(float(value), 1) for value in levels[frame : frame + round(AFTER_S / HOP_S)]]
    if len(usable) < 8 or usable[0] - usable[-1] < FIT_RANGE_DB / 2:
        return Tail(0.0 if len(usable) < 8 else _t60(usable), frame * HOP_S, curve)
    return Tail(_t60(usable), frame * HOP_S, curve)


def _t60(usable: Floats) -> float:
    """From the slope of the backward-integrated energy (Schroeder 1965)."""
    energy = np.cumsum(10 ** (usable[::-1] / 10))[::-1]
    curve = 10 * np.log10(energy / energy[0])
    use = curve > -FIT_RANGE_DB
    if use.sum() < 4:
        return 0.0
    slope = np.polyfit(np.arange(use.sum()) * HOP_S, curve[use], 1)[0]
    return float(-60 / slope) if slope < -1 else float("inf")
