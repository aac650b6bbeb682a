"""Tempo ratio of two takes, and whether they hold the same phrase.

Onsets alone are fooled: two riffs in eighths look alike. So the phrase is also compared by its
pitch classes, warped by the tempo and corrected for tuning.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
import numpy.typing as npt
import scipy

from cata.core.match.chroma import CHROMA_HOP_S
from cata.core.match.features import Features
from cata.core.match.lag import best_shift
from cata.core.measure.onsets import HOP_S
from cata.said import Said, said

SamePhrase = Literal["yes", "no", "unsure"]

RATIOS = np.arange(0.80, 1.2501, 0.005)
COARSE_SMOOTH, FINE_SMOOTH = 3.0, 1.5
MIN_ONSETS = 4
START_FRAMES = 4
MIN_CORRELATION = 0.5

ONSETS_YES, ONSETS_NO = 0.80, 0.60
CHROMA_YES, CHROMA_NO = 0.90, 0.80
CHROMA_FLOOR_DB = 30.0
SMEAR_S = 0.12

Floats = npt.NDArray[np.float64]


DISAGREE = said("onsets_disagree", "the onsets of the two takes do not agree at any tempo")


@dataclass(frozen=True)
class Tempo:
    """``ratio``: tempo of the second take over that of the first; None with ``reason`` where it cannot be told.

    ``judged`` is False where one of the takes has too few onsets to ask.
    """

    ratio: float | None
    shift_s: float
    correlation: float
    reason: Said | None = None
    judged: bool = True


def _without_start(strength: Floats) -> Floats:
    """Where a take begins in the middle of sound stands one huge onset, which would match any stroke of the other."""
    kept = strength.copy()
    kept[:START_FRAMES] = 0.0
    return kept


def _warped(values: Floats, ratio: float) -> Floats:
    """``values`` as they would be at the first take's tempo."""
    count = max(2, int(len(values) * ratio))
    return np.interp(np.arange(count) / ratio, np.arange(len(values)), values)


def _score(a: Floats, b: Floats, ratio: float) -> tuple[float, float]:
    return best_shift(a, _warped(b, ratio))[::-1]


def find_tempo(a: Features, b: Features) -> Tempo:
    """Tempo ratio between 0.8 and 1.25 at which the onset strengths of two takes agree best (±0.2 %)."""
    if min(len(a.onsets_s), len(b.onsets_s)) < MIN_ONSETS:
        why = said("few_onsets", "fewer than {least} onsets in one of the takes", least=MIN_ONSETS)
        return Tempo(None, 0.0, 0.0, why, judged=False)
    x, y = (_without_start(side.flux) for side in (a, b))
    wide_x = scipy.ndimage.gaussian_filter1d(x, COARSE_SMOOTH)
    wide_y = scipy.ndimage.gaussian_filter1d(y, COARSE_SMOOTH)
    ratio = float(max(RATIOS, key=lambda r: _score(wide_x, wide_y, float(r))[0]))
    fine_x = scipy.ndimage.gaussian_filter1d(x, FINE_SMOOTH)
    fine_y = scipy.ndimage.gaussian_filter1d(y, FINE_SMOOTH)
    for step in (0.002, 0.0005):
        near = ratio + step * np.arange(-4, 5)
        scores = np.array([_score(fine_x, fine_y, float(r))[0] for r in near])
        k = int(np.clip(np.argmax(scores), 1, len(near) - 2))
        curve = scores[k - 1] - 2 * scores[k] + scores[k + 1]
        offset = 0.5 * (scores[k - 1] - scores[k + 1]) / curve if curve < 0 else 0.0
        ratio = float(near[k] + np.clip(offset, -1, 1) * step)
    # The agreement itself is judged with the wider smoothing: hands are not a machine.
    correlation, shift = _score(wide_x, wide_y, ratio)
    if correlation < MIN_CORRELATION:
        return Tempo(None, shift * HOP_S, correlation, DISAGREE)
    return Tempo(ratio, shift * HOP_S, correlation)


def chroma_similarity(a: Features, b: Features, tempo: Tempo, tuning_cents: float) -> float:
    """Mean cosine of the pitch classes of two takes where both sound, after tempo, shift and tuning (0 to 1)."""
    x, y = a.chroma, b.chroma
    ratio = tempo.ratio or 1.0
    y = np.roll(y, -round(tuning_cents / 10), axis=1)
    smear = SMEAR_S / CHROMA_HOP_S
    x = scipy.ndimage.gaussian_filter(x, (smear, 3.0), mode=("nearest", "wrap"))
    y = scipy.ndimage.gaussian_filter(y, (smear, 3.0), mode=("nearest", "wrap"))
    at = (np.arange(len(x)) * CHROMA_HOP_S + tempo.shift_s) / ratio / CHROMA_HOP_S
    inside = (at >= 0) & (at <= len(y) - 1)
    if not inside.any():
        return 0.0
    y = y[np.clip(np.round(at).astype(int), 0, len(y) - 1)]
    ex, ey = np.linalg.norm(x, axis=1), np.linalg.norm(y, axis=1)
    floor = 10 ** (-CHROMA_FLOOR_DB / 40)
    heard = inside & (ex > floor * ex.max(initial=0.0)) & (ey > floor * ey.max(initial=0.0))
    if not heard.any():
        return 0.0
    weight = np.sqrt(ex * ey)[heard]
    return float(np.sum(np.sum(x * y, axis=1)[heard] / (ex * ey)[heard] * weight) / np.sum(weight))


def same_phrase(onset_correlation: float, chroma: float) -> SamePhrase:
    """Yes, no or unsure from the agreement of onsets and of pitch classes."""
    if onset_correlation >= ONSETS_YES and chroma >= CHROMA_YES:
        return "yes"
    return "no" if onset_correlation < ONSETS_NO or chroma < CHROMA_NO else "unsure"
