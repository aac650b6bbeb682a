"""Lining up: at which place and pace one take fits another best, and which other places fit as well.

Strokes and notes decide together. Strokes are evened out over three seconds, so that a soft stroke counts as much as a
hard one and a drive that flattens "soft to hard" changes nothing. Notes are the pitch classes over time less their mean
over the take: what tells one chord of the phrase from the next. A phrase that repeats fits itself a bar later nearly as
well; its first and last strokes decide then, and where they do not, the place is ambiguous and said to be.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import scipy

from cata.core.match.chroma import CHROMA_HOP_S
from cata.core.match.features import Features
from cata.core.measure.onsets import HOP_S

Floats = npt.NDArray[np.float64]

RATIOS = np.arange(0.80, 1.2501, 0.01)
FINE_STEPS = (0.0025, 0.0005)
START_FRAMES, SMOOTH_FRAMES = 4, 3.0
AROUND_FRAMES, QUIETEST = 150, 0.08
"""Strokes are held against the strongest within 1.5 s, and against 8 % of the take's strongest at least."""
BLUR_TENTHS, BLUR_FRAMES, TENTHS_STEP = 3.0, 0.6, 3
HEARD_DB = 30.0
LEAST_VARIED = 0.05
"""Pitch classes that vary less than this (share of their power) tell no place: a phrase of one chord."""
BY_CHORDS = 0.12
APART_S = 0.1
AS_GOOD = 0.12
"""A place that fits worse by no more than this share may be the right one: hands scatter that much."""
TOGETHER_S, FEWER = 0.08, 2
"""Strokes this near are one. Of places that fit as well, one that leaves two strokes fewer alone is the right one."""
NEAR_S, NEARER = 0.35, 0.5
"""Takes begin about alike: of places that fit as well one this near, and twice as near as the next, is believed."""


@dataclass(frozen=True)
class LinedUp:
    """Where ``b`` fits ``a``: the time t of ``a`` is the time (t + ``shift_s``) / ``ratio`` of ``b``.

    ``agreement`` of strokes and notes (1: the same, about 0.3: strangers), ``strokes`` and ``notes`` alone, and
    ``varied``: how much the notes tell about the place (0 to 1). ``rivals_s``: other shifts that fit as well.
    ``open``: none of these places is the believable one.
    """

    ratio: float
    shift_s: float
    agreement: float
    strokes: float
    notes: float
    varied: float
    rivals_s: tuple[float, ...] = ()

    def agrees_by(self, least: float) -> bool:
        """Whether strokes and notes agree by so much; more is asked for where chords change."""
        return self.agreement >= least + BY_CHORDS * self.varied

    @property
    def open(self) -> bool:
        """True where several places fit as well, and none is by far the nearest to a common beginning."""
        nearest = min(map(abs, self.rivals_s), default=np.inf)
        return bool(self.rivals_s) and abs(self.shift_s) > min(NEAR_S, NEARER * nearest)


def evened(flux: Floats, smooth: float = SMOOTH_FRAMES) -> Floats:
    """Onset strength, every stroke about as strong as its neighbours within 1.5 s, its mean removed; shape as given.

    The first frames do not count: where a take begins in the middle of sound stands one huge onset.
    """
    strength = flux.copy()
    strength[:START_FRAMES] = 0.0
    strength = scipy.ndimage.gaussian_filter1d(strength, smooth)
    tallest = scipy.ndimage.maximum_filter1d(strength, 2 * AROUND_FRAMES + 1)
    around = scipy.ndimage.gaussian_filter1d(tallest, AROUND_FRAMES / 2)
    even = strength / np.maximum(around, QUIETEST * float(strength.max(initial=0.0)) + 1e-12)
    return np.asarray(even - even.mean())


def changing_notes(chroma: Floats, cents: float) -> tuple[Floats, float]:
    """Pitch classes of each frame at equal strength, less their mean, and how much they vary (0 to 1).

    Shape (frames, 40); frames that do not sound are zero. ``cents``: how much higher the take is tuned.
    """
    moved = np.roll(chroma, -round(cents / 10), axis=1)
    blurred = scipy.ndimage.gaussian_filter(moved, (BLUR_FRAMES, BLUR_TENTHS), mode=("nearest", "wrap"))
    notes = blurred[:, ::TENTHS_STEP]
    strength = np.linalg.norm(notes, axis=1)
    heard = strength > 10 ** (-HEARD_DB / 40) * float(np.percentile(strength, 98)) if len(strength) else strength > 0
    if not heard.any():
        return np.zeros_like(notes), 0.0
    notes = np.where(heard[:, None], notes / np.maximum(strength, 1e-12)[:, None], 0.0)
    notes[heard] -= notes[heard].mean(axis=0)
    return notes, float(np.square(notes).sum() / heard.sum())


def _paced(values: Floats, ratio: float) -> Floats:
    """``values`` over time as they would be at the first take's tempo."""
    at = np.arange(max(2, int(len(values) * ratio))) / ratio
    if values.ndim == 1:
        return np.interp(at, np.arange(len(values)), values)
    return np.asarray(values[np.minimum(np.round(at).astype(np.intp), len(values) - 1)])


class _Agreement:
    """The agreement of two takes at every shift, for one tempo after the other."""

    def __init__(self, a: Features, b: Features, cents: float) -> None:
        self._strokes = evened(a.flux), evened(b.flux)
        (x, varied), (y, varied_too) = changing_notes(a.chroma, 0.0), changing_notes(b.chroma, cents)
        self._notes = x, y
        # One chord throughout has noise for notes: each side counts as if it varied by the least that tells.
        self._share = [v / (v + LEAST_VARIED) for v in (varied, varied_too)]
        self.varied = self._share[0]

    def at(self, ratio: float) -> tuple[Floats, Floats, Floats]:
        """Shifts in seconds, and the agreement of strokes and of notes at each."""
        (x, y), (c, d) = self._strokes, self._notes
        y, d = _paced(y, ratio), _paced(d, ratio)
        strokes = _correlation(x[:, None], y[:, None])
        notes = _correlation(c, d) * float(np.sqrt(self._share[0] * self._share[1]))
        lags = np.asarray(np.arange(1 - len(x), len(y)) * HOP_S, dtype=np.float64)
        coarse = np.arange(1 - len(c), len(d)) * CHROMA_HOP_S
        return lags, strokes, np.interp(lags, coarse, notes)

    def joint(self, strokes: Floats, notes: Floats) -> Floats:
        """Both together: notes count as far as they vary."""
        return np.asarray((strokes + self.varied * notes) / (1 + self.varied))


def _correlation(x: Floats, y: Floats) -> Floats:
    """Normalised correlation over all columns at the shifts 1 - len(x) ... len(y) - 1."""
    size = scipy.fft.next_fast_len(len(x) + len(y), real=True)
    cross = (scipy.fft.rfft(y, size, axis=0) * np.conj(scipy.fft.rfft(x, size, axis=0))).sum(axis=1)
    r = scipy.fft.irfft(cross, size) / max(float(np.linalg.norm(x) * np.linalg.norm(y)), 1e-12)
    return np.concatenate((r[len(r) - len(x) + 1 :], r[: len(y)]))


def line_up(a: Features, b: Features, cents: float = 0.0) -> LinedUp:
    """The place and pace at which ``b``, tuned ``cents`` higher, fits ``a`` best, tempi from 0.8 to 1.25."""
    agreement = _Agreement(a, b, cents)

    def best(ratio: float, near_s: float | None = None) -> tuple[float, float]:
        lags, strokes, notes = agreement.at(ratio)
        joint = agreement.joint(strokes, notes)
        if near_s is not None:
            joint = np.where(np.abs(lags - near_s) <= APART_S, joint, -1.0)
        k = int(np.argmax(joint))
        return float(joint[k]), float(lags[k])

    found = {float(ratio): best(float(ratio)) for ratio in RATIOS}
    ratio = max(found, key=lambda one: found[one][0])
    shift_s = found[ratio][1]
    for step in FINE_STEPS:
        near = {ratio + step * k: best(ratio + step * k, shift_s) for k in range(-4, 5)}
        ratio = max(near, key=lambda one: near[one][0])
        shift_s = near[ratio][1]
    lags, strokes, notes = agreement.at(ratio)
    joint = agreement.joint(strokes, notes)
    places = _leaving_fewest(a, b, ratio, lags, _places(lags, joint))
    nearest = min(places, key=lambda k: abs(lags[k]))
    return LinedUp(
        ratio=ratio,
        shift_s=float(lags[nearest]),
        agreement=float(joint[nearest]),
        strokes=float(strokes[nearest]),
        notes=float(notes[nearest]),
        varied=agreement.varied,
        rivals_s=tuple(sorted(float(lags[k]) for k in places if k != nearest)),
    )


def _leaving_fewest(a: Features, b: Features, ratio: float, lags: Floats, places: list[int]) -> list[int]:
    """Of some places those where nearly all strokes of each take fall on one of the other."""
    if len(places) < 2 or not len(a.onsets_s) or not len(b.onsets_s):
        return places

    def alone(shift_s: float) -> int:
        apart = np.abs(a.onsets_s[:, None] - (b.onsets_s * ratio - shift_s)[None, :]) < TOGETHER_S
        return int(np.sum(~apart.any(axis=1)) + np.sum(~apart.any(axis=0)))

    left = [alone(float(lags[k])) for k in places]
    return [k for k, count in zip(places, left, strict=True) if count < min(left) + FEWER]


def _places(lags: Floats, joint: Floats) -> list[int]:
    """The shifts that fit about as well as the best one, a stroke apart at least."""
    left, places = joint.copy(), []
    least = max((1 - AS_GOOD) * float(joint.max()), 1e-9)
    while left.max() >= least:
        k = int(np.argmax(left))
        places.append(k)
        left[np.abs(lags - lags[k]) < APART_S] = -1.0
    return places or [int(np.argmax(joint))]
