"""Compressors of the bench: a gain that follows the level in dB with known times."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import scipy

from cata.core.clip import ANALYSIS_RATE_HZ, Audio

Floats = npt.NDArray[np.float64]
CONTROL_SAMPLES = 16
"""The gain is moved at 3 kHz and drawn straight between."""


def static_gain_db(level_db: Floats, threshold_db: float, ratio: float, knee_db: float) -> Floats:
    """Gain in dB at levels: none below the threshold, 1/ratio above, a parabola over the knee."""
    over, slope = level_db - threshold_db, 1 - 1 / ratio
    if knee_db <= 0:
        return np.asarray(-slope * np.maximum(over, 0.0))
    bend = np.clip(over + knee_db / 2, 0.0, knee_db) ** 2 / (2 * knee_db)
    return np.asarray(-slope * np.where(over > knee_db / 2, over, bend))


@dataclass(frozen=True, kw_only=True)
class Compressing:
    """A feed-forward compressor: levels of the input's envelope in dBFS, times of a first-order lag in dB.

    63 % of a change is made after ``attack_s``, 90 % of the way back after 2.3 times ``release_s``.
    """

    threshold_db: float
    ratio: float
    knee_db: float = 6.0
    attack_s: float = 0.010
    release_s: float = 0.150
    makeup_db: float = 0.0

    def process(self, signal: Audio) -> Audio:
        """See :class:`cata.core.bench.circuit.Block`."""
        padded = np.pad(signal.astype(np.float64), (0, -len(signal) % (1 << 16)))
        envelope = np.abs(scipy.signal.hilbert(padded))
        level = 20 * np.log10(np.maximum(envelope.reshape(-1, CONTROL_SAMPLES).max(axis=1), 1e-7))
        target = static_gain_db(level, self.threshold_db, self.ratio, self.knee_db)
        step = CONTROL_SAMPLES / ANALYSIS_RATE_HZ
        down, up = np.exp(-step / self.attack_s), np.exp(-step / self.release_s)
        gain = np.empty(len(target))
        now = 0.0
        for index, wanted in enumerate(target.tolist()):
            now = wanted + (now - wanted) * (down if wanted < now else up)
            gain[index] = now
        at = (np.arange(len(target)) + 1) * CONTROL_SAMPLES
        drawn = np.interp(np.arange(len(signal)), at, gain)
        return np.asarray(signal * 10 ** ((drawn + self.makeup_db) / 20), dtype=np.float32)

    def period(self, wave: Floats, hz: float) -> Floats:
        """See :class:`cata.core.bench.circuit.Block`: settled, the gain of the wave's peak."""
        level = np.array([20 * np.log10(max(float(np.max(np.abs(wave))), 1e-7))])
        gain = float(static_gain_db(level, self.threshold_db, self.ratio, self.knee_db)[0]) + self.makeup_db
        return wave * 10 ** (gain / 20)
