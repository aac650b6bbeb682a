"""What moves in one take and not in another of the same phrase: level, tone and pitch over time, as lines."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
import numpy.typing as npt
import scipy

from cata.core.motion.track import HOP_S, Floats, Track

Kind = Literal["level", "pitch", "tone"]
KINDS: tuple[Kind, ...] = ("level", "pitch", "tone")

LOUD_DB, OVER_FLOOR_DB = (50.0, 60.0), 10.0
AROUND_BINS, UNDER_TOP_DB = 9, 15.0
MOST_DB, MOST_TONE_DB, MOST_CENTS = 15.0, 12.0, 60.0
FEWEST_BINS, FEWEST_LINES, ALIKE_CENTS = 6, 4, 100.0
SIZE, LINES, CHUNK = 1 << 14, 4096, 40
LINE_HZ: Floats = np.arange(LINES) / (SIZE * HOP_S)
HIGHEST_HZ = 14.0

AROUND_HZ, AROUND_FACTOR, GRID = 2.5, 1.6, 600
SPREAD = (0.2, 14.0)
TONE_REACH, LOG_MEAN, LOG_SD, LOG_REACH = (-3.0, 12.0), 0.577, 1.28, (-1.0, 3.5)
"""The log of a noise line's power over its mean scatters by 1.28 about -0.577 (a Gumbel law)."""
OWN_TIMES, OWN_WIDE = 8.0, 6
"""Lines of the phrase itself, eight times over their surroundings, say nothing about a device."""
OWN_TONE = 4.0
RISE_FRAMES, MOST_RISE_DB, STROKE_TIMES, STROKE_GAP = 5, 12.0, 2.0, 6
IN_STEP, IN_STEP_SHARE = 4.0, 0.15
"""Nor do rates with which strokes keep step: chance gives 1, strokes all in step their number."""


@dataclass(frozen=True)
class Moves:
    """What moves in a take and not in another: per kind, how far each of :data:`LINE_HZ` stands out, in deviations.

    ``open_`` are the lines at which the phrase itself does not repeat. ``level_db`` and ``cents`` follow the
    difference over time (frames; 0 where nothing can be told).
    """

    lines: dict[Kind, Floats]
    open_: dict[Kind, npt.NDArray[np.bool_]]
    level_db: Floats
    cents: Floats


def moves_between(take: Track, other: Track, lag_s: float) -> Moves | None:
    """What moves in ``take`` and not in ``other``, which begins ``lag_s`` earlier; None where they hardly overlap."""
    shift = round(lag_s / HOP_S)
    first, start = max(0, shift), max(0, -shift)
    count = min(len(take.levels_db) - first, len(other.levels_db) - start)
    if count < 2 / HOP_S:
        return None
    mine, theirs = take.levels_db[first : first + count], other.levels_db[start : start + count]
    used = _sounding(mine, take.floor_db, theirs, other.floor_db)
    gap = mine - theirs
    level, told = _medians(gap, used, FEWEST_BINS)
    tone = _tone(gap, level, used)
    top = used & (theirs == scipy.ndimage.maximum_filter(theirs, (1, 5)))
    steps = 1200 * np.log2(
        np.maximum(take.hz[first : first + count], 20.0) / np.maximum(other.hz[start : start + count], 20.0)
    )
    cents, pitched = _medians(steps, top & (np.abs(steps) < ALIKE_CENTS), FEWEST_LINES)
    level, cents = _centred(level, told, MOST_DB), _centred(cents, pitched, MOST_CENTS)
    lines: dict[Kind, Floats] = {
        "level": _few(_power(level)), "pitch": _few(_power(cents)), "tone": _many(_power(tone)),
    }  # fmt: skip
    own = _own_lines(theirs)
    own_tone = _many(_power(_tone(theirs, _medians(theirs, used, FEWEST_BINS)[0], used))) > OWN_TONE
    own_tone = scipy.ndimage.binary_dilation(own_tone, iterations=OWN_WIDE)
    return Moves(lines, {"level": ~own, "pitch": ~own, "tone": ~(own | own_tone)}, level, cents)


def _tone(levels_db: Floats, level: Floats, used: npt.NDArray[np.bool_]) -> Floats:
    """Levels less that of their frame, and less the mean of their bin."""
    tone = np.where(used, np.clip(levels_db - level[:, None], -MOST_TONE_DB, MOST_TONE_DB), 0.0)
    return np.asarray(np.where(used, tone - tone.sum(axis=0) / np.maximum(used.sum(axis=0), 1), 0.0))


def _sounding(mine: Floats, my_floor: Floats, theirs: Floats, their_floor: Floats) -> npt.NDArray[np.bool_]:
    """Where both sound: lines of notes well over the noise, not the gaps between them."""
    top = scipy.ndimage.maximum_filter(theirs, (1, AROUND_BINS))
    found = (theirs > top - UNDER_TOP_DB) & (theirs > theirs.max() - LOUD_DB[0]) & (mine > mine.max() - LOUD_DB[1])
    return np.asarray(found & (mine > my_floor + OVER_FLOOR_DB) & (theirs > their_floor + OVER_FLOOR_DB))


def _medians(values: Floats, used: npt.NDArray[np.bool_], least: int) -> tuple[Floats, npt.NDArray[np.bool_]]:
    """Median of what is used of each frame, 0 where that is too little, and where it is enough."""
    enough = used.sum(axis=1) >= least
    found = np.zeros(len(values))
    found[enough] = np.nanmedian(np.where(used[enough], values[enough], np.nan), axis=1)
    return found, enough


def _centred(values: Floats, told: npt.NDArray[np.bool_], most: float) -> Floats:
    if not told.any():
        return np.zeros_like(values)
    return np.asarray(np.where(told, np.clip(values - np.median(values[told]), -most, most), 0.0))


def _power(values: Floats) -> Floats:
    """Power of the lines of a curve over time, summed over the bins where there are several."""
    if values.ndim == 1:
        return np.asarray(np.square(np.abs(scipy.fft.rfft(values, SIZE)[:LINES])))
    total = np.zeros(LINES)
    for at in range(0, values.shape[1], CHUNK):
        spectra = scipy.fft.rfft(values[:, at : at + CHUNK], SIZE, axis=0)[:LINES]
        total += np.square(np.abs(spectra)).sum(axis=1)
    return total


def _around(power: Floats) -> Floats:
    """What surrounds each line: medians over 2.5 Hz, and over a factor of 1.6 either way where that is more."""
    linear = scipy.ndimage.median_filter(power, round(AROUND_HZ / LINE_HZ[1]) | 1, mode="nearest")
    grid = np.geomspace(0.1, 20.0, GRID)
    logs = np.interp(grid, LINE_HZ, np.log(power + 1e-12))
    wide = round(2 * np.log(AROUND_FACTOR) / np.log(grid[1] / grid[0])) | 1
    middles = scipy.ndimage.median_filter(logs, wide, mode="nearest")
    slow = np.exp(np.interp(np.log(np.maximum(LINE_HZ, 0.05)), np.log(grid), middles))
    return np.asarray(np.maximum(np.maximum(linear, slow), 1e-12))


def _few(power: Floats) -> Floats:
    """How far the lines of one curve stand out."""
    over = power / _around(power) * np.log(2)
    return np.asarray(np.clip((np.log(over + 1e-3) + LOG_MEAN) / LOG_SD, *LOG_REACH))


def _many(power: Floats) -> Floats:
    """How far the lines of several hundred curves together stand out, by what they scatter by."""
    over = power / _around(power) - 1
    inside = (SPREAD[0] < LINE_HZ) & (SPREAD[1] > LINE_HZ)
    sd = 1.4826 * float(np.median(np.abs(over[inside])))
    return np.asarray(np.clip(over / max(sd, 0.05), *TONE_REACH))


def _own_lines(levels_db: Floats) -> npt.NDArray[np.bool_]:
    """Lines at which the phrase itself repeats: of its level, of its rises, and of its strokes."""
    level = scipy.special.logsumexp(levels_db * (np.log(10) / 10), axis=1) / np.log(10)
    level = np.clip(level - level.mean(), -2, 2)
    rises, by_bin = np.zeros(len(level)), np.zeros(len(level))
    rises[RISE_FRAMES:] = np.maximum(level[RISE_FRAMES:] - level[:-RISE_FRAMES], 0.0)
    heard = np.maximum(levels_db, levels_db.max() - LOUD_DB[0])
    by_bin[RISE_FRAMES:] = np.clip(heard[RISE_FRAMES:] - heard[:-RISE_FRAMES], 0, MOST_RISE_DB).mean(axis=1)
    found = np.zeros(LINES, dtype=bool)
    for curve in (level, rises - rises.mean(), by_bin - by_bin.mean()):
        power = _power(curve)
        found |= power > OWN_TIMES * _around(power)
    strokes, _ = scipy.signal.find_peaks(by_bin, height=STROKE_TIMES * float(np.median(by_bin)), distance=STROKE_GAP)
    if len(strokes) > 1:
        train = np.zeros(len(level))
        train[strokes] = 1.0
        found |= _power(train) / len(strokes) > max(IN_STEP, IN_STEP_SHARE * len(strokes))
    return np.asarray(scipy.ndimage.binary_dilation(found, iterations=OWN_WIDE))
