"""What the rules look at: a take with its readings and its source."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
import numpy.typing as npt

from cata.core.match.features import Features
from cata.core.match.pair import PairMatch, match_pair
from cata.core.measure.results import Results


@dataclass(frozen=True)
class Source:
    """Where the audio came from: codec as the file says, whether it loses, and its sampling rate in Hz."""

    codec: str
    lossy: bool
    rate_hz: int
    channels: int


@dataclass(frozen=True)
class TakeEvidence:
    """One take under audit; ``name`` is how a person calls it, ``index`` its place in the set."""

    index: int
    name: str
    features: Features
    analysis: Results
    source: Source

    def number(self, key: str) -> float | None:
        """A reading that is one number, None where it was refused."""
        return self.analysis.number(key)


@dataclass(frozen=True)
class PairEvidence:
    """A take against the reference take of its test.

    ``typical_cents`` and ``typical_tempo`` are the medians over the test, so that a reference that is itself
    off is found instead of all the others.
    """

    reference: TakeEvidence
    take: TakeEvidence
    typical_cents: float = 0.0
    typical_tempo: float = 1.0

    @cached_property
    def match(self) -> PairMatch:
        """The comparison of the two."""
        return match_pair(self.reference.features, self.take.features)


def thinned(values: npt.NDArray[np.float64], points: int = 400) -> list[float]:
    """At most ``points`` values for a picture: the largest of each stretch."""
    if len(values) <= points:
        return [round(float(v), 5) for v in values]
    edges = np.linspace(0, len(values), points + 1).astype(int)[:-1]
    return [round(float(v), 5) for v in np.maximum.reduceat(values, edges)]
