"""Equivalent drive: the takes of a test against a ladder made of the cleanest of them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import soxr

from cata.core.clip import ANALYSIS_RATE_HZ, Audio
from cata.core.drive.ladder import ladder_of
from cata.core.drive.of_test import Heard, drives, foot_among, share_of_image, shifted
from cata.core.match.features import Features
from cata.core.measure.material import HALF_RATE_HZ
from cata.core.measure.results import Result
from cata.media.cuts import cut_of
from cata.tasks.audits import ToCompare, features_at
from cata.tasks.desk import Desk
from cata.tasks.shape import Task


@dataclass(frozen=True)
class ToDrive:
    """A take whose drive is asked for; ``lag_s`` re the reference of its test where they are one performance."""

    take: ToCompare
    is_bypass: bool
    spoilt: bool
    lag_s: float | None


def drive(takes: tuple[ToDrive, ...], desk: Desk) -> list[Result]:
    """The equivalent drive of each take of a test."""
    features: list[Features] = []
    for index, one in enumerate(takes):
        with desk.reading(one.take.copy) as copy:
            features.append(features_at(one.take, copy, desk))
        desk.tell((index + 1) / (len(takes) + 1))
    heard = [
        Heard(known.whole_grain, one.take.results.number("plr_db"), one.is_bypass, one.spoilt)
        for one, known in zip(takes, features, strict=True)
    ]
    foot = foot_among(heard)
    if foot is None:
        return drives(heard, None, None, {})
    dry = _carrier(takes[foot], features[foot], desk)
    base_s = takes[foot].lag_s
    images = {}
    for index, one in enumerate(takes):
        if index != foot and one.lag_s is not None and base_s is not None:
            wet = _carrier(one, features[index], desk)
            images[index] = share_of_image(dry, shifted(wet, one.lag_s - base_s))
    return drives(heard, foot, ladder_of(dry), images)


def _carrier(one: ToDrive, features: Features, desk: Desk) -> Audio:
    """The carrier of a take at 24 kHz."""
    with desk.reading(one.take.copy) as copy:
        whole = cut_of(copy, features.mix)(0, features.length)
    return np.asarray(soxr.resample(whole, ANALYSIS_RATE_HZ, HALF_RATE_HZ, quality="HQ"), dtype=np.float32)


DRIVE = Task("equivalent drive of a test", drive, limit_s=900)
