"""Loudness in sone over time, after ISO 532-1:2017, method for time-varying sounds, free field.

Every step works on all moments at once, but for the decay in the ear, which goes from moment to moment: there the take
is cut into stretches that run side by side, each begun early enough to have forgotten its beginning.
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
import scipy

from cata.core.clip import ANALYSIS_RATE_HZ, Audio
from cata.core.hearing.tables import (
    EAR_DB,
    ENDS_BARK,
    FILTERS,
    LOW_BANDS,
    LOWERED_DB,
    NUMERATORS,
    RANGES_DB,
    SLOPES,
    STEPS_SONE,
    THRESHOLD_DB,
    WIDTH_DB,
)

Floats = npt.NDArray[np.float64]

STEP = 24
MOMENT_HZ = ANALYSIS_RATE_HZ // STEP
"""Moments a second at which loudness is followed."""
LISTENING_DB, AT_LUFS = 75.0, -23.0
"""The level at which takes are listened to: sound pressure in dB of what measures -23 dBFS."""
REFERENCE_POWER, TINY_POWER = 4e-10, 1e-12
SHORT_S, LONG_S, VARIABLE_S = 0.005, 0.015, 0.075
SUBSTEPS = 2
"""Of 24 in the standard: N5 of played guitars differs by less than 0.02 %."""
STRETCH_S, EARLY_S = 0.35, 0.35
QUICK_S, SLOW_S, QUICK_SHARE = 0.0035, 0.07, 0.47


def third_octaves(samples: Audio) -> Floats:
    """Levels of 28 third octaves, 25 Hz to 12.5 kHz, at 2 kHz, shape (28, moments): dB re 20 µPa.

    ``samples`` at 48 kHz, full scale 1.0, heard at :data:`LISTENING_DB`.
    """
    pascal = samples.astype(np.float64) * (2e-5 * 10 ** ((LISTENING_DB - AT_LUFS) / 20))
    levels = np.empty((len(FILTERS), -(-len(samples) // STEP)))
    for band, (gain, *feedback) in enumerate(FILTERS):
        sections = [
            (*numerator, 1.0, -2.0 - feedback[2 * n], 1.0 - feedback[2 * n + 1])
            for n, numerator in enumerate(NUMERATORS)
        ]
        power = np.square(gain * scipy.signal.sosfilt(np.array(sections), pascal))
        centre_hz = 1000.0 * 10 ** ((band - 16) / 10)
        kept = np.exp(-1.0 / (ANALYSIS_RATE_HZ * 2 / (3 * min(centre_hz, 1000.0))))
        # Three equal averages one after the other, in one pass.
        smooth = scipy.signal.lfilter([(1 - kept) ** 3], [1, -3 * kept, 3 * kept**2, -(kept**3)], power)
        levels[band] = np.maximum(smooth[::STEP], 0.0)
    return np.asarray(10 * np.log10((levels + TINY_POWER) / REFERENCE_POWER))


def loudness_sone(levels_db: Floats, gain_db: float = 0.0) -> Floats:
    """Loudness at 2 kHz of third octaves at 2 kHz, all of them raised by a gain, shape (moments,): sone."""
    return _weighted(_summed(_decayed(_core(levels_db + gain_db))))


def exceeded(sone: Floats, percent: float = 5.0) -> float:
    """What loudness exceeds in so many percent of the time (N5)."""
    return float(np.percentile(sone[::4], 100 - percent))


def critical_bands(levels: Floats) -> Floats:
    """Levels in dB of 20 critical bands as they reach the inner ear, of third octaves, shape (20, moments)."""
    low = levels[: LOWERED_DB.shape[1]]
    lowered = np.select(
        [low <= limit - drop[:, None] for limit, drop in zip(RANGES_DB[:-1], LOWERED_DB[:-1], strict=True)],
        [np.broadcast_to(drop[:, None], low.shape) for drop in LOWERED_DB[:-1]],
        default=np.broadcast_to(LOWERED_DB[-1][:, None], low.shape),
    )
    intensity = 10 ** ((low + lowered) / 10)
    bands = levels[8:].copy()
    for band, (first, last) in enumerate(LOW_BANDS):
        bands[band] = 10 * np.log10(intensity[first:last].sum(axis=0))
    return np.asarray(bands - EAR_DB[:, None])


def specific(bands: Floats) -> Floats:
    """Specific (core) loudness of critical bands, of the same shape: nothing under the threshold in quiet."""
    heard = bands > THRESHOLD_DB[:, None]
    over = bands - WIDTH_DB[:, None] - THRESHOLD_DB[:, None]
    core = 0.0635 * 10 ** (0.025 * THRESHOLD_DB[:, None]) * ((0.75 + 0.25 * 10 ** (0.1 * over)) ** 0.25 - 1)
    core = np.where(heard, np.maximum(core, 0.0), 0.0)
    core[0] *= np.minimum(0.4 + 0.32 * core[0] ** 0.2, 1.0)
    return np.asarray(core)


def _core(levels: Floats) -> Floats:
    """Core loudness of 20 critical bands and nothing above them, shape (21, moments)."""
    core = specific(critical_bands(levels))
    return np.concatenate([core, np.zeros((1, core.shape[1]))])


def _decayed(core: Floats) -> Floats:
    """Core loudness with the decay of the ear: quick after short sounds, slow after long ones (clause 6.4)."""
    bands, moments = core.shape
    stretch, early = round(STRETCH_S * MOMENT_HZ), round(EARLY_S * MOMENT_HZ)
    count = -(-moments // stretch)
    padded = np.pad(core, ((0, 0), (early, count * stretch - moments + 1)))
    starts = np.arange(count) * stretch
    lanes = np.stack([padded[:, start : start + early + stretch + 1] for start in starts], axis=1)
    lanes = np.ascontiguousarray(np.moveaxis(lanes, 2, 0)).reshape(early + stretch + 1, bands * count)
    found = np.empty_like(lanes)
    out, held = np.zeros(bands * count), np.zeros(bands * count)
    b = _decay_coefficients()
    for at in range(early + stretch):
        step = (lanes[at + 1] - lanes[at]) / SUBSTEPS
        for sub in range(SUBSTEPS):
            out, held = _ear(lanes[at] + sub * step, out, held, b)
            if sub == 0:
                found[at] = out
    kept = found[early : early + stretch].reshape(stretch, bands, count)
    return np.ascontiguousarray(np.moveaxis(kept, 0, 2)).reshape(bands, count * stretch)[:, :moments]


def _ear(new: Floats, out: Floats, held: Floats, b: tuple[float, ...]) -> tuple[Floats, Floats]:
    """One step of two coupled capacitors: the output, and what is held of it."""
    falls, charged = new < out, out > held
    both = np.maximum(b[2] * out - b[3] * held, new)
    alone = np.maximum(b[4] * out, new)
    after = np.where(falls, np.where(charged, both, alone), new)
    kept = np.where(charged, np.minimum(b[0] * out - b[1] * held, after), after)
    rising = new + (held - new) * b[5]
    steady = ~falls & (np.abs(new - out) < 1e-5) & ~charged
    return after, np.where(falls, kept, np.where(steady, new, rising))


def _decay_coefficients() -> tuple[float, ...]:
    step = 1.0 / (MOMENT_HZ * SUBSTEPS)
    p = (VARIABLE_S + LONG_S) / (VARIABLE_S * SHORT_S)
    q = 1.0 / (SHORT_S * VARIABLE_S)
    one, two = (-p / 2 + sign * np.sqrt(p * p / 4 - q) for sign in (1, -1))
    over = VARIABLE_S * (one - two)
    e1, e2 = np.exp(one * step), np.exp(two * step)
    first, second = VARIABLE_S * one + 1, VARIABLE_S * two + 1
    return (
        (e1 - e2) / over, (second * e1 - first * e2) / over, (first * e1 - second * e2) / over,
        first * second * (e1 - e2) / over, np.exp(-step / LONG_S), np.exp(-step / VARIABLE_S),
    )  # fmt: skip


def _summed(core: Floats) -> Floats:
    """Loudness: the core of every band with the slopes by which it masks the bands above (annex A, table A.9)."""
    moments = core.shape[1]
    total, at, height = np.zeros(moments), np.zeros(moments), np.zeros(moments)
    step = np.zeros(moments, dtype=np.intp)
    last = len(STEPS_SONE) - 1
    for band, end in enumerate(ENDS_BARK):
        column = min(max(band - 1, 0), SLOPES.shape[1] - 1)
        mine = core[band]
        level = height <= mine
        # Where the band itself is higher, it stands as a block to its end.
        rises = height < mine
        total += np.where(level, mine * (end - at), 0.0)
        step = np.where(rises, np.searchsorted(-STEPS_SONE, -mine, side="left").clip(0, last), step)
        at, height = np.where(level, end, at), np.where(level, mine, height)
        active = np.flatnonzero(~level)
        while len(active):
            here, high = at[active], height[active]
            low = np.maximum(STEPS_SONE[step[active]], mine[active])
            steep = SLOPES[step[active], column]
            width = (high - low) / steep
            over = here + width > end
            width = np.where(over, end - here, width)
            low = np.where(over, high - width * steep, low)
            total[active] += width * (high + low) / 2
            at[active], height[active] = np.where(over, end, here + width), low
            # Having come down to the band itself, it stands as a block.
            block = ~over & (low <= mine[active])
            whole = active[block]
            total[whole] += mine[whole] * (end - at[whole])
            at[whole], height[whole] = end, mine[whole]
            step[active] = np.where(
                (low <= STEPS_SONE[step[active]]) & (step[active] < last), step[active] + 1, step[active]
            )
            active = active[~over & ~block]
    return total


def _weighted(sone: Floats) -> Floats:
    """Short sounds are softer: a quick and a slow average (clause 6.5)."""
    return QUICK_SHARE * _average(sone, QUICK_S) + (1 - QUICK_SHARE) * _average(sone, SLOW_S)


def _average(values: Floats, seconds: float) -> Floats:
    """A first-order low pass on values between which straight lines are drawn, 24 steps each."""
    kept = np.exp(-1.0 / (MOMENT_HZ * STEP * seconds))
    powers = (1 - kept) * kept ** np.arange(STEP - 1, -1, -1)
    along = np.arange(1, STEP + 1) / STEP
    new, old = float(powers @ along), float(powers @ (1 - along))
    return np.asarray(scipy.signal.lfilter([new, old], [1, -(kept**STEP)], values))
