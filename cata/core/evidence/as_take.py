"""The picking ladder as a take: the readings of takes, of a device as it answered and of the very playing without it.

What went out is known to the sample, so the drive is exact, and the two differ by nothing but the device: a flight of
two in miniature, at any setting of the knobs.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt
import scipy

from cata.core.clip import ANALYSIS_RATE_HZ, Audio, Clip
from cata.core.drive.of_test import share_of_image
from cata.core.measure.analysis import analyse_material
from cata.core.measure.material import Material
from cata.core.measure.of_flights import EQUIVALENT_DRIVE
from cata.core.measure.registry import READINGS
from cata.core.measure.results import Result, Results
from cata.core.resample import downsample
from cata.core.signals.testfile.layout import Section

Samples = npt.NDArray[np.floating[Any]]
LOUD_BLOCKS_DB = -9.0
"""Nominal level (:mod:`cata.core.measure.device.nominal`) of the ladder's playing where it peaks at 0 dBFS."""
BELOW_DB, ABOVE_DB = 9.5, 4.5
"""How far under and over everyday strumming the steps reach that count as a take: a phrase from soft to hard."""
OF_DEVICES = frozenset({"tone", "drive", "dynamics"})
"""Families that say something of a device, whatever the interface made of its level."""
KEYS = tuple(reading.key for reading in READINGS if reading.asked and reading.family in OF_DEVICES)
SPEAKER_HZ = 80.0, 5000.0
"""A plain guitar speaker: without one in the way the fizz of a clipper counts as nobody ever hears it."""
BODY, ROOF, SPEAKER_FALL_DB = ("2000", "2500", "3150", "4000"), ("8000", "10000"), 12.0


@dataclass(frozen=True)
class AsTake:
    """The readings of the playing through a device, and of the same playing as it was sent."""

    own: Results
    sent: Results


def steps_for(section: Section, nominal_dbfs: float) -> slice:
    """The steps of a ladder that lie about everyday strumming."""
    loud = np.array(section.levels_dbfs) + LOUD_BLOCKS_DB - nominal_dbfs
    inside = np.flatnonzero((loud >= -BELOW_DB) & (loud <= ABOVE_DB))
    if not len(inside):
        inside = np.array([int(np.argmin(np.abs(loud)))])
    return slice(int(inside[0]), int(inside[-1]) + 1)


def sounds_like_speaker(results: Results) -> bool:
    """True where a device's response falls towards 8 kHz as only a speaker's does: it has one, or the sound of one."""
    bands = results.parts("response_db")
    if not {*ROOF, *BODY} <= bands.keys():
        return False
    return max(bands[hz] for hz in BODY) - max(bands[hz] for hz in ROOF) > SPEAKER_FALL_DB


def through_speaker(signal: Audio) -> Audio:
    """A signal (samples,) at 48 kHz as a plain guitar speaker lets it through."""
    low, high = SPEAKER_HZ
    cut = scipy.signal.butter(2, low, "high", fs=ANALYSIS_RATE_HZ, output="sos")
    roof = scipy.signal.butter(3, high, "low", fs=ANALYSIS_RATE_HZ, output="sos")
    return np.asarray(scipy.signal.sosfilt(np.vstack((cut, roof)), signal), dtype=np.float32)


def as_take(own: Samples, sent: Samples, section: Section, nominal_dbfs: float, *, speaker: bool = True) -> AsTake:
    """Both ladders, each (samples,) at 48 kHz and aligned, read as takes at everyday strumming.

    ``speaker``: what came back is heard through one, as what was sent always is; it has none of its own.
    """
    steps, length = steps_for(section, nominal_dbfs), round(section.step_s * ANALYSIS_RATE_HZ)
    there = slice(steps.start * length, steps.stop * length)
    first = through_speaker(np.asarray(sent[there], dtype=np.float32))
    second = np.asarray(own[there], dtype=np.float32)
    if speaker:
        second = through_speaker(second)
    known = [analyse_material(Material(Clip.of(one, ANALYSIS_RATE_HZ)), KEYS) for one in (second, first)]
    share = share_of_image(downsample(first, 2), downsample(second, 2))
    for results, value in zip(known, (share.value, 0.0), strict=True):
        results[EQUIVALENT_DRIVE.key] = Result(
            value={"percent": 100 * value}, evidence="re-amped", unit=EQUIVALENT_DRIVE.unit,
            version=EQUIVALENT_DRIVE.version,
        )  # fmt: skip
    return AsTake(*known)
