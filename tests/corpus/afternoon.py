"""A recording afternoon without slates: takes of a corpus flight, with talk, noodling and false starts between."""

from __future__ import annotations

import random

import numpy as np
import soxr

from cata.core.capture.slates import SEARCH_RATE_HZ
from tests.corpus.flights import Flight
from tests.corpus.parts import RATE_HZ, Floats
from tests.sessions import Session, talk

QUIET_DB, HOP = -35.0, 80


def afternoon(flight: Flight, others: Flight, seed: int, takes: int = 12) -> Session:
    """Up to ``takes`` takes of two or three tests, in either order; noodling comes from tests of another flight."""
    rng, noise = random.Random(seed), np.random.default_rng(seed)
    low = {place: _low(samples) for place, samples in flight.takes.items()}
    tests = rng.sample(sorted({test for _, test in low}), rng.choice((2, 3)))
    each = rng.sample(sorted({contender for contender, _ in low}), min(takes // len(tests), 4))
    places = [(c, t) for t in tests for c in each] if rng.random() < 0.5 else [(c, t) for c in each for t in tests]
    strange = [_low(samples) for (_, test), samples in sorted(others.takes.items()) if test not in tests]
    parts: list[Floats] = []
    where: list[tuple[float, float]] = []

    def add(part: Floats) -> None:
        parts.append(part)
        parts.append(np.zeros(round(rng.uniform(0.5, 3.0) * SEARCH_RATE_HZ)))

    add(np.zeros(SEARCH_RATE_HZ))
    for place in places:
        take = low[place]
        start, stop = _sounding(take)
        for _ in range(rng.choice((0, 1, 1, 2))):
            kind = rng.choice(("talk", "noodling", "false start"))
            if kind == "talk":
                add(rng.uniform(0.6, 2.0) * talk(noise, SEARCH_RATE_HZ))
            elif kind == "noodling":
                first = rng.randrange(SEARCH_RATE_HZ, 4 * SEARCH_RATE_HZ)
                add(_faded(rng.choice(strange)[first : first + round(rng.uniform(1.5, 7.0) * SEARCH_RATE_HZ)]))
            else:
                add(_faded(take[start : start + round(rng.uniform(1.0, 4.0) * SEARCH_RATE_HZ)]))
        before = sum(map(len, parts))
        where.append((before / SEARCH_RATE_HZ, (before + stop - start) / SEARCH_RATE_HZ))
        add(_faded(take[start : stop + SEARCH_RATE_HZ // 3]))
    whole = np.concatenate(parts)
    return Session((whole + noise.normal(0, 3e-4, len(whole))).astype(np.float32), SEARCH_RATE_HZ, where)


def _low(samples: Floats) -> Floats:
    return np.asarray(soxr.resample(samples, RATE_HZ, SEARCH_RATE_HZ), dtype=np.float64)


def _sounding(take: Floats) -> tuple[int, int]:
    """From the first to the last sample over -35 dB re the loudest of a take."""
    levels = np.square(take[: len(take) // HOP * HOP].reshape(-1, HOP)).mean(axis=1)
    over = np.flatnonzero(levels > np.percentile(levels, 98) * 10 ** (QUIET_DB / 10))
    return int(over[0]) * HOP, int(over[-1] + 1) * HOP


def _faded(part: Floats) -> Floats:
    part = part.copy()
    part[-400:] *= np.linspace(1, 0, len(part[-400:]))
    return part
