"""Stepped tones as they came back: harmonics at each level, the noise between them, and what neither explains.

A step holds whole periods, so harmonics and the noise between them are bins of one transform. Levels are those of the
file as sent, in dBFS peak; distortion is amplitude re the fundamental.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt
import scipy

from cata.core.clip import ANALYSIS_RATE_HZ
from cata.core.measure.device import lingering, steady
from cata.core.measure.device.bands import scatter
from cata.core.measure.device.returned import Returned
from cata.core.signals.testfile.layout import Section

Floats = npt.NDArray[np.float64]
Complex = npt.NDArray[np.complex128]

SKIP_SHARE, KEEP_SHARE = 0.2, 0.97
MAX_HARMONICS, TOP_HZ = 60, 20_000.0
LEAST_DOUBT = 3e-6
"""What rounding to 24 bits leaves of a clean tone."""
CLEAR = 8.0
"""Standard deviations by which the power of all harmonics together must stand clear of the noise to be believed."""
NOISE_STEPS = 5
SKIRT_BINS, LOWEST_BINS = 2, 3
"""So near to a harmonic, and to 0 Hz, a level that has just been reached still shows."""
SURE_GAIN_DB, LEAST_GAIN_DB = 0.3, 0.02
RISES_STEPS, RISES_DB, RISES_MISFIT, RISES_THD = 6, 0.25, 2.5, 0.01
RISES_FROM, RISES_CLEAR = 1.5, 40.0
"""Steps in which a gain comes back at the soonest, and by how much in squared errors that must explain it better."""


@dataclass(frozen=True)
class Ladder:
    """One pitch at rising levels.

    ``levels_dbfs`` (steps,); ``lines`` complex amplitudes (steps, harmonics) from the fundamental on; ``noise`` power
    |z|² of the noise in each line (steps, harmonics). ``stray`` is the power at no overtone of the tone, noise removed,
    (steps,), and ``stray_doubt`` one standard deviation of it.
    """

    hz: float
    levels_dbfs: Floats
    lines: Complex
    noise: Floats
    stray: Floats
    stray_doubt: Floats
    judged_by: Floats | None = None
    """What a ladder with more noise was judged by before, see :attr:`judging_doubt`."""

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

    @property
    def judging_doubt(self) -> Floats:
        """:attr:`thd_doubt` of the recording itself: noise added to learn a band does not decide what is readable."""
        return self.thd_doubt if self.judged_by is None else self.judged_by

    @property
    def inharmonic(self) -> Floats:
        """What sounds between the overtones, 1 = as strong as the tone; 0 where noise could feign it, (steps,)."""
        first = np.abs(self.lines[:, 0]) + 1e-12
        return np.where(self.stray > CLEAR * self.stray_doubt, np.sqrt(np.maximum(self.stray, 0.0)) / first, 0.0)

    def again(self, rng: np.random.Generator) -> Ladder:
        """The same with its noise once more, and known to be there twice."""
        lines = self.lines + scatter(self.lines.shape, self.noise, rng)
        return replace(self, lines=lines, noise=2 * self.noise, judged_by=self.judging_doubt)


def read_ladder(returned: Returned, section: Section, level_db: float = 0.0) -> Ladder:
    """The harmonics of a stepped tone; ``level_db`` is how much higher the file was sent than written.

    What still sounds from before the section counts as noise.
    """
    period, step = section.period, round(section.step_s * ANALYSIS_RATE_HZ)
    pairs = int((KEEP_SHARE - SKIP_SHARE) * step / (2 * period))
    length = 2 * period * pairs
    signal = returned.section(section)
    first = round(SKIP_SHARE * step)
    steps = len(section.levels_dbfs)
    cuts = np.stack([signal[i * step + first :][:length] for i in range(steps)])
    spectra = np.fft.rfft(cuts, axis=1) * (2 / length)
    count = min(MAX_HARMONICS, int(TOP_HZ / section.pitch_hz))
    at = 2 * pairs * np.arange(1, count + 1)
    power = np.abs(spectra) ** 2
    noise = _beside(power, at, pairs)
    stray, doubt = _between(power, at, noise, _of_silence(steady.silence(returned), length))
    starts_s = (np.arange(steps) * step + first) / ANALYSIS_RATE_HZ
    noise = noise + lingering.left_over(returned, section, count, starts_s)
    levels = np.array(section.levels_dbfs) + level_db
    # Turned back to the section's beginning, so that the phase is that of the device at every level.
    turns = np.outer(np.arange(steps) * step + first, np.arange(1, count + 1)) / period
    return Ladder(section.pitch_hz, levels, spectra[:, at] * np.exp(-2j * np.pi * turns), noise, stray, doubt)


def _beside(power: Floats, at: npt.NDArray[np.intp], pairs: int) -> Floats:
    """Noise in each line (steps, harmonics) from the bins between two harmonics."""
    # Away from the skirts that a level just reached may leave.
    reach = max(pairs // 2, 1)
    offsets = np.arange(pairs - reach, pairs + reach + 1) if pairs > 2 else np.array([pairs])
    before = np.clip(at[:, None] - offsets, 1, None)
    after = np.minimum(at[:, None] + offsets, power.shape[1] - 1)
    # The median of |z|² of noise is ln 2 of its mean; a line of hum there does not move it.
    both = np.concatenate((power[:, before], power[:, after]), axis=2)
    # Few bins make one estimate uncertain; that of the steps around helps, for noise moves slowly.
    noise = scipy.ndimage.uniform_filter1d(np.median(both, axis=2) / np.log(2.0), NOISE_STEPS, axis=0, mode="nearest")
    # The running sum leaves a negative rest where silence follows something loud.
    return np.asarray(np.maximum(noise, 0.0))


def _of_silence(quiet: Floats, length: int) -> Floats:
    """Mean power of the silence in each bin of a step's transform: hum stands at the same pitch in both."""
    cuts = quiet[: len(quiet) // length * length].reshape(-1, length)
    return np.asarray(np.mean(np.abs(np.fft.rfft(cuts, axis=1) * (2 / length)) ** 2, axis=0))


def _between(power: Floats, at: npt.NDArray[np.intp], noise: Floats, silence: Floats) -> tuple[Floats, Floats]:
    """Power between the harmonics that neither hum nor hiss explains, and its doubt, both (steps,)."""
    bins = np.arange(power.shape[1])
    spacing = int(at[0])
    off = np.abs((bins + spacing // 2) % spacing - spacing // 2)
    used = (off > SKIRT_BINS) & (bins > LOWEST_BINS) & (bins <= at[-1])
    hiss = np.stack([np.interp(bins[used], at, row) for row in noise])
    expected = np.maximum(hiss, silence[used])
    return (power[:, used] - expected).sum(axis=1), np.sqrt((expected**2).sum(axis=1))


def read_settled(returned: Returned, section: Section, level_db: float = 0.0) -> tuple[Ladder, float]:
    """:func:`read_ladder` after :func:`let_go`."""
    return let_go(read_ladder(returned, section, level_db), section.step_s)


def let_go(ladder: Ladder, step_s: float) -> tuple[Ladder, float]:
    """The ladder as it would be had nothing louder gone before, and in how many seconds its gain came back (63 %).

    A compressor that lets go slowly begins with less gain than it has: the gain rises by itself, as it does after any
    sound. Nothing is changed, and 0 given, where it does not rise so.
    """
    error = 8.7 * np.sqrt(ladder.noise[:, 0] / 2) / (np.abs(ladder.lines[:, 0]) + 1e-12)
    gains = ladder.gain_db
    sure = np.flatnonzero((error < SURE_GAIN_DB) & (ladder.thd < RISES_THD))
    if len(sure) < RISES_STEPS:
        return ladder, 0.0
    smooth = scipy.ndimage.uniform_filter1d(gains[sure], 3, mode="nearest")
    rising = sure[: int(np.argmax(smooth)) + 1]
    if len(rising) < RISES_STEPS:
        return ladder, 0.0
    weight = 1 / np.maximum(error[rising], LEAST_GAIN_DB)

    def model(p: Floats) -> Floats:
        return np.asarray(p[0] - p[1] * np.exp(-rising / p[2]))

    start = (gains[rising[-1]], gains[rising[-1]] - gains[rising[0]], len(rising) / 3)
    fit = scipy.optimize.least_squares(
        lambda p: (model(p) - gains[rising]) * weight, start, bounds=((-200.0, -1.0, RISES_FROM), (200.0, 60.0, 200.0))
    )
    _, depth, steps = (float(v) for v in fit.x)
    even = float(np.average(gains[rising], weights=weight**2))
    better = float(np.sum(((gains[rising] - even) * weight) ** 2)) - 2 * float(fit.cost)
    misfit = float(np.sqrt(2 * fit.cost / len(rising)))
    held = depth * float(np.exp(-rising[0] / steps))
    if held < RISES_DB or misfit > RISES_MISFIT or better < RISES_CLEAR:
        return ladder, 0.0
    lifted = 10 ** (depth * np.exp(-np.arange(len(gains)) / steps) / 20)
    lifted[rising[-1] + 1 :] = 1.0
    # Where the gain was pressed down, so was everything that sounded.
    return replace(
        ladder,
        lines=ladder.lines * lifted[:, None],
        noise=ladder.noise * lifted[:, None] ** 2,
        stray=ladder.stray * lifted**2,
        stray_doubt=ladder.stray_doubt * lifted**2,
    ), steps * step_s
