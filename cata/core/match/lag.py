"""Lag and polarity of one take against another.

By all strokes and notes together (:mod:`cata.core.match.lining`). Takes of one performance (re-amped) are placed to the
sample, by correlation on Hann-windowed cuts of a second (without the window the result is a sample off). Plain
correlation of a guitar is oscillatory, and whitened correlation (PHAT) is disturbed by noise: both are made, and the
one whose strongest peak of opposite sign is weaker is kept. A single note played twice looks like one performance with
another lag; so the cuts, most of them, must agree. Hands never repeat that.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
import numpy.typing as npt
import scipy

from cata.core.clip import ANALYSIS_RATE_HZ, Audio
from cata.core.match.features import Features
from cata.core.match.lining import LinedUp, evened, line_up
from cata.core.match.room import HOP_S as LEVEL_HOP_S
from cata.core.measure.onsets import HOP_S
from cata.said import Said, said

DISAGREE = said("onsets_disagree", "strokes and notes of the two takes do not agree")
REPEATS = said("repeats", "the phrase repeats itself, and several places fit as well")
ONE_SILENT = said("silent", "one of the takes is silent or shorter than 0.4 s")

Polarity = Literal["same", "inverted", "cannot tell"]

CUT_S, SEARCH_S = 1.0, 0.015
BAND_HZ = (80.0, 1000.0)
PHAT_HZ = (80.0, 4000.0)
MAX_RIVAL, MIN_CORRELATION = 0.6, 0.4
MIN_AGREEMENT = 0.34
CUTS, CELL_S = 6, 0.25
SMOOTH_FRAMES, NEAR_FRAMES = 2.0, 8
AGREEMENT_S, AGREEING, AGREEING_SHARE = 0.0002, 3, 0.8
"""Of 631 pairs played twice none passes as one performance (with two that agree 17 do, with one 461)."""
STROKE_REACH_S, FEW_STROKES = 0.06, 3
USUAL_SCATTER_S = 0.01
"""Of a hand, about: where too few strokes are there to see it."""


@dataclass(frozen=True)
class Lag:
    """``lag_s``: how much later the second take begins; None where it cannot be told.

    ``exact`` is True for two takes of one performance: the lag is good to a sample. Otherwise it comes from the onsets,
    and a stroke of the second lies within ``doubt_s`` of that of the first, 19 times of 20. ``correlation`` is that of
    the kept method. ``rivals_s``: other lags that fit about as well, where the phrase repeats.
    """

    lag_s: float | None
    polarity: Polarity
    exact: bool
    correlation: float
    reason: Said | None = None
    doubt_s: float | None = None
    rivals_s: tuple[float, ...] = ()


def _mask(size: int, rate_hz: int, band: tuple[float, float]) -> npt.NDArray[np.float64]:
    hz = scipy.fft.rfftfreq(size, 1 / rate_hz)
    rise = np.clip((hz - 0.75 * band[0]) / (0.5 * band[0]), 0, 1)
    fall = np.clip((1.25 * band[1] - hz) / (0.5 * band[1]), 0, 1)
    return np.asarray(rise * fall)


@dataclass(frozen=True)
class _Peak:
    lag: int
    height: float
    rival: float


def _peak(r: npt.NDArray[np.float64], reach: int) -> _Peak:
    window = np.concatenate((r[-reach:], r[: reach + 1]))
    k = int(np.argmax(np.abs(window)))
    sign = np.sign(window[k])
    rival = float(np.max(-sign * window, initial=0.0) / abs(window[k])) if window[k] else 1.0
    return _Peak(k - reach, float(window[k]), rival)


def _waveform(a: Audio, b: Audio, rate_hz: int) -> tuple[_Peak, float]:
    """The kept peak of two cuts of equal length, and the plain correlation near it."""
    window = np.hanning(len(a))
    size = scipy.fft.next_fast_len(2 * len(a), real=True)
    fa, fb = scipy.fft.rfft(a * window, size), scipy.fft.rfft(b * window, size)
    reach = int(SEARCH_S * rate_hz)
    mask = _mask(size, rate_hz, BAND_HZ)
    energy = np.sqrt(np.sum(np.abs(fa * mask) ** 2) * np.sum(np.abs(fb * mask) ** 2)) * 2 / size
    cross = fb * np.conj(fa)
    plain = scipy.fft.irfft(cross * mask**2, size) / max(float(energy), 1e-30)
    wide = _mask(size, rate_hz, PHAT_HZ)
    strength = np.abs(cross)
    # Bins that hold nothing have a random phase; they do not vote.
    votes = wide * (strength > 1e-6 * strength.max(initial=0.0))
    phat = scipy.fft.irfft(cross / np.maximum(strength, 1e-30) * votes, size) * size / (2 * max(votes.sum(), 1.0))
    first, second = _peak(plain, reach), _peak(phat, reach)
    kept = second if second.rival < first.rival else first
    near = int(0.001 * rate_hz)
    around = np.take(plain, np.arange(kept.lag - near, kept.lag + near + 1), mode="wrap")
    return kept, float(np.max(np.abs(around)))


def _cuts(a: Features, length: int) -> list[int]:
    """Starts of the loudest stretches of ``a`` that do not overlap, in samples."""
    every = round(CELL_S / LEVEL_HOP_S)
    whole = len(a.levels_db) // every * every
    cells = (10 ** (a.levels_db[:whole] / 10)).reshape(-1, every).sum(axis=1) if whole else np.ones(1)
    hop = round(CELL_S * ANALYSIS_RATE_HZ)
    span = max(1, length // hop)
    sums = np.convolve(cells, np.ones(span), mode="valid") if len(cells) >= span else cells[:1]
    starts: list[int] = []
    for index in np.argsort(sums)[::-1]:
        if all(abs(int(index) * hop - s) >= length for s in starts):
            starts.append(int(index) * hop)
        if len(starts) == CUTS:
            break
    return starts


def _strokes_s(take: Features) -> npt.NDArray[np.float64]:
    """When the strokes of a take fall, between the frames: the tops of parabolas through the onset strength."""
    strength = evened(take.flux, SMOOTH_FRAMES)
    near = np.round(take.onsets_s / HOP_S).astype(int)[:, None] + np.arange(-1, 4)
    near = near[(near[:, 0] >= 1) & (near[:, -1] < len(strength) - 1)]
    if not len(near):
        return np.zeros(0)
    top = near[np.arange(len(near)), np.argmax(strength[near], axis=1)]
    before, here, after = strength[top - 1], strength[top], strength[top + 1]
    curve = np.minimum(before - 2 * here + after, -1e-12)
    return np.asarray((top + np.clip(0.5 * (before - after) / curve, -1, 1)) * HOP_S)


def _doubt_s(a: Features, b: Features, lag_s: float) -> float:
    """Two standard deviations of the strokes of ``b`` from those of ``a`` that are nearest to them, both ways."""
    x, y = _strokes_s(a), _strokes_s(b) - lag_s
    if not len(x) or not len(y):
        return 2 * USUAL_SCATTER_S
    apart = np.abs(x[:, None] - y[None, :])
    nearest = apart.argmin(axis=1)
    mutual = (apart.argmin(axis=0)[nearest] == np.arange(len(x))) & (apart.min(axis=1) < STROKE_REACH_S)
    if mutual.sum() < FEW_STROKES:
        return 2 * USUAL_SCATTER_S
    return float(2 * np.sqrt(np.mean(np.square(apart.min(axis=1)[mutual]))))


def _of_one_performance(a: Features, b: Features, coarse_s: float) -> Lag | None:
    """The lag to the sample where most cuts of the takes agree on it."""
    rate = ANALYSIS_RATE_HZ
    length = int(min(CUT_S, a.duration_s / CUTS, b.duration_s / CUTS) * rate)
    found: list[Lag] = []
    for start in _cuts(a, length):
        second = b.cut(start + round(coarse_s * rate), length)
        peak, correlation = _waveform(a.cut(start, length), second, rate)
        if peak.rival > MAX_RIVAL or correlation < MIN_CORRELATION:
            continue
        lag_s = (round(coarse_s * rate) + peak.lag) / rate
        found.append(Lag(lag_s, "same" if peak.height > 0 else "inverted", True, correlation))

    def agreeing(one: Lag) -> list[Lag]:
        return [
            other
            for other in found
            if other.polarity == one.polarity and abs((other.lag_s or 0.0) - (one.lag_s or 0.0)) < AGREEMENT_S
        ]

    most = max((agreeing(one) for one in found), key=len, default=[])
    if len(most) < max(AGREEING, AGREEING_SHARE * len(found)):
        return None
    return max(most, key=lambda one: one.correlation)


def _middle_s(a: Features, lined: LinedUp) -> float:
    """How much later ``b`` is in the middle of the phrase: with another tempo the lag grows all the way."""
    middle_s = float(np.mean(a.onsets_s[[0, -1]])) if len(a.onsets_s) else a.duration_s / 2
    return (middle_s + lined.shift_s) / lined.ratio - middle_s


def _by_strokes(a: Features, b: Features, about_s: float) -> float:
    """The lag near one that is known to 30 ms: where the strokes of both fall together, between the frames."""
    x, y = (evened(side.flux, SMOOTH_FRAMES) for side in (a, b))
    about = round(about_s / HOP_S)
    shifts = np.arange(about - NEAR_FRAMES, about + NEAR_FRAMES + 1)
    scores = np.array([_overlap(x, y, int(shift)) for shift in shifts])
    k = int(np.clip(np.argmax(scores), 1, len(scores) - 2))
    before, top, after = scores[k - 1 : k + 2]
    curve = before - 2 * top + after
    offset = float(np.clip(0.5 * (before - after) / curve, -1, 1)) if curve < 0 else 0.0
    return (float(shifts[k]) + offset) * HOP_S


def _overlap(x: npt.NDArray[np.float64], y: npt.NDArray[np.float64], shift: int) -> float:
    first, last = max(0, -shift), min(len(x), len(y) - shift)
    return float(x[first:last] @ y[first + shift : last + shift]) if last > first else 0.0


def find_lag(a: Features, b: Features, lined: LinedUp | None = None) -> Lag:
    """Lag and polarity of ``b`` against ``a``; ``lined`` where they have been lined up already."""
    if a.silent or b.silent:
        return Lag(None, "cannot tell", False, 0.0, ONE_SILENT)
    found = lined or line_up(a, b)
    coarse_s = _by_strokes(a, b, _middle_s(a, found))
    if exact := _of_one_performance(a, b, coarse_s):
        return exact
    if not found.agrees_by(MIN_AGREEMENT):
        return Lag(None, "cannot tell", False, found.agreement, DISAGREE)
    if found.open:
        places = tuple(sorted((found.shift_s, *found.rivals_s)))
        return Lag(None, "cannot tell", False, found.agreement, REPEATS, rivals_s=places)
    doubt_s = _doubt_s(a, b, coarse_s)
    return Lag(coarse_s, "cannot tell", False, found.agreement, doubt_s=doubt_s, rivals_s=found.rivals_s)
