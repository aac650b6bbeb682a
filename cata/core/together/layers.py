"""Takes side by side: what each covers, what piles up, and what a sum of them keeps in mono.

Where both of a pair are strong in one region they stand in each other's way; where one is strong where the other is
not, they fill each other. Levels over third octaves are held against each other at equal loudness of the whole.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import scipy

from cata.core.clip import ANALYSIS_RATE_HZ, Clip
from cata.core.measure.regions import EDGES_HZ, REGIONS
from cata.core.resample import for_analysis
from cata.core.together.bands import TINY, edges, in_db, pair_of, power_of, powers
from cata.said import Said, said

PER_OCTAVE = 3
MOST_PER_SIDE_DB = 6.0
"""By so much must one be stronger in a region to be the one that covers it."""
STRONG_SHARE, HEARD_DB = 0.12, 40.0
MONO_LOST_DB, BUILDS_DB = 3.0, 2.5
"""Layers that were each played anew gain 2.4 dB at most somewhere by chance (40 sums of two and four)."""


@dataclass(frozen=True)
class Complement:
    """A hard-panned pair: ``share`` 0 (all they have in common) to 1 (nothing), who covers what, and mono.

    ``covers``: by region 0 or 1, or None where neither is stronger; ``piles`` are regions in which both are strong.
    ``mono_db``: by region what both together have in mono against what they have side by side.
    """

    share: float
    covers: Mapping[str, int | None]
    piles: tuple[str, ...]
    mono_db: Mapping[str, float]


def complement(first: Clip, second: Clip) -> Complement:
    """How two takes of any length go side by side; mono is told as they lie, from their beginnings."""
    a, b = (np.asarray(for_analysis(one).samples.mean(axis=0), dtype=np.float64) for one in (first, second))
    length = max(len(a), len(b))
    a, b = (np.pad(one, (0, length - len(one))) for one in (a, b))
    of = edges(PER_OCTAVE, EDGES_HZ[0], EDGES_HZ[-1])
    mine, other = (one / max(float(one.sum()), TINY) for one in (power_of(a, of), power_of(b, of)))
    # As the ear hears them: a region ten times stronger is about twice as loud.
    mine, other = (one**0.3 / np.sum(one**0.3) for one in (mine, other))
    share = 1.0 - float(np.minimum(mine, other).sum())
    regions = np.array(EDGES_HZ)
    both = pair_of(a, b, regions)
    at_equal = float(np.sqrt(both.first.sum() / max(float(both.second.sum()), TINY)))
    left, right = both.first, both.second * at_equal**2
    apart = in_db(left) - in_db(right)
    louder = in_db(np.maximum(left, right))
    # Of what nobody hears nothing is covered.
    sure = (abs(apart) >= MOST_PER_SIDE_DB) & (louder > louder.max() - HEARD_DB)
    covers = {one.key: int(apart[at] < 0) if sure[at] else None for at, one in enumerate(REGIONS)}
    strong = [np.minimum(left / left.sum(), right / right.sum())[at] >= STRONG_SHARE for at in range(len(REGIONS))]
    piles = tuple(one.key for at, one in enumerate(REGIONS) if strong[at] and covers[one.key] is None)
    mono = in_db(both.of_sum(at_equal)) - in_db(left + right)
    return Complement(share, covers, piles, {one.key: float(mono[at]) for at, one in enumerate(REGIONS)})


def build_up(layers: Sequence[Clip]) -> dict[str, float]:
    """By region, in dB, what the sum of layers has against one of them on average, less what the whole gains."""
    signals = [np.asarray(for_analysis(one).samples.mean(axis=0), dtype=np.float64) for one in layers]
    length = max(map(len, signals))
    padded = [np.pad(one, (0, length - len(one))) for one in signals]
    levelled = [one / max(float(np.sqrt(np.mean(one**2))), 1e-12) for one in padded]
    regions = np.array(EDGES_HZ)
    single = np.mean([power_of(one, regions) for one in levelled], axis=0)
    size = scipy.fft.next_fast_len(length, real=True)
    whole = powers(np.abs(scipy.fft.rfft(np.sum(levelled, axis=0), size)) ** 2, regions, ANALYSIS_RATE_HZ)
    gained = in_db(whole) - in_db(single)
    middle = float(in_db(np.array([whole.sum()]))[0] - in_db(np.array([single.sum()]))[0])
    return {one.key: float(gained[at] - middle) for at, one in enumerate(REGIONS)}


def told_layers(built: Mapping[str, float], names: Sequence[str]) -> list[Said]:
    """Where layers build up, and where they thin out, against what the whole gains."""
    words = {region.key: region.word for region in REGIONS}
    up = [words[key] for key, db in built.items() if db >= BUILDS_DB]
    down = [words[key] for key, db in built.items() if db <= -BUILDS_DB]
    whole = _listed(list(names))
    if not up and not down:
        return [Said("even", f"{whole} add up evenly: no region builds up.")]
    found = []
    if up:
        found.append(Said("builds", f"{whole} build up in the {_listed(up)}: turn that down in one of them."))
    if down:
        found.append(Said("thins", f"In the {_listed(down)} they take from each other."))
    return found


def told(one: Complement, first: str, second: str, *, one_performance: bool) -> list[Said]:
    """What a pair does, left and right.

    What goes in mono is told of one performance only: of two what happens to cancel is another thing each time.
    """
    words = {region.key: region.word for region in REGIONS}
    mine = [words[key] for key, who in one.covers.items() if who == 0]
    other = [words[key] for key, who in one.covers.items() if who == 1]
    share = "Left and right {percent:.0f} % of what they have is their own."
    found = [said("complement", share, percent=100 * one.share)]
    if mine or other:
        both = ((first, mine), (second, other))
        parts = [f"{name} covers the {_listed(covered)}" for name, covered in both if covered]
        found.append(Said("covers", f"{'; '.join(parts)}."))
    if one.piles:
        where = _listed([words[key] for key in one.piles])
        found.append(Said("piles", f"Both are strong in the {where}: there they pile up."))
    lost = [words[key] for key, db in one.mono_db.items() if db < -MONO_LOST_DB]
    if lost and one_performance:
        found.append(Said("mono", f"In mono the {_listed(lost)} go: line them up, or turn one polarity."))
    return found


def _listed(names: Sequence[str]) -> str:
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"
