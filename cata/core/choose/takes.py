"""What choosing knows: readings of takes with their doubts, and how far a reading scatters when it is played again."""

from __future__ import annotations

from collections.abc import Hashable, Mapping, Sequence
from dataclasses import dataclass, field
from math import hypot, inf
from statistics import fmean, median
from typing import Any, Protocol

from cata.core.brief import Sound, Target
from cata.core.measure.outcome import Bound
from cata.core.measure.registry import BY_KEY, jnd_of

BAND_SDS = 1.96
"""A reading's own band holds 19 of 20: so many standard deviations."""
HEARD_SHARE = 0.35
"""What cannot be heard must not decide: no reading is surer than this share of what is just noticed."""
FALLBACK_JND_SHARE = 0.1
MIDDLE = "the middle of the flight"


@dataclass(frozen=True)
class Test:
    """A column of the flight: its name, and the sound it stands for (empty: any)."""

    name: str
    sound: str = ""


@dataclass(frozen=True)
class TakeReadings:
    """The readings of one take that are numbers, by "reading" or "reading.part".

    ``bands`` are the readings' own (19 of 20 within), ``bounds`` say that the truth is at most or at least the value.
    """

    test: str
    sound: str
    values: Mapping[str, float]
    bands: Mapping[str, float] = field(default_factory=dict)
    bounds: Mapping[str, Bound] = field(default_factory=dict)


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


class Shelf:
    """The takes of all contenders, by contender and test, as targets ask for them.

    A target "against the reference" asks for the difference from the reference take of the same test: that of the
    ``reference`` contender, else the middle of all.
    """

    def __init__(
        self,
        takes: Mapping[int, Sequence[TakeReadings]],
        reference: tuple[str, Sequence[TakeReadings]] = ("", ()),
        scatter: Mapping[str, Scatter] | None = None,
        tests: Sequence[Test] = (),
    ) -> None:
        self._takes = {ident: {take.test: take for take in mine} for ident, mine in takes.items()}
        self._reference_name, own = reference
        self._reference = {take.test: take for take in own}
        self._scatter = scatter or {}
        self.drawn: dict[Hashable, Any] = {}
        seen = {take.test: Test(take.test, take.sound) for mine in takes.values() for take in mine}
        self.tests = tuple(tests) or tuple(seen.values())

    @property
    def standing(self) -> Hashable:
        """Each take was made at one setting."""
        return ()

    def tests_for(self, sound: Sound) -> tuple[tuple[str, ...], bool]:
        """The tests that stand for a sound, and whether they were given to it; else those given to none."""
        own = tuple(test.name for test in self.tests if test.sound == sound.key)
        return (own, True) if own else (tuple(test.name for test in self.tests if not test.sound), False)

    def played(self, ident: int) -> bool:
        """True where a contender has a take with readings."""
        return any(take.values for take in self._takes.get(ident, {}).values())

    def has(self, ident: int, test: str) -> bool:
        """True where a contender was played in a test."""
        return test in self._takes.get(ident, {})

    def takes(self, ident: int, test: str) -> int:
        """How many takes of a contender a test has: one that counts, or none."""
        return int(self.has(ident, test))

    def known(self, ident: int, test: str, target: Target) -> Known | None:
        """What a take shows of a target; None where it shows nothing."""
        take = self._takes.get(ident, {}).get(test)
        key = key_of(target)
        if take is None or key not in take.values:
            return None
        value, bound = take.values[key], take.bounds.get(key)
        jnd, against = jnd_at(target, value), ""
        sd, freedom = self._sd(take, target, jnd)
        if target.against == "reference":
            base, against = self._base(test, key)
            if base is None:
                return None
            value -= base
        return Known(value, sd, freedom, jnd, bound, against)

    def values(self, test: str, target: Target) -> list[float]:
        """What all contenders show of a target in a test, in no order that means anything."""
        found = (self.known(ident, test, target) for ident in self._takes)
        return [one.value for one in found if one is not None]

    def covariance(self, _idents: Sequence[int], _test: str, _target: Target) -> None:
        """None: every take was played by itself."""

    def common_sd(self, known: Sequence[Known], target: Target) -> float:
        """What moves all takes of a test together: the phrase, or how the reference happened to be played."""
        if target.against:
            return fmean(one.sd for one in known) if known else 0.0
        return slack_of(target)

    def jnd(self, target: Target, value: float) -> float:
        """What would just be noticed there."""
        return jnd_at(target, value)

    def _base(self, test: str, key: str) -> tuple[float | None, str]:
        own = self._reference.get(test)
        if own is not None and key in own.values:
            return own.values[key], self._reference_name
        values = [mine[test].values[key] for mine in self._takes.values() if test in mine and key in mine[test].values]
        return (median(values) if values else None), MIDDLE

    def _sd(self, take: TakeReadings, target: Target, jnd: float) -> tuple[float, float]:
        key = key_of(target)
        scatter = self._scatter.get(key) or Scatter(BY_KEY[target.reading].scatter or jnd)
        return max(hypot(scatter.sd, take.bands.get(key, 0.0) / BAND_SDS), HEARD_SHARE * jnd), scatter.freedom
