"""Pitch classes of a take over time, and its partials over all: what notes are played, whatever they go through."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from cata.core.measure import frames
from cata.core.measure.material import QUARTER_RATE_HZ, Material
from cata.core.measure.pitch import find_peaks

CHROMA_SIZE, CHROMA_HOP_S = 2048, 0.1
CHROMA_HZ = (75.0, 1400.0)
REGISTER_CENTS, REGISTER_STEP, REGISTER_HZ = (-3400, 3600), 20, 3000.0
"""From 62 Hz to 3.5 kHz."""
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


def register_of(material: Material) -> Floats:
    """Strength of a take's partials up to 3 kHz, added up in steps of 20 cents from -3400 to 3600 above A440."""
    cents, weights = find_peaks(material.reduced.quarter, QUARTER_RATE_HZ, REGISTER_HZ)
    low, high = REGISTER_CENTS
    return np.histogram(cents, np.arange(low, high + 1, REGISTER_STEP), weights=weights)[0].astype(np.float64)
