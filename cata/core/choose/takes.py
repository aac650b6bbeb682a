"""What choosing knows: readings of takes with their doubts, and how far a reading scatters when it is played again."""

from __future__ import annotations

from collections.abc import Hashable, Sequence
from dataclasses import dataclass
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
    """What fits and chances stand on: what all takes of a contender together show for a sound, as targets ask for it.

    ``drawn``: what certainty drew from it the last time, to be used again where only weights changed.
    """

    @property
    def drawn(self) -> dict[Hashable, Any]:
        """Draws by what they depend on."""

    @property
    def standing(self) -> Hashable:
        """At which settings contenders stand; what was drawn holds for these only."""

    def has(self, ident: int, sound: str) -> bool:
        """True where something was seen of a contender for a sound."""

    def meets(self, ident: int, sound: Sound) -> tuple[float, float]:
        """How well a contender meets a sound, what is not known counted as bad; what share of it is known."""

    def off(self, sound: Sound) -> float | None:
        """How well a clean sound is served with all contenders off; None where they stay on, or nobody knows."""

    def takes(self, ident: int, sound: str) -> int:
        """How many takes of a contender there are for a sound."""

    def known(self, ident: int, sound: str, target: Target) -> Known | None:
        """What is known of a target; None where nothing is."""

    def values(self, sound: str, target: Target) -> list[float]:
        """What all contenders show of a target, in no order that means anything."""

    def covariance(self, idents: Sequence[int], sound: str, target: Target) -> Sequence[Sequence[float]] | None:
        """Of the deviations of what these show; None where each has its own and nothing in common."""

    def common_sd(self, known: Sequence[Known], target: Target) -> float:
        """What moves all contenders together: another phrase, another player."""

    def jnd(self, target: Target, value: float) -> float:
        """What would just be noticed there."""
