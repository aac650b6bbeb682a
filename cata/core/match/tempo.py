"""Tempo ratio of two takes, and whether they hold the same phrase.

Strokes alone are fooled: two riffs in eighths look alike. Notes alone are too: two phrases over the same chords. So
both are asked, and pitch classes as they are beside those that change (:mod:`cata.core.match.lining`).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
import scipy

from cata.core.match.chroma import CHROMA_HOP_S
from cata.core.match.features import Features
from cata.core.match.lining import LinedUp
from cata.said import Said, said

SamePhrase = Literal["yes", "no", "unsure"]

MIN_ONSETS = 4
MIN_AGREEMENT = 0.4

AGREE_YES, AGREE_NO = 0.36, 0.30
FEW_AGREE_YES = 0.55
CHROMA_YES, CHROMA_NO, CHROMA_STRANGE = 0.87, 0.86, 0.75
"""Set on a string model through pedals, checked on two samplers: docs/measures.md."""
CHROMA_FLOOR_DB = 30.0
SMEAR_S = 0.12

DISAGREE = said("onsets_disagree", "strokes and notes of the two takes do not agree at any tempo")


@dataclass(frozen=True)
class Tempo:
    """``ratio``: tempo of the second take over that of the first; None with ``reason`` where it cannot be told.

    ``judged`` is False where one of the takes has too few onsets to ask.
    """

    ratio: float | None
    shift_s: float
    reason: Said | None = None
    judged: bool = True


def tempo_of(a: Features, b: Features, lined: LinedUp) -> Tempo:
    """Tempo ratio between 0.8 and 1.25 at which two takes fit best (±0.2 %)."""
    if min(len(a.onsets_s), len(b.onsets_s)) < MIN_ONSETS:
        why = said("few_onsets", "fewer than {least} onsets in one of the takes", least=MIN_ONSETS)
        return Tempo(None, lined.shift_s, why, judged=False)
    if lined.agreement < MIN_AGREEMENT:
        return Tempo(None, lined.shift_s, DISAGREE)
    return Tempo(lined.ratio, lined.shift_s)


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


def same_phrase(lined: LinedUp, chroma: float, *, few: bool) -> SamePhrase:
    """Yes, no or unsure from the agreement of strokes and changing notes, and from that of the pitch classes.

    ``few``: too few strokes to make a rhythm.
    """
    agrees = lined.agreement >= FEW_AGREE_YES if few else lined.agrees_by(AGREE_YES)
    if chroma >= CHROMA_YES and agrees:
        return "yes"
    if few and chroma >= CHROMA_NO:
        return "unsure"
    strange = chroma < CHROMA_STRANGE or (not lined.agrees_by(AGREE_NO) and chroma < CHROMA_NO)
    return "no" if strange else "unsure"
