"""Small pictures of a take: its waveform outline and its spectrum, for lanes and charts."""

from __future__ import annotations

import numpy as np

from cata.core.clip import Clip
from cata.core.measure.level import loudness_lufs
from cata.core.measure.material import Material, db

OUTLINE_STEP_S = 0.01
CHART_LOW_HZ, CHART_HIGH_HZ, CHART_PER_OCTAVE = 50.0, 16_000.0, 12
CHART_LUFS = -23.0
CHART_DEPTH_DB = 55.0


def outline(clip: Clip) -> list[float]:
    """Largest absolute sample in every 10 ms, all channels."""
    size = int(OUTLINE_STEP_S * clip.rate_hz)
    count = clip.length // size
    if not count:
        return [round(float(np.max(np.abs(clip.samples))), 4)]
    whole = np.abs(clip.samples[:, : count * size]).reshape(clip.channels, count, size)
    return [round(float(v), 4) for v in whole.max(axis=(0, 2))]


def chart_hz() -> list[float]:
    """Centres of the chart's 1/12-octave cells in Hz."""
    count = int(CHART_PER_OCTAVE * np.log2(CHART_HIGH_HZ / CHART_LOW_HZ)) + 1
    return [round(float(CHART_LOW_HZ * 2 ** (i / CHART_PER_OCTAVE)), 2) for i in range(count)]


def chart_spectrum(material: Material) -> list[float | None]:
    """Level in dB of each 1/12-octave cell at a loudness of -23 LUFS.

    None above what the source holds, and 55 dB below the strongest cell: that is noise, and a difference
    between two noises says nothing of the gear.
    """
    loudness = material.shared(loudness_lufs).value
    if not isinstance(loudness, float):
        return [None for _ in chart_hz()]
    # Two channels are 3 LU louder than one of them; a mono and a stereo take of one sound draw the same curve.
    loudness -= 10 * float(np.log10(material.clip.channels))
    half = 2 ** (0.5 / CHART_PER_OCTAVE)
    powers = [material.whole.energy(hz / half, hz * half) for hz in chart_hz()]
    least = max(powers) * 10 ** (-CHART_DEPTH_DB / 10)
    return [
        round(float(db(power)) + CHART_LUFS - loudness, 2) if power > least and hz * half < material.usable_hz else None
        for hz, power in zip(chart_hz(), powers, strict=True)
    ]
