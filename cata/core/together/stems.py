"""Stems laid together: each at its level and its place between left and right."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from cata.core.clip import ANALYSIS_RATE_HZ, Clip
from cata.core.resample import for_analysis


@dataclass(frozen=True)
class Stem:
    """A recording at a level in dB; ``side`` -1 left, 0 as it is, 1 right."""

    clip: Clip
    gain_db: float = 0.0
    side: float = 0.0


def mixed(stems: Sequence[Stem]) -> Clip:
    """All stems from their beginnings, two channels at 48 kHz, as long as the longest.

    Placing one takes the other side away and adds nothing: in the middle every stem is as it was recorded.
    """
    works = [for_analysis(one.clip).samples for one in stems]
    whole = np.zeros((2, max((one.shape[1] for one in works), default=0)), dtype=np.float64)
    for one, samples in zip(stems, works, strict=True):
        sides = np.array([min(1.0, 1.0 - one.side), min(1.0, 1.0 + one.side)]) * 10 ** (one.gain_db / 20)
        both = np.repeat(samples, 2, axis=0) if len(samples) == 1 else samples
        whole[:, : samples.shape[1]] += sides[:, None] * both
    return Clip.of(whole.astype(np.float32), ANALYSIS_RATE_HZ)
