"""Stepped tones: gain, breakup and compression from the harmonics at each level (:mod:`.stepped`)."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
import scipy

from cata.core.measure.device.stepped import Ladder
from cata.core.measure.outcome import Outcome, measured, refused
from cata.said import Said, said

AT_LOWEST = said("at_lowest", "already there at the lowest level that can be judged")

Floats = npt.NDArray[np.float64]

LINEAR_THD, LINEAR_GAIN_DB = 0.002, 0.1
ONSETS_PERCENT = (1, 3, 10)
GAIN_ERROR_DB, MAX_GAIN_ERROR_DB = 0.02, 0.3
MIN_LINE_STEPS = 20
EXTRAPOLATED_STEPS, MAX_EXTRAPOLATED_THD = 6, 0.03
SURE = 3.0
"""A distortion is known where it exceeds its own uncertainty so many times over."""
STRAY = 5.0
"""Standard deviations that one of a hundred steps may stray by chance."""
INHARMONIC_SHARE = 0.5
SMOOTH_DB, MAX_MISFIT = 2.5, 2.0


def small_signal_db(ladder: Ladder) -> Outcome:
    """Gain in dB before anything distorts: the linear steps weighted by how far they stand clear of the noise.

    Linear: distortion under 0.2 %, gain within 0.1 dB of the steps below. Refused where even the lowest step breaks up.
    """
    amplitudes = np.abs(ladder.lines[:, 0]) / 10 ** (ladder.levels_dbfs / 20)
    variance = ladder.noise[:, 0] / 2 / 10 ** (ladder.levels_dbfs / 10)
    weights = 1 / np.maximum(variance, 1e-14 * amplitudes**2)
    thd, doubt = ladder.thd, ladder.thd_doubt
    last = -1
    for step in range(len(amplitudes)):
        if thd[step] - SURE * doubt[step] > LINEAR_THD:
            break
        if step >= 2:
            near = float(np.average(amplitudes[:step], weights=weights[:step]))
            slack = near * (10 ** (LINEAR_GAIN_DB / 20) - 1) + STRAY * float(np.sqrt(variance[step]))
            if abs(amplitudes[step] - near) > slack:
                break
        last = step
    if last < 2:
        return _extrapolated(ladder, amplitudes, weights)
    # Two estimates, and the surer one: the mean of the quietest steps, or a line in A² through all linear ones.
    steps = slice(0, last + 1)
    error_db = 8.7 / np.sqrt(np.cumsum(weights[steps])) / amplitudes[steps]
    enough = int(np.argmax(error_db < GAIN_ERROR_DB)) if np.any(error_db < GAIN_ERROR_DB) else last
    enough = max(enough, 2)
    mean = float(np.average(amplitudes[: enough + 1], weights=weights[: enough + 1]))
    left_db = float(error_db[enough])
    if last >= MIN_LINE_STEPS:
        x = 10 ** (ladder.levels_dbfs[steps] / 10)
        design = np.stack([np.ones_like(x), x / x[-1]], axis=1)
        inverse = np.linalg.inv((design * weights[steps, None]).T @ design)
        start = float((inverse @ (design * weights[steps, None]).T @ amplitudes[steps])[0])
        line_db = 8.7 * float(np.sqrt(inverse[0, 0])) / max(start, 1e-12)
        if start > 0 and line_db < left_db:
            mean, left_db = start, line_db
    if left_db > MAX_GAIN_ERROR_DB:
        return refused(said("noise", "too much noise at the levels before breakup"))
    flag = (
        None if left_db < LINEAR_GAIN_DB else said("noise", "± {doubt_db:.1f} dB for its noise", doubt_db=2 * left_db)
    )
    return measured(20 * float(np.log10(mean)), flag)


def _extrapolated(ladder: Ladder, amplitudes: Floats, weights: Floats) -> Outcome:
    """The gain drawn back to nothing along A², where even the lowest steps distort a little."""
    few = slice(0, EXTRAPOLATED_STEPS)
    if float(ladder.thd[few].max()) > MAX_EXTRAPOLATED_THD:
        return refused(
            said(
                "always_distorts",
                "distorts already at {level_dbfs:.0f} dBFS: no level is small enough",
                level_dbfs=float(ladder.levels_dbfs[0]),
            )
        )
    x = 10 ** (ladder.levels_dbfs[few] / 10)
    _slope, start = np.polyfit(x / x[-1], amplitudes[few], 1, w=np.sqrt(weights[few] / weights[few].max()))
    return measured(
        20 * float(np.log10(start)), said("extrapolated", "drawn back from the lowest levels, which distort a little")
    )


def _crossing(levels: Floats, values: Floats, target: float) -> float | None:
    """Where a curve first rises through a target (monotone cubic between the points)."""
    above = np.flatnonzero((values[:-1] < target) & (values[1:] >= target))
    if not len(above):
        return None
    at = int(above[0])
    curve = scipy.interpolate.PchipInterpolator(levels, values - target)
    roots = [float(r) for r in curve.roots(extrapolate=False) if levels[at] <= r <= levels[at + 1]]
    # Rounding of the cubic at a corner must not lose the crossing that the points show.
    return roots[0] if roots else float(levels[at + 1])


def _smoothed(levels: Floats, thd: Floats, doubt: Floats, target: float, near: float) -> float:
    """The crossing near a place from a parabola through the points around it, where they scatter by noise only.

    A curve with a corner does not fit a parabola: there the place itself stands.
    """
    used = (np.abs(levels - near) <= SMOOTH_DB) & (thd > 0)
    if np.count_nonzero(used) < 6:
        return near
    x, y, error = levels[used] - near, np.log(thd[used]), doubt[used] / thd[used]
    fit = np.polyfit(x, y, 2, w=1 / np.maximum(error, 1e-6))
    misfit = float(np.mean(((y - np.polyval(fit, x)) / np.maximum(error, 1e-6)) ** 2)) * len(x) / (len(x) - 3)
    roots = np.roots(fit - np.array([0.0, 0.0, np.log(target)]))
    real = [float(r.real) for r in roots if abs(r.imag) < 1e-9 and abs(r.real) <= SMOOTH_DB / 2]
    return near + min(real, key=abs) if misfit < MAX_MISFIT and real else near


def inharmonic(percent: float, level_dbfs: float) -> Said:
    """Why harmonics do not tell the distortion: something else sounds between them."""
    return said(
        "inharmonic",
        "it adds {percent:.2g} % at no overtone of the tone, at {level_dbfs:.0f} dBFS: an octave below, a second "
        "pitch, or aliases; harmonics do not tell its distortion",
        percent=percent,
        level_dbfs=level_dbfs,
    )


def onset_dbfs(ladder: Ladder, percent: float) -> Outcome:
    """The level at which distortion first reaches a share, dBFS of the file as sent.

    Flagged "≤" where the lowest level that can be judged lies over it already; refused where it is never reached, and
    where half as much has sounded before at no overtone at all.
    """
    found = _onset(ladder, percent)
    last = found.value if isinstance(found.value, float) else np.inf
    strange = np.where(ladder.levels_dbfs <= last + 0.5, ladder.inharmonic, 0.0)
    at = int(np.argmax(strange))
    if strange[at] > percent / 100 * INHARMONIC_SHARE:
        return refused(inharmonic(100 * float(strange[at]), float(ladder.levels_dbfs[at])))
    return found


def _onset(ladder: Ladder, percent: float) -> Outcome:
    target = percent / 100
    thd, doubt = ladder.thd, ladder.thd_doubt
    judged = np.flatnonzero(SURE * ladder.judging_doubt < np.maximum(target, thd))
    if not len(judged):
        return refused(said("noise", "too much noise to see {percent:g} % of distortion", percent=percent))
    first = int(judged[0])
    levels, values = ladder.levels_dbfs[first:], thd[first:]
    if values[0] >= target:
        return measured(float(levels[0]), AT_LOWEST, "at_most")
    found = _crossing(levels, values, target)
    if found is None:
        return refused(
            said(
                "never",
                "never: at {level_dbfs:+.0f} dBFS it distorts by {percent:.2g} %",
                level_dbfs=float(levels[-1]),
                percent=float(100 * values[-1]),
            )
        )
    return measured(_smoothed(levels, values, doubt[first:], target, found))


def p1db_dbfs(ladder: Ladder, gain_db: float) -> Outcome:
    """The level at which the fundamental's gain has fallen by 1 dB; refused where it never has."""
    fall = gain_db - ladder.gain_db
    error_db = 8.7 * np.sqrt(ladder.noise[:, 0] / 2) / (np.abs(ladder.lines[:, 0]) + 1e-12)
    judged = np.flatnonzero(error_db * SURE < 1.0)
    if not len(judged):
        return refused(said("noise", "too much noise"))
    levels, values = ladder.levels_dbfs[judged[0] :], fall[judged[0] :]
    if values[0] >= 1.0:
        return measured(float(levels[0]), AT_LOWEST, "at_most")
    found = _crossing(levels, values, 1.0)
    return refused(said("never", "never within the levels sent")) if found is None else measured(found)
