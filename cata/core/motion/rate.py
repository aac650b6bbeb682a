"""At which rate something moves: the lines of a rate and its multiples, over all tests of a contender."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import scipy

from cata.core.motion.against import HIGHEST_HZ, KINDS, LINE_HZ, Kind, Moves
from cata.core.motion.track import Floats

RATES_HZ: Floats = np.exp(np.arange(np.log(0.28), np.log(10.0), 0.002))
MULTIPLES: dict[Kind, tuple[int, ...]] = {"level": (1, 2, 4), "pitch": (1, 2, 4), "tone": (1, 2, 4, 8, 16)}
CERTAIN: dict[Kind, float] = {"level": 3.9, "pitch": 4.2, "tone": 12.0}
"""From where one kind alone is believed, in deviations; what stands still reaches 3.6, 3.7 and 11."""
LEAST_SHARE, TOGETHER = 0.7, 1.65
"""Two kinds that agree within 2 % are believed sooner: each from 0.7 of that, together from 1.65 of it."""
NEAR = 0.02
ODD = 0.4
"""Half the rate is the right one where its odd multiples show this share of what is asked for."""
FINE_STEPS, PEAK_SHARE = 15, 0.8
FEW_MORE = 0.3
"""What one test alone must show more; of n tests each shows chance of its own."""


@dataclass(frozen=True)
class Rate:
    """A rate in Hz, and what moves at it."""

    hz: float
    kinds: tuple[Kind, ...]


def rate_of(tests: Sequence[Sequence[Moves]]) -> Rate | None:
    """The rate at which a contender moves, from its tests, each held against one or several others; None if none.

    What moves against one other take and not against the next is that other take's motion.
    """
    held = [moves for moves in tests if moves]
    if not held:
        return None
    asked = 1 + FEW_MORE / len(held) ** 2
    shares = {kind: _evidence(held, kind) / (CERTAIN[kind] * asked) for kind in KINDS}
    best = max(shares, key=lambda kind: float(shares[kind].max()))
    at = int(np.argmax(shares[best]))
    near = np.abs(np.log(RATES_HZ / RATES_HZ[at])) < NEAR
    seen = {kind: float(share[near].max()) for kind, share in shares.items()}
    kinds = tuple(kind for kind in KINDS if seen[kind] >= LEAST_SHARE)
    if seen[best] < 1.0 and sum(seen[kind] for kind in kinds) < TOGETHER:
        return None
    if RATES_HZ[at] > 2 * RATES_HZ[0] and _odd(held, best, RATES_HZ[at] / 2) > ODD * CERTAIN[best]:
        at = int(np.argmin(np.abs(RATES_HZ - RATES_HZ[at] / 2)))
    return Rate(_fine(held, kinds, at), kinds)


def _odd(tests: Sequence[Sequence[Moves]], kind: Kind, hz: float) -> float:
    """How far the odd multiples of a rate stand out: what goes there and back passes each place twice a turn."""
    lines = hz * np.arange(1, 2 * MULTIPLES[kind][-1], 2)
    lines = lines[lines < HIGHEST_HZ]
    total = 0.0
    for moves in tests:
        closed = (~moves[0].open_[kind]).astype(float)
        counts = np.interp(lines, LINE_HZ, closed) < 0.5
        each = [float(np.interp(lines[counts], LINE_HZ, one.lines[kind]).sum()) for one in moves]
        total += min(each) / np.sqrt(max(int(counts.sum()), 1))
    return total / np.sqrt(len(tests))


def _evidence(tests: Sequence[Sequence[Moves]], kind: Kind, *, own_too: bool = False) -> Floats:
    """How far each of :data:`RATES_HZ` stands out, in deviations, over all tests; ``own_too``: the phrase's too."""
    found = np.full(len(RATES_HZ), -np.inf)
    for multiples in MULTIPLES[kind]:
        each = [np.min([_comb(one, kind, multiples, own_too) for one in moves], axis=0) for moves in tests]
        found = np.maximum(found, np.sum(each, axis=0) / np.sqrt(len(each)))
    return found


def _comb(moves: Moves, kind: Kind, multiples: int, own_too: bool) -> Floats:
    total, count = np.zeros(len(RATES_HZ)), np.zeros(len(RATES_HZ))
    closed = (~moves.open_[kind]).astype(float)
    for k in range(1, multiples + 1):
        hz = RATES_HZ * k
        counts = (hz < HIGHEST_HZ) & (own_too | (np.interp(hz, LINE_HZ, closed) < 0.5))
        total += np.where(counts, np.interp(hz, LINE_HZ, moves.lines[kind]), 0.0)
        count += counts
    return np.asarray(total / np.sqrt(np.maximum(count, 1)))


def _fine(tests: Sequence[Sequence[Moves]], kinds: Sequence[Kind], at: int) -> float:
    """The rate at the middle of its peak, all lines counted: those left out would push it aside."""
    low, last = max(0, at - FINE_STEPS), min(len(RATES_HZ), at + FINE_STEPS + 1)
    evidence = np.sum([_evidence(tests, kind, own_too=True)[low:last] / CERTAIN[kind] for kind in kinds], axis=0)
    over = np.maximum(evidence - PEAK_SHARE * evidence.max(), 0.0)
    top = int(np.argmax(over))
    labels, _ = scipy.ndimage.label(over > 0)
    over = np.where(labels == labels[top], over, 0.0)
    return float(np.exp(np.average(np.log(RATES_HZ[low:last]), weights=over)))
