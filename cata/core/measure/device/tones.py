"""Stepped tones: harmonics at each level, and what follows from them.

A step holds whole periods, so harmonics and the noise between them are bins of one transform. Levels are those of the
file as sent, in dBFS peak; distortion is amplitude re the fundamental.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt
import scipy

from cata.core.clip import ANALYSIS_RATE_HZ
from cata.core.measure.device.bands import scatter
from cata.core.measure.device.returned import Returned
from cata.core.measure.outcome import Outcome, measured, refused
from cata.core.signals.testfile.layout import Section
from cata.said import said

AT_LOWEST = said("at_lowest", "already there at the lowest level that can be judged")

Floats = npt.NDArray[np.float64]
Complex = npt.NDArray[np.complex128]

SKIP_SHARE, KEEP_SHARE = 0.2, 0.97
MAX_HARMONICS, TOP_HZ = 60, 20_000.0
LINEAR_THD, LINEAR_GAIN_DB = 0.002, 0.1
ONSETS_PERCENT = (1, 3, 10)
GAIN_ERROR_DB, MAX_GAIN_ERROR_DB = 0.02, 0.3
MIN_LINE_STEPS = 20
EXTRAPOLATED_STEPS, MAX_EXTRAPOLATED_THD = 6, 0.03
LEAST_DOUBT = 3e-6
"""What rounding to 24 bits leaves of a clean tone."""
SURE = 3.0
"""A distortion is known where it exceeds its own uncertainty so many times over."""
CLEAR = 8.0
"""Standard deviations by which the power of all harmonics together must stand clear of the noise to be believed."""
NOISE_STEPS = 5
STRAY = 5.0
"""Standard deviations that one of a hundred steps may stray by chance."""
SMOOTH_DB, MAX_MISFIT = 2.5, 2.0


@dataclass(frozen=True)
class Ladder:
    """One pitch at rising levels.

    ``levels_dbfs`` (steps,); ``lines`` complex amplitudes (steps, harmonics) from the fundamental on; ``noise`` power
    |z|² of the noise in each line (steps, harmonics).
    """

    hz: float
    levels_dbfs: Floats
    lines: Complex
    noise: Floats

    @property
    def harmonics(self) -> int:
        """How many harmonics count, the fundamental included."""
        return int(self.lines.shape[1])

    @property
    def gain_db(self) -> Floats:
        """Gain of the fundamental at each level."""
        return np.asarray(20 * np.log10(np.abs(self.lines[:, 0]) + 1e-12) - self.levels_dbfs)

    @property
    def thd(self) -> Floats:
        """Distortion at each level, 1 = as strong as the fundamental, the noise removed (0 where it drowns in it)."""
        power = np.abs(self.lines[:, 1:]) ** 2 - self.noise[:, 1:]
        return np.sqrt(np.maximum(power.sum(axis=1), 0.0)) / (np.abs(self.lines[:, 0]) + 1e-12)

    @property
    def thd_doubt(self) -> Floats:
        """The distortion that noise alone may feign at each level: one standard deviation of power, as amplitude."""
        first = np.abs(self.lines[:, 0]) + 1e-12
        lines, noise = np.abs(self.lines[:, 1:]) ** 2, self.noise[:, 1:]
        variance = (noise**2 + 2 * np.maximum(lines - noise, 0.0) * noise).sum(axis=1)
        # Of a power that stands clear the standard deviation is half as much, relatively, in amplitude.
        floor, power = np.sqrt(variance), self.thd**2 * first**2
        doubt = np.where(power > CLEAR * floor, floor / (2 * np.sqrt(power) + 1e-12), np.sqrt(floor))
        return np.asarray(np.maximum(doubt / first, LEAST_DOUBT))

    def again(self, rng: np.random.Generator) -> Ladder:
        """The same with its noise once more, and known to be there twice."""
        return replace(self, lines=self.lines + scatter(self.lines.shape, self.noise, rng), noise=2 * self.noise)


def read_ladder(returned: Returned, section: Section, level_db: float = 0.0) -> Ladder:
    """The harmonics of a stepped tone; ``level_db`` is how much higher the file was sent than written."""
    period, step = section.period, round(section.step_s * ANALYSIS_RATE_HZ)
    pairs = int((KEEP_SHARE - SKIP_SHARE) * step / (2 * period))
    length = 2 * period * pairs
    signal = returned.section(section)
    first = round(SKIP_SHARE * step)
    cuts = np.stack([signal[i * step + first :][:length] for i in range(len(section.levels_dbfs))])
    spectra = np.fft.rfft(cuts, axis=1) * (2 / length)
    count = min(MAX_HARMONICS, int(TOP_HZ / section.pitch_hz))
    at = 2 * pairs * np.arange(1, count + 1)
    # Between two harmonics, away from the skirts that a level just reached may leave.
    reach = max(pairs // 2, 1)
    offsets = np.arange(pairs - reach, pairs + reach + 1) if pairs > 2 else np.array([pairs])
    beside = np.clip(at[:, None] - offsets, 1, None)
    power = np.abs(spectra) ** 2
    after = np.minimum(at[:, None] + offsets, spectra.shape[1] - 1)
    # The median of |z|² of noise is ln 2 of its mean; a line of hum there does not move it.
    both = np.concatenate((power[:, beside], power[:, after]), axis=2)
    # Few bins make one estimate uncertain; that of the steps around helps, for noise moves slowly.
    noise = scipy.ndimage.uniform_filter1d(np.median(both, axis=2) / np.log(2.0), NOISE_STEPS, axis=0, mode="nearest")
    # The running sum leaves a negative rest where silence follows something loud.
    noise = np.maximum(noise, 0.0)
    levels = np.array(section.levels_dbfs) + level_db
    return Ladder(section.pitch_hz, levels, spectra[:, at], noise)


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


def onset_dbfs(ladder: Ladder, percent: float) -> Outcome:
    """The level at which distortion first reaches a share, dBFS of the file as sent.

    Flagged "≤" where the lowest level that can be judged lies over it already; refused where it is never reached.
    """
    target = percent / 100
    thd, doubt = ladder.thd, ladder.thd_doubt
    judged = np.flatnonzero(SURE * doubt < np.maximum(target, thd))
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
