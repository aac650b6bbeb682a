"""Sampling-rate conversion, in one place: soxr at its very high quality."""

from __future__ import annotations

import numpy as np
import soxr

from cata.core.clip import ANALYSIS_RATE_HZ, Audio, Clip


def to_rate(clip: Clip, rate_hz: int) -> Clip:
    """The clip at ``rate_hz`` (soxr VHQ, float32); the same object where nothing changes."""
    if clip.rate_hz == rate_hz:
        return clip
    planes = [soxr.resample(channel, clip.rate_hz, rate_hz, quality="VHQ") for channel in clip.samples]
    return Clip(np.ascontiguousarray(np.stack(planes), dtype=np.float32), rate_hz)


def for_analysis(clip: Clip) -> Clip:
    """The clip at 48 kHz, the rate at which every reading but the sample peak is computed."""
    return to_rate(clip, ANALYSIS_RATE_HZ)


def upsample(signal: Audio, factor: int) -> Audio:
    """A one-dimensional signal at ``factor`` times its rate, for a non-linear stage."""
    return np.asarray(soxr.resample(signal, 1, factor, quality="HQ"), dtype=np.float32)


def downsample(signal: Audio, factor: int) -> Audio:
    """The inverse of :func:`upsample`; everything above the new Nyquist frequency is removed."""
    return np.asarray(soxr.resample(signal, factor, 1, quality="HQ"), dtype=np.float32)
