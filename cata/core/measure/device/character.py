"""How a device breaks up, from a stepped tone: what is left of the level, even against odd overtones, the hand."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
import scipy

from cata.core.measure.device.stepped import CLEAR, Ladder
from cata.core.measure.device.tones import SURE
from cata.core.measure.outcome import Outcome, measured, refused
from cata.said import said

Floats = npt.NDArray[np.float64]

ABOVE_DB, MIN_ABOVE_DB = (3.0, 15.0), 6.0
TOUCH_DB = 6.0
ODD_ONLY_DB = -60.0
BEYOND_ONSET_DB = 6.0


def slope_above(ladder: Ladder, onset: float) -> Outcome:
    """How much louder it still gets above breakup: dB out per dB in, 3 to 15 dB above the 3 % onset."""
    levels = ladder.levels_dbfs
    low, high = onset + ABOVE_DB[0], min(onset + ABOVE_DB[1], float(levels[-1]))
    if high - low < MIN_ABOVE_DB:
        return refused(
            said(
                "little_above",
                "less than {least_db:.0f} dB of level lies above breakup",
                least_db=ABOVE_DB[0] + MIN_ABOVE_DB,
            )
        )
    # Between the steps, so that no step jumps in or out as the onset moves a little.
    curve = scipy.interpolate.PchipInterpolator(levels, ladder.gain_db + levels)
    x = np.linspace(low, high, 49)
    return measured(float(np.polyfit(x, curve(x), 1)[0]))


def at_level(ladder: Ladder, level: float) -> tuple[Floats, Floats]:
    """Power of each harmonic at a level, noise removed, and the noise in each, both (harmonics,): between two steps."""
    levels = ladder.levels_dbfs
    upper = int(np.clip(np.searchsorted(levels, level), 1, len(levels) - 1))
    share = float(np.clip((level - levels[upper - 1]) / (levels[upper] - levels[upper - 1]), 0.0, 1.0))
    weights = np.array([1 - share, share])
    both = slice(upper - 1, upper + 1)
    power = np.abs(ladder.lines[both]) ** 2 - ladder.noise[both]
    return weights @ power, weights @ ladder.noise[both]


def even_odd_db(ladder: Ladder, onset: float) -> Outcome:
    """Even over odd harmonics (from the third) in dB, 6 dB above the 3 % onset or at the highest level.

    Flagged as a bound where one kind lies under the noise, or the even ones 60 dB down.
    """
    level = min(onset + BEYOND_ONSET_DB, float(ladder.levels_dbfs[-1]))
    power, noise = at_level(ladder, level)
    even, odd = float(power[1::2].sum()), float(power[2::2].sum())
    odd_doubt = CLEAR * float(np.sqrt((noise[2::2] ** 2).sum()))
    if odd <= odd_doubt:
        if even <= CLEAR * odd_doubt:
            return refused(said("noise", "no overtones stand clear of the noise"))
        bound = 10 * float(np.log10(even / odd_doubt))
        return measured(bound, said("even_only", "even only"), "at_least")
    doubt = CLEAR * float(np.sqrt((noise[1::2] ** 2).sum()))
    if even <= doubt or 10 * np.log10(even / odd) <= ODD_ONLY_DB:
        bound = max(10 * float(np.log10(doubt / odd)), ODD_ONLY_DB)
        return measured(bound, said("odd_only", "odd only"), "at_most")
    return measured(float(10 * np.log10(even / odd)), said("at_level", "at {level_dbfs:.0f} dBFS", level_dbfs=level))


def touch(ladder: Ladder, nominal_dbfs: float) -> Outcome:
    """How the distortion answers the hand: dB of distortion per dB of playing, within 6 dB of the nominal level."""
    inside = np.abs(ladder.levels_dbfs - nominal_dbfs) <= TOUCH_DB
    thd, doubt = ladder.thd[inside], ladder.thd_doubt[inside]
    if np.count_nonzero(inside) < 4:
        return refused(said("not_sent", "the nominal level lies outside what was sent"))
    if np.any(thd < SURE * doubt):
        return refused(
            said("noise", "at the nominal level it distorts less than the noise: nothing answers the hand yet")
        )
    return measured(float(np.polyfit(ladder.levels_dbfs[inside], 20 * np.log10(thd), 1)[0]))
