"""How a device goes on sounding: the reverb's tail, from the response to a sweep.

The sweep reaches 4 kHz two seconds before the next one begins, so below that its response is whole for two seconds. The
direct sound is left out; what follows must fall evenly, as a room or a spring does and an echo does not.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import scipy

from cata.core.clip import ANALYSIS_RATE_HZ
from cata.core.measure.device import sweeps
from cata.core.measure.device.returned import Returned, Sent
from cata.core.measure.material import db
from cata.core.signals.testfile.waves import amplitude
from cata.said import Said, said

Floats = npt.NDArray[np.float64]

SWEPT_DBFS = -30.0
"""The sweep that is used: loud against the noise, soft against any breakup."""
LOW_HZ, HIGH_HZ, SKIRT = 200.0, 4000.0, 0.2
DIRECT_S, TAIL_FROM_S, TAIL_TO_S = 0.020, 0.060, 1.9
BLOCK_S = 0.04
CLEAR_DB, MIN_FALL_DB, MIN_BLOCKS = 8.0, 15.0, 6
MAX_UNEVEN_DB = 2.0
LEAST_DB = -45.0


@dataclass(frozen=True)
class Tail:
    """``t60_s`` the time in which the tail falls by 60 dB; ``level_db`` its energy against the direct sound's."""

    t60_s: float
    level_db: float


def read_tail(returned: Returned, sent: Sent) -> Tail | Said:
    """The tail after each sound, 200 Hz to 4 kHz; why there is none, or none that falls evenly."""
    section = next((one for one in returned.plan.of("sweep") if one.levels_dbfs[0] == SWEPT_DBFS), None)
    if section is None:
        return said("no_sweep", "this part of the file holds no sweep")
    level = section.levels_dbfs[0] + sent.level_db
    after = next((one.start_s for one in returned.plan.sections if one.start_s > section.start_s), section.end_s + 0.3)
    length = round((after - section.start_s + sweeps.BEFORE_S) * ANALYSIS_RATE_HZ)
    taken = returned.cut(section.start_s - sweeps.BEFORE_S, length)
    fade = round(0.05 * ANALYSIS_RATE_HZ)
    taken[-fade:] *= 0.5 + 0.5 * np.cos(np.pi * np.arange(fade) / fade)
    response = _band(sweeps.deconvolved(taken / amplitude(level)))
    origin = round(sweeps.BEFORE_S * ANALYSIS_RATE_HZ)
    reach = round(0.2 * ANALYSIS_RATE_HZ)
    peak = origin + int(np.argmax(np.abs(response[origin - 2400 : origin + reach]))) - 2400
    direct = float(np.sum(response[peak - 480 : peak + round(DIRECT_S * ANALYSIS_RATE_HZ)] ** 2))
    block = round(BLOCK_S * ANALYSIS_RATE_HZ)
    first = peak + round(TAIL_FROM_S * ANALYSIS_RATE_HZ)
    count = round((TAIL_TO_S - TAIL_FROM_S) / BLOCK_S)
    energy = np.sum(response[first : first + count * block].reshape(count, block) ** 2, axis=1)
    start, slope, noise = _fall(energy)
    t = (np.arange(count) + 0.5) * BLOCK_S + TAIL_FROM_S
    heard = start + slope * t > noise + CLEAR_DB
    last = int(np.argmin(heard)) if not heard.all() else count
    if last < MIN_BLOCKS or start + slope * t[0] - db(direct) < LEAST_DB:
        return said("no_tail", "no tail: it falls silent with the sound, or into the noise")
    if -slope * (t[last - 1] - t[0]) < MIN_FALL_DB:
        return said(
            "falls_little",
            "what goes on sounding falls too little within two seconds, or drowns too soon, to be a tail",
        )
    levels = db(np.maximum(energy[:last] - 10 ** (noise / 10), 1e-3 * energy[:last]))
    uneven = float(np.std(levels - (slope * t[:last] + start)))
    if uneven > MAX_UNEVEN_DB:
        return said(
            "uneven",
            "what goes on sounding does not fall evenly ({off_db:.1f} dB off a straight fall): an echo, not a tail",
            off_db=uneven,
        )
    # The straight fall from its beginning on, also where the direct sound covers it.
    rate = -slope * np.log(10) / 10
    whole = 10 ** ((start - 10 * np.log10(BLOCK_S)) / 10) / rate
    return Tail(float(-60.0 / slope), float(db(whole / direct)))


def _band(response: Floats) -> Floats:
    spectrum = np.fft.rfft(response)
    hz = np.fft.rfftfreq(len(response), 1 / ANALYSIS_RATE_HZ)
    rise = np.clip((hz / LOW_HZ - (1 - SKIRT)) / SKIRT, 0, 1)
    fall = np.clip(((1 + SKIRT) - hz / HIGH_HZ) / SKIRT, 0, 1)
    return np.asarray(np.fft.irfft(spectrum * np.sin(0.5 * np.pi * rise) * np.sin(0.5 * np.pi * fall), len(response)))


def _fall(energy: Floats) -> tuple[float, float, float]:
    """A straight fall into noise: dB at the direct sound, dB a second, and the noise's dB a block."""
    levels = db(energy)
    t = (np.arange(len(energy)) + 0.5) * BLOCK_S + TAIL_FROM_S

    def misfit(p: Floats) -> Floats:
        return np.asarray(db(10 ** ((p[0] + p[1] * t) / 10) + 10 ** (p[2] / 10)) - levels)

    first, floor = float(levels[:2].mean()), float(levels.min())
    starts = [(first, (floor - first) / at, floor - below) for at in (0.4, 1.0, 2.0) for below in (1.0, 15.0)]
    fits = [scipy.optimize.least_squares(misfit, one, loss="soft_l1") for one in starts]
    best = min(fits, key=lambda fit: float(fit.cost))
    return float(best.x[0]), float(best.x[1]), float(best.x[2])
