"""One flight as a ground: the takes of its contenders, each at the setting it was played at."""

from __future__ import annotations

from collections.abc import Hashable, Mapping, Sequence
from math import hypot
from statistics import fmean, median
from typing import Any

from cata.core.brief import Sound, Target
from cata.core.choose.fit import fit_of, judge
from cata.core.choose.takes import (
    BAND_SDS,
    HEARD_SHARE,
    Known,
    Scatter,
    TakeReadings,
    Test,
    jnd_at,
    key_of,
    slack_of,
)
from cata.core.measure.registry import BY_KEY

MIDDLE = "the middle of the flight"


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
        *,
        can_be_off: bool = False,
    ) -> None:
        self._takes = {ident: {take.test: take for take in mine} for ident, mine in takes.items()}
        self._reference_name, own = reference
        self._reference = {take.test: take for take in own}
        self._scatter = scatter or {}
        self._can_be_off = can_be_off
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

    def meets(self, ident: int, sound: Sound, test: str) -> tuple[float, float]:
        """How well a take meets a sound, what is not known counted as bad, and what share of it is known."""
        met = known = 0.0
        for target in sound.targets:
            one = self.known(ident, test, target)
            if one is not None:
                met += target.weight * judge(sound, target, test, one).fit
                known += target.weight
        total = sum(target.weight for target in sound.targets) or 1.0
        return met / total, known / total

    def off(self, sound: Sound, test: str) -> float | None:
        """How well the reference take meets a sound, where contenders can be off; None where it does not show all."""
        bypass, weight = self._reference.get(test), sum(target.weight for target in sound.targets)
        if not self._can_be_off or not sound.asks_for_clean or bypass is None or not weight:
            return None
        met = 0.0
        for target in sound.targets:
            value = bypass.values.get(key_of(target))
            if value is None or key_of(target) in bypass.bounds:
                return None
            met += target.weight * fit_of(target, 0.0 if target.against else value, jnd_at(target, value))[0]
        return met / weight

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
        usual = take.scatter.get(key) or BY_KEY[target.reading].scatter_of(target.part) or jnd
        scatter = self._scatter.get(key) or Scatter(usual)
        return max(hypot(scatter.sd, take.bands.get(key, 0.0) / BAND_SDS), HEARD_SHARE * jnd), scatter.freedom
