"""What a knob can move, by the kind of knob it is: regions of tone, breakup and gain, or what a compressor does."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from cata.core.evidence.probe import REGION_BANDS, Probe
from cata.core.gear import Control
from cata.core.plan.condition import TONE_ROLES, role_of
from cata.said import Number, Said, said

LEAST_DB = 1.0
COVERED_DB = 20.0
ALL_KEPT_PERCENT = 100.0


@dataclass(frozen=True)
class Target:
    """A reading that a knob can move: its name in words, its unit, and the least change that counts.

    Times are told apart by their ratio: there ``least`` is a factor.
    """

    key: str
    name: str
    unit: str = "dB"
    least: float = LEAST_DB

    def of(self, probe: Probe) -> float | None:
        """Its value in a probe; None where it was refused."""
        if self.key in REGION_BANDS:
            # With its level: nothing but the knob was touched.
            return probe.gain_in(self.key)
        if self is LEVEL:
            return probe.body_db
        if self is KEPT and probe.results.code("compressor") == "no_compressor":
            return ALL_KEPT_PERCENT
        return probe.number(self.key)

    def steps(self, values: Sequence[float]) -> float:
        """From the least to the largest of some values, in least changes that count."""
        low, high = min(values), max(values)
        if self.unit == "ms":
            return math.log(high / low) / math.log(self.least) if low > 0 else 0.0
        return (high - low) / self.least

    def told(self, name: str, first: float, last: float, places: tuple[str, str]) -> Said:
        """The change from one place of the knob to another."""
        start, end = places
        numbers: dict[str, Number] = {"knob": name, "first": first, "last": last, "start": start, "end": end}
        if self.unit == "ms":
            way = "lengthens" if last > first else "shortens"
            words = f"{{knob}} {way} the {self.name}: {{first:.0f}} ms at {{start}}, {{last:.0f}} ms at {{end}}."
            return said(way, words, **numbers, moves=self.key)
        way = "lifts" if last > first else "lowers"
        words = f"{{knob}} {way} the {self.name} by {{by:.0f}} {self.unit} from {{start}} to {{end}}."
        return said(way, words, **numbers, moves=self.key, by=abs(last - first))


BREAKUP, GAIN = Target("breakup_dbfs.3", "breakup"), Target("gain_db", "gain")
LEVEL = Target("level", "level")
"""Gain over the body of the sound however it distorts: what is left where the gain itself was refused."""
KEPT = Target("compressor.dynamics_kept_percent", "dynamics kept", "%", 5.0)
MUCH_KEPT = 2.0
"""Steps of dynamics kept from which a knob is told by them, whatever its gain does."""
TIMES = (Target("compressor.attack_ms", "attack", "ms", 1.25), Target("compressor.release_ms", "release", "ms", 1.25))


def targets_of(control: Control, run: Sequence[Probe]) -> list[Target]:
    """What may be moved by a control over probes that differ in it only."""
    if role_of(control) in TONE_ROLES:
        return [Target(region, region) for region in _sounding(run)]
    if any(probe.number(KEPT.key) is not None for probe in run):
        kept = [value for probe in run if (value := KEPT.of(probe)) is not None]
        squeezes = len(kept) > 1 and KEPT.steps(kept) >= MUCH_KEPT
        return [KEPT] if squeezes else [KEPT, *TIMES, GAIN]
    unknown = any(probe.number(GAIN.key) is None for probe in run)
    return [BREAKUP, LEVEL if unknown else GAIN]


def _sounding(run: Sequence[Probe]) -> list[str]:
    """The regions that are heard at some place of a knob: what lies far under the strongest is covered by it."""
    gains = {region: [v for p in run if (v := p.gain_in(region)) is not None] for region in REGION_BANDS}
    strongest = max((max(values) for values in gains.values() if values), default=0.0)
    return [region for region, values in gains.items() if values and max(values) > strongest - COVERED_DB]
