"""What choosing knows: readings of takes with their doubts, and how far a reading scatters when it is played again."""

from __future__ import annotations

from collections.abc import Hashable, Mapping, Sequence
from dataclasses import dataclass, field
from math import inf
from typing import Any, Protocol

from cata.core.brief import Sound, Target
from cata.core.measure.outcome import Bound
from cata.core.measure.registry import BY_KEY, jnd_of

BAND_SDS = 1.96
"""A reading's own band holds 19 of 20: so many standard deviations."""
HEARD_SHARE = 0.35
"""What cannot be heard must not decide: no reading is surer than this share of what is just noticed."""
FALLBACK_JND_SHARE = 0.1


@dataclass(frozen=True)
class Test:
    """A column of the flight: its name, and the sound it stands for (empty: any)."""

    name: str
    sound: str = ""


@dataclass(frozen=True)
class TakeReadings:
    """The readings of one take that are numbers, by "reading" or "reading.part".

    ``bands`` are the readings' own (19 of 20 within), ``bounds`` say that the truth is at most or at least the value;
    ``scatter`` what playing it again does, as its strokes tell, where they do.
    """

    test: str
    sound: str
    values: Mapping[str, float]
    bands: Mapping[str, float] = field(default_factory=dict)
    bounds: Mapping[str, Bound] = field(default_factory=dict)
    scatter: Mapping[str, float] = field(default_factory=dict)


@dataclass(frozen=True)
class Scatter:
    """What the same thing played again differs by: a standard deviation, from so many degrees of freedom."""

    sd: float
    freedom: float = inf


@dataclass(frozen=True)
class Known:
    """A reading of a take as a target asks for it: value, standard deviation, the freedom that is known from.

    ``jnd`` is what would just be noticed there; ``against`` names what a difference is held against.
    """

    value: float
    sd: float
    freedom: float
    jnd: float
    bound: Bound | None = None
    against: str = ""


def key_of(target: Target) -> str:
    """The name of a target's reading among those of a take."""
    return f"{target.reading}.{target.part}" if target.part else target.reading


def jnd_at(target: Target, value: float) -> float:
    """Just-noticeable difference used to weigh a miss; a tenth of the value where none is known."""
    return jnd_of(BY_KEY[target.reading], value) or max(abs(value) * FALLBACK_JND_SHARE, 1e-6)


def slack_of(target: Target) -> float:
    """What the phrase alone can do to a reading that does not carry over; nothing to a difference within one test."""
    return 0.0 if target.against else BY_KEY[target.reading].phrase_sd or 0.0


class Ground(Protocol):
    """What fits and chances stand on: readings of contenders by test, as targets ask for them.

    ``drawn``: what certainty drew from it the last time, to be used again where only weights changed.
    """

    @property
    def drawn(self) -> dict[Hashable, Any]:
        """Draws by what they depend on."""

    @property
    def standing(self) -> Hashable:
        """At which settings contenders stand; what was drawn holds for these only."""

    def tests_for(self, sound: Sound) -> tuple[tuple[str, ...], bool]:
        """The tests that stand for a sound, and whether they were given to it; else those given to none."""

    def has(self, ident: int, test: str) -> bool:
        """True where a contender was played in a test."""

    def meets(self, ident: int, sound: Sound, test: str) -> tuple[float, float]:
        """How well a test of a contender meets a sound, what is not known counted as bad; what share of it is known."""

    def off(self, sound: Sound, test: str) -> float | None:
        """How well a clean sound is served with all contenders off; None where they stay on, or nobody knows."""

    def takes(self, ident: int, test: str) -> int:
        """How many takes of a contender a test has."""

    def known(self, ident: int, test: str, target: Target) -> Known | None:
        """What is known of a target; None where nothing is."""

    def values(self, test: str, target: Target) -> list[float]:
        """What all contenders show of a target in a test, in no order that means anything."""

    def covariance(self, idents: Sequence[int], test: str, target: Target) -> Sequence[Sequence[float]] | None:
        """Of the deviations of what these show; None where each has its own and nothing in common."""

    def common_sd(self, known: Sequence[Known], target: Target) -> float:
        """What moves all contenders of a test together."""

    def jnd(self, target: Target, value: float) -> float:
        """What would just be noticed there."""
