"""A take against a bed: what of its loudness is left when others play, and where it is covered.

Partial loudness: in each critical band (ISO 532-1) the specific loudness of take and bed together, less that of the bed
alone, is what the take adds; held against what it has alone, where it sounds, that is its cut-through. The bed covers
also what lies beside it: upwards by 10 dB for each band, downwards by 27 (Zwicker and Fastl 2007, chapter 4). The take
is covered where it lies 4 dB or more under that.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from cata.core.clip import Clip
from cata.core.hearing.zwicker import Floats, critical_bands, specific, third_octaves
from cata.core.resample import for_analysis
from cata.said import Said, said

PACE = 20
"""One moment of so many is listened to: every 10 ms."""
UP_DB, DOWN_DB = 10.0, 27.0
COVERED_DB = 4.0
SOUNDS_DB = 30.0
"""A band of the take counts where it lies within this of its loudest."""
CENTRES_HZ = (63, 125, 200, 315, 400, 500, 630, 800, 1000, 1250, 1600, 2000, 2500, 3150, 4000, 5000, 6300, 8000, 10000,
              12500)  # fmt: skip
"""What each critical band is called: the lowest three hold several third octaves."""
OFTEN, WELL, HARDLY = 0.5, 0.6, 0.3


@dataclass(frozen=True)
class CutThrough:
    """``share`` of the take's loudness that is left in the bed, 0 to 1; ``covered`` share of time by band centre."""

    share: float
    covered: Mapping[int, float]


def cut_through(take: Clip, bed: Clip, take_gain_db: float = 0.0) -> CutThrough | None:
    """How well a take is heard through a bed that goes on as long; None where the take is silent.

    Both at the levels of their files, the take raised by a gain; a bed that is shorter begins again.
    """
    mine, other = (np.asarray(for_analysis(one).samples.mean(axis=0)) for one in (take, bed))
    if not len(other):
        return None
    other = np.resize(other, len(mine))
    bands = critical_bands(third_octaves(mine)[:, ::PACE] + take_gain_db)
    beside = _spread(critical_bands(third_octaves(other)[:, ::PACE]))
    alone = specific(bands)
    sounds = (bands > bands.max(axis=1, keepdims=True) - SOUNDS_DB) & (alone > 0)
    if not sounds.any():
        return None
    both = specific(10 * np.log10(10 ** (bands / 10) + 10 ** (beside / 10)))
    added = np.minimum(np.maximum(both - specific(beside), 0.0), alone)
    under = sounds & (bands < beside - COVERED_DB)
    covered = {
        hz: round(float(under[at].sum() / sounds[at].sum()), 4) for at, hz in enumerate(CENTRES_HZ) if sounds[at].any()
    }
    return CutThrough(float(added[sounds].sum() / alone[sounds].sum()), covered)


def _spread(bands: Floats) -> Floats:
    """What covers each band: its own level, or that of one beside it less what the ear sets apart."""
    found = bands.copy()
    for at in range(1, len(bands)):
        found[at] = np.maximum(found[at], found[at - 1] - UP_DB)
    for at in range(len(bands) - 2, -1, -1):
        found[at] = np.maximum(found[at], found[at + 1] - DOWN_DB)
    return found


def told(one: CutThrough, take: str) -> Said:
    """How well it is heard, and where it is covered."""
    covered = [hz for hz, share in one.covered.items() if share >= OFTEN]
    where = f", covered around {_runs(covered)}" if covered else ""
    how = "stands out of" if one.share >= WELL else "is hardly heard in" if one.share < HARDLY else "is heard in"
    words = "{take} {how} the bed: {percent:.0f} % of its loudness is left{where}."
    return said("cut_through", words, take=take, how=how, percent=100 * one.share, where=where)


def _runs(hz: list[int]) -> str:
    """Bands in words, those that lie side by side as one stretch."""
    runs: list[list[int]] = []
    for one in hz:
        at = CENTRES_HZ.index(one)
        if runs and CENTRES_HZ.index(runs[-1][-1]) == at - 1:
            runs[-1].append(one)
        else:
            runs.append([one])
    return ", ".join(f"{run[0]} Hz" if len(run) == 1 else f"{run[0]}\N{EN DASH}{run[-1]} Hz" for run in runs)
