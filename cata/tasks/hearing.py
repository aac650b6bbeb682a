"""Perceived loudness of a take over time: slow, so it is done when nothing else is to be done, and kept."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from cata.core.hearing.by_ear import OFFSETS_DB, PACE_S
from cata.core.hearing.zwicker import AT_LUFS, MOMENT_HZ, loudness_sone, third_octaves
from cata.media.decode import Limits, decode
from cata.tasks.desk import Desk
from cata.tasks.shape import Task


@dataclass(frozen=True)
class ToHear:
    """A listening copy, and the loudness of it in LUFS."""

    copy: str
    loudness_lufs: float


def hear(take: ToHear, desk: Desk) -> list[list[float]]:
    """Sone every 20 ms at each of the levels, re -23 LUFS."""
    with desk.reading(take.copy) as path:
        clip = decode(path, Limits(max_duration_s=float("inf"))).clip
    bands = [third_octaves(channel) for channel in clip.distinct]
    levels = bands[0] if len(bands) == 1 else 10 * np.log10(np.mean([10 ** (one / 10) for one in bands], axis=0))
    pace = round(PACE_S * MOMENT_HZ)
    found = []
    for number, offset in enumerate(OFFSETS_DB):
        sone = loudness_sone(levels, AT_LUFS - take.loudness_lufs + offset)
        found.append([round(float(one), 2) for one in sone[::pace]])
        desk.tell((number + 1) / len(OFFSETS_DB))
    return found


HEAR = Task("perceived loudness", hear, limit_s=1800)
