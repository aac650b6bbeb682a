"""The picking ladder: the same playing at rising strength, and what the device adds to it.

The linear part of the device is estimated from the softest steps; at each step the answer is split into what that part
explains, with a gain that may move, and the rest: dirt. It cannot see less than -44 dB, so it gives no 1 % onset; its
levels are peaks of the playing, not of a sine, and are never mixed with those.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import scipy.interpolate
import scipy.signal

from cata.core.clip import ANALYSIS_RATE_HZ
from cata.core.measure.device.returned import Returned
from cata.core.measure.outcome import Outcome, measured, refused
from cata.core.signals.testfile.layout import Section
from cata.core.signals.testfile.waves import wave

Floats = npt.NDArray[np.float64]

POINTS, HOP_SHARE = 16384, 8
REFERENCE_STEPS = 3
BLOCK_S, SHORT_BLOCK_S = 0.05, 0.02
OWN_FLOOR_DB = -44.0
COMPRESSING_DB = 3.0
CLEAN_DB = -31.0
NOISE_MARGIN_DB = 10.0
QUIET_SHARE = 1e-4
ONSETS_PERCENT = (3, 10)


@dataclass(frozen=True)
class Played:
    """Dirt in dB re the explained part at each step, with the share of it that noise could feign.

    ``riding_db`` is by how much a faster moving gain explains the loudest step better.
    """

    levels_dbfs: Floats
    dirt_db: Floats
    noise_db: Floats
    riding_db: float

    @property
    def usable(self) -> npt.NDArray[np.bool_]:
        """Steps whose noise lies low enough to see 3 % of dirt."""
        return np.asarray(self.noise_db <= 20 * np.log10(0.03) + NOISE_MARGIN_DB)


def _linear_part(x: Floats, y: Floats) -> Floats:
    """Impulse response (POINTS,) of the noise-averaged linear estimate from x to y, its zero in the middle."""
    window, hop = np.hanning(POINTS), POINTS // HOP_SHARE
    starts = np.arange(0, len(x) - POINTS, hop)
    cross = np.zeros(POINTS // 2 + 1, dtype=np.complex128)
    power = np.zeros(POINTS // 2 + 1)
    for start in starts:
        a = np.fft.rfft(x[start : start + POINTS] * window)
        b = np.fft.rfft(y[start : start + POINTS] * window)
        cross += np.conj(a) * b
        power += np.abs(a) ** 2
    response = np.fft.irfft(cross / (power + 1e-6 * power.max()))
    taper = np.hanning(POINTS)
    return np.asarray(np.roll(response, POINTS // 2) * taper)


def _rest(y: Floats, r: Floats, block_s: float, order: int) -> tuple[float, float]:
    """Energy left of y after the best gain (a polynomial over each block) times r, and the energy explained."""
    size = round(block_s * ANALYSIS_RATE_HZ)
    count = len(y) // size
    ys, rs = y[: count * size].reshape(count, size), r[: count * size].reshape(count, size)
    energies = np.sum(rs**2, axis=1)
    used = energies > QUIET_SHARE * energies.max()
    u = np.linspace(-1, 1, size)
    left = explained = 0.0
    for a, b in zip(ys[used], rs[used], strict=True):
        basis = np.stack([b * u**power for power in range(order + 1)], axis=1)
        weights, *_ = np.linalg.lstsq(basis, a, rcond=None)
        fit = basis @ weights
        left += float(np.sum((a - fit) ** 2))
        explained += float(np.sum(fit**2))
    return left, explained


def read_played(returned: Returned, section: Section, noise_power: float, level_db: float = 0.0) -> Played:
    """The ladder's dirt, step by step."""
    x = wave(section, ANALYSIS_RATE_HZ).astype(np.float64)
    y = returned.section(section)[: len(x)]
    step, steps = round(section.step_s * ANALYSIS_RATE_HZ), len(section.levels_dbfs)
    used = REFERENCE_STEPS
    dirt, noise, r = _by_step(x, y, used, step, noise_power)
    # The softest steps lie nearest the noise; harder ones that are clean too make the estimate quieter.
    clean = REFERENCE_STEPS
    while clean < steps and dirt[clean] < CLEAN_DB:
        clean += 1
    if clean > used:
        dirt, noise, r = _by_step(x, y, clean, step, noise_power)
    last = slice((steps - 1) * step, steps * step)
    floor = noise_power * step * _used_share(r[last])
    long, _ = _rest(y[last], r[last], BLOCK_S, 0)
    short, _ = _rest(y[last], r[last], SHORT_BLOCK_S, 2)
    riding = 10 * float(np.log10(max(long - floor, 1e-20) / max(short - floor, 0.1 * floor, 1e-20)))
    return Played(np.array(section.levels_dbfs) + level_db, dirt, noise, riding)


def _by_step(x: Floats, y: Floats, reference: int, step: int, noise_power: float) -> tuple[Floats, Floats, Floats]:
    """Dirt and noise in dB of each step against the linear part of the first so many, and what that part makes of x."""
    soft = slice(0, reference * step)
    r = scipy.signal.oaconvolve(x, _linear_part(x[soft], y[soft]))[POINTS // 2 :][: len(x)]
    dirt, noise = [], []
    for at in range(0, len(x) - step + 1, step):
        left, explained = _rest(y[at : at + step], r[at : at + step], BLOCK_S, 0)
        floor = noise_power * step * _used_share(r[at : at + step])
        dirt.append(10 * np.log10(max((left - floor) / max(explained, 1e-20), 1e-12)))
        noise.append(10 * np.log10(max(floor / max(explained, 1e-20), 1e-12)))
    return np.array(dirt), np.array(noise), r


def _used_share(r: Floats) -> float:
    size = round(BLOCK_S * ANALYSIS_RATE_HZ)
    energies = np.sum(r[: len(r) // size * size].reshape(-1, size) ** 2, axis=1)
    return float(np.mean(energies > QUIET_SHARE * energies.max()))


def onset_dbfs(played: Played, percent: float) -> Outcome:
    """The playing level (peak, dBFS as sent) at which dirt reaches a share of the sound; bounds are flagged."""
    if played.riding_db >= COMPRESSING_DB and played.dirt_db[-1] < -20:
        return refused("its gain follows the playing: a compressor, not a clipper")
    target = 20 * float(np.log10(percent / 100))
    floor = np.maximum(played.dirt_db, OWN_FLOOR_DB)
    usable = played.noise_db <= target + NOISE_MARGIN_DB
    if not usable.any():
        return refused("too much noise under the playing")
    first = int(np.argmax(usable))
    levels, values = played.levels_dbfs[first:], floor[first:]
    if values[0] >= target:
        return measured(float(levels[0]), f"≤ {levels[0]:.0f} dBFS: the softest step is already past it")
    above = np.flatnonzero((values[:-1] < target) & (values[1:] >= target))
    if not len(above):
        return refused(f"never: the hardest playing adds {values[-1]:.0f} dB")
    curve = scipy.interpolate.PchipInterpolator(levels, values - target)
    at = int(above[0])
    roots = [float(r) for r in curve.roots(extrapolate=False) if levels[at] <= r <= levels[at + 1]]
    return measured(roots[0] if roots else float(levels[at + 1]), "in dB of the playing's peaks, not of a sine")
