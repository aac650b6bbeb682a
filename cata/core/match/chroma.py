"""Pitch classes of a take over time: what notes are played, whatever device they go through."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from cata.core.measure import frames
from cata.core.measure.material import QUARTER_RATE_HZ, Material

CHROMA_SIZE, CHROMA_HOP_S = 2048, 0.1
CHROMA_HZ = (75.0, 1400.0)
Floats = npt.NDArray[np.float64]


def chroma_of(material: Material) -> Floats:
    """Pitch classes ten times a second, shape (frames, 120): tenths of a semitone above A, weights √amplitude."""
    rate = QUARTER_RATE_HZ
    hz = np.arange(CHROMA_SIZE // 2 + 1) * rate / CHROMA_SIZE
    used = np.flatnonzero((hz >= CHROMA_HZ[0]) & (hz <= CHROMA_HZ[1]))
    padded = np.pad(material.reduced.quarter, (CHROMA_SIZE // 2, CHROMA_SIZE // 2))
    rows = [
        s[:, : used[-1] + 2]
        for s in frames.batches(padded, frames.blackman_harris(CHROMA_SIZE), int(CHROMA_HOP_S * rate))
    ]
    power = frames.power(np.concatenate(rows)).astype(np.float64)
    # Peaks only: their places come from a parabola, far finer than a bin.
    level = np.log(power + 1e-30)
    out = np.zeros((len(power), 120))
    a, b, c = level[:, used - 1], level[:, used], level[:, used + 1]
    is_peak = (b > a) & (b >= c)
    curve = np.minimum(a - 2 * b + c, -1e-9)
    shift = np.where(is_peak, 0.5 * (a - c) / curve, 0.0)
    pitch = 12 * np.log2((used + shift) * rate / CHROMA_SIZE / 440.0)
    place = np.round(pitch * 10).astype(int) % 120
    weight = np.where(is_peak & (power[:, used] > 1e-4 * power[:, used].max(axis=1, keepdims=True)), b, -np.inf)
    rows_index = np.broadcast_to(np.arange(len(power))[:, None], place.shape)
    np.add.at(out, (rows_index, place), np.where(np.isfinite(weight), np.exp(weight / 4), 0.0))
    return out
