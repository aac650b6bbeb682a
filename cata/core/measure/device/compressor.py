"""Compressors: the static curve from stepped tones, attack and release from bursts.

A compressor turns gain down without bending the wave; a clipper bends it. Source: Giannoulis, Massberg and Reiss 2012.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import scipy

from cata.core.clip import ANALYSIS_RATE_HZ
from cata.core.measure.device.returned import Returned
from cata.core.measure.device.stepped import Ladder
from cata.core.measure.outcome import Outcome, measured, refused
from cata.core.signals.testfile.layout import BURST_AT_S, Section
from cata.core.signals.testfile.waves import BURST_EDGE_S, wave
from cata.said import Said, said

Floats = npt.NDArray[np.float64]

MIN_MOVE_DB, MAX_FIT_DB, MAX_THD = 1.0, 0.5, 0.03
SURE_DB = 0.3
DRY_FROM_DB, DRY_FIT_DB, DRY_SHARES, DRY_BETTER = 0.02, 0.08, (0.1, 0.4), 3.0
MAX_TURN_RAD, TURN_CLEAR = 0.06, 1e4
"""A dry path is looked for where one slope is off by so much, and told where it leaves a third of the squared error."""
MIN_BELOW, MIN_ABOVE = 2, 3
RANGE_DBFS = (-30.0, 0.0)
"""Levels between which the dynamics that are kept are counted."""
MIN_BURST_DB, SETTLED_DB = 3.0, 0.35
ATTACK_SHARE, RELEASE_SHARE = 0.63, 0.90
MIN_SNR_DB = 12.0
TRACK_BEFORE, TRACK_STEP = 4800, 240


@dataclass(frozen=True)
class Static:
    """Where the gain begins to fall, how steeply, how gradually, and what the gain is below: dB throughout.

    ``dry`` is the share of a dry path in the gain below; the rest then describes the squeezed path alone.
    """

    threshold_dbfs: float
    ratio: float
    knee_db: float
    gain_db: float
    fit_db: float
    dry: float = 0.0


def curve(levels: Floats, threshold: float, slope: float, knee: float, gain: float) -> Floats:
    """Gain in dB at levels: a straight fall of ``slope`` dB per dB above threshold, rounded over ``knee`` dB."""
    over = levels - threshold
    knee = max(knee, 1e-6)
    inside = np.clip(over + knee / 2, 0.0, knee)
    return np.asarray(gain - slope * np.where(over > knee / 2, over, inside**2 / (2 * knee)))


def _gain_error(ladder: Ladder) -> Floats:
    """How uncertain the noise leaves the gain at each level, dB."""
    return np.asarray(8.7 * np.sqrt(ladder.noise[:, 0] / 2) / (np.abs(ladder.lines[:, 0]) + 1e-12))


def no_compressor(ladder: Ladder) -> Said | None:
    """Why a stepped tone shows no compressor at all; None where its gain falls and the wave stays unbent."""
    sure = _gain_error(ladder) < SURE_DB
    if np.count_nonzero(sure) < 8:
        return said("noise", "too much noise to follow the gain")
    thd, gains = ladder.thd[sure], ladder.gain_db[sure]
    move = float(np.max(gains) - gains[-1])
    if move < MIN_MOVE_DB:
        return said("no_compressor", "the gain moves by {move_db:.1f} dB only: it does not compress", move_db=move)
    if float(np.max(thd - 3 * ladder.thd_doubt[sure])) > MAX_THD:
        return said(
            "clipper",
            "it bends the wave ({percent:.0f} % of distortion): a clipper, not a compressor",
            percent=100 * float(thd.max()),
        )
    return None


def fit_static(ladder: Ladder, near: Static | None = None) -> Static | Said:
    """The static curve of a stepped tone, or why there is none; ``near`` is where to begin looking."""
    if reason := no_compressor(ladder):
        return reason
    error = _gain_error(ladder)
    sure = error < SURE_DB
    x, y, weight = ladder.levels_dbfs[sure], ladder.gain_db[sure], 1 / np.maximum(error[sure], 0.02)
    best: tuple[float, Floats] | None = None
    starts = [near.threshold_dbfs] if near else np.arange(x[0] + 2, x[-1] - 1, 6.0).tolist()
    for start in starts:
        found = scipy.optimize.least_squares(
            lambda p: (curve(x, p[0], p[1], p[2], p[3]) - y) * weight,
            (float(np.clip(start, x[0] + 0.1, x[-1] - 0.1)), 0.5, 4.0, float(np.median(y[:6]))),
            bounds=((x[0], 0.01, 0.0, -80.0), (x[-1], 1.0, 30.0, 80.0)),
        )
        if best is None or found.cost < best[0]:
            best = float(found.cost), found.x
    assert best is not None
    threshold, slope, knee, gain = (float(v) for v in best[1])
    dry = 0.0
    fit = float(np.sqrt(np.mean((curve(x, threshold, slope, knee, gain) - y) ** 2)))
    shares = DRY_SHARES if near is None else (near.dry,) if near.dry else ()
    if fit > DRY_FROM_DB and shares and _turns(ladder, sure) > MAX_TURN_RAD:
        return said("no_single_slope", "its phase turns with the level: a dry path out of step with the squeezed one")
    if fit > DRY_FROM_DB and shares and (mixed := _with_dry_path(x, y, weight, best[1], shares)):
        threshold, slope, knee, gain, dry, fit = mixed
    # With one number more a curve is described better than it should be: paths out of phase are not told so.
    if fit > (DRY_FIT_DB if dry else MAX_FIT_DB):
        return said(
            "no_single_slope", "no threshold and ratio describe it: the best fit is {fit_db:.1f} dB off", fit_db=fit
        )
    if np.count_nonzero(x < threshold - knee / 2) < MIN_BELOW:
        return said("always_above", "it compresses at every level sent: no part below the threshold was seen")
    if np.count_nonzero(x > threshold + knee / 2) < MIN_ABOVE:
        return said("few_levels", "too few levels above its threshold")
    return Static(threshold, 1 / max(1 - slope, 1e-3), knee, gain, fit, dry)


def _turns(ladder: Ladder, sure: npt.NDArray[np.bool_]) -> float:
    """By how much the phase of the tone turns between the levels, rad, where the noise leaves it certain."""
    lines = ladder.lines[sure, 0]
    clear = np.abs(lines) ** 2 > TURN_CLEAR * ladder.noise[sure, 0]
    if np.count_nonzero(clear) < MIN_ABOVE:
        return 0.0
    turned = np.angle(lines[clear] * np.conj(lines[clear].mean()))
    return float(np.percentile(turned, 95) - np.percentile(turned, 5))


def _with_dry_path(
    x: Floats, y: Floats, weight: Floats, start: Floats, shares: tuple[float, ...]
) -> tuple[float, ...] | None:
    """Threshold, slope, knee, gain, share of the dry path and fit in dB, where a dry path explains a curve far better.

    The two paths are taken to be in phase: what a delay between them does to the curve is not described by this.
    """

    def with_dry(p: Floats) -> Floats:
        return np.asarray(p[3] + 20 * np.log10(p[4] + (1 - p[4]) * 10 ** (curve(x, p[0], p[1], p[2], 0.0) / 20)))

    fits = [
        scipy.optimize.least_squares(
            lambda p: (with_dry(p) - y) * weight,
            (float(np.clip(start[0] + 2.0, x[0] + 0.1, x[-1] - 0.1)), 0.75, 4.0, start[3], dry),
            bounds=((x[0], 0.01, 0.0, -80.0, 0.02), (x[-1], 1.0, 30.0, 80.0, 0.9)),
        )
        for dry in shares
    ]
    best = min(fits, key=lambda fit: float(fit.cost))
    if 2 * float(best.cost) > float(np.sum(((curve(x, *start) - y) * weight) ** 2)) / DRY_BETTER:
        return None
    return *(float(v) for v in best.x), float(np.sqrt(np.mean((with_dry(best.x) - y) ** 2)))


def dynamics_kept(ladder: Ladder) -> Outcome:
    """Share of a range of playing that is left, per cent: output range over input range from -30 to 0 dBFS."""
    low, high = RANGE_DBFS
    levels, out = ladder.levels_dbfs, ladder.gain_db + ladder.levels_dbfs
    if low < levels[0] or high > levels[-1] + 0.5:
        return refused(said("sent_quietly", "the file was sent too quietly: -30 to 0 dBFS were not covered"))
    span = float(np.interp(high, levels, out) - np.interp(low, levels, out))
    return measured(100 * span / (high - low))


@dataclass(frozen=True)
class Times:
    """Attack and release in milliseconds; a reason in place of one that cannot be had."""

    attack_ms: float | Said
    release_ms: float | Said
    track: tuple[tuple[float, float], ...] = ()
    """Gain in dB by seconds after the burst's beginning, for a picture."""


def burst_times(returned: Returned, section: Section, noise_power: float) -> Times:
    """Attack (63 %) and release (90 % of the way back) of the change in dB when a burst 26 dB louder comes and goes."""
    period = section.period
    sent = wave(section, ANALYSIS_RATE_HZ).astype(np.float64)
    level = _level(returned.section(section), period)
    quiet = float(np.median(level[round(0.5 * ANALYSIS_RATE_HZ) : round(0.9 * ANALYSIS_RATE_HZ)]))
    if quiet < 10 ** (MIN_SNR_DB / 20) * np.sqrt(4 * noise_power / period):
        drowned = said("noise", "the burst drowns in noise")
        return Times(drowned, drowned)
    gains = 20 * np.log10(np.maximum(level, 1e-9) / np.maximum(_level(sent, period), 1e-9))
    on, off = (round((s + BURST_EDGE_S / 2) * ANALYSIS_RATE_HZ) for s in BURST_AT_S[1:])
    end = len(gains) - 4 * period
    before, held = _mean(gains, on - 9600, on - period), _mean(gains, off - 4800, off - period)
    move = before - held
    shown = np.arange(on - TRACK_BEFORE, end, TRACK_STEP)
    track = tuple((round((int(at) - on) / ANALYSIS_RATE_HZ, 4), round(float(gains[at]), 3)) for at in shown)
    if move < MIN_BURST_DB:
        reason = said("hardly_moves", "a burst of 26 dB moves the gain by {move_db:.1f} dB only", move_db=move)
        return Times(reason, reason, track)
    attack: float | Said = said("not_settled", "not settled within the burst of 0.9 s")
    if abs(_mean(gains, off - 9600, off - 4800) - held) < SETTLED_DB:
        attack = _reached(gains[on - period : off - period] * -1, -(before - ATTACK_SHARE * move), period)
    release: float | Said = said("not_settled", "not back within the 2.3 s after the burst")
    if abs(_mean(gains, end - 9600, end) - before) < max(SETTLED_DB, 0.05 * move):
        release = _reached(gains[off - period : end], held + RELEASE_SHARE * move, period)
    return Times(attack, release, track)


def _level(signal: Floats, period: int) -> Floats:
    """Amplitude of the tone around every sample: least squares over one period."""
    length = len(signal)
    t = np.arange(length)
    running = np.concatenate(([0.0], np.cumsum(signal * np.exp(-2j * np.pi * t / period))))
    low, high = np.clip(t - period // 2, 0, length), np.clip(t - period // 2 + period, 0, length)
    return np.asarray(np.abs(running[high] - running[low]) * 2 / period)


def _mean(gains: Floats, first: int, last: int) -> float:
    return float(np.mean(gains[first:last]))


def _reached(track: Floats, target: float, period: int) -> float | Said:
    """Milliseconds from one period into a track until it first rises through a target.

    The track is smoothed over a third of the time it takes to get half way: noise must not pass the target early.
    """
    first, last = float(np.mean(track[: period // 2])), float(np.mean(track[-2400:]))
    half = int(np.argmax(track > (first + last) / 2))
    size = max(half // 3, period // 4)
    running = np.concatenate(([0.0], np.cumsum(track)))
    at = np.arange(len(track))
    reach = np.minimum(np.minimum(size // 2, at), len(track) - 1 - at)
    smooth = (running[at + reach + 1] - running[at - reach]) / (2 * reach + 1)
    passed = smooth >= target
    if not passed.any():
        return said("not_settled", "never got there")
    return max(int(np.argmax(passed)) - period, 0) / ANALYSIS_RATE_HZ * 1000
