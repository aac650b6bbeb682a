"""What the test file holds and when: the one plan that writing and reading share.

Times are seconds from the start of the opening slate. Tones have whole periods at 48 kHz, so that a stretch of
whole periods separates harmonics from noise without a window; none of their harmonics below 3 kHz falls on a
multiple of 50 or 60 Hz.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from cata.core.clip import ANALYSIS_RATE_HZ
from cata.core.signals import slate
from cata.errors import Invalid

PartName = Literal["all", "tones", "sweep", "ladder", "chords", "bursts"]
Kind = Literal["noise", "steady", "tones", "sweep", "chord", "bursts", "ladder"]

RATES_HZ = (44_100, 48_000, 96_000)
MARKS: dict[PartName, int] = {"all": 991, "tones": 992, "sweep": 993, "ladder": 994, "chords": 995, "bursts": 996}
"""Slate numbers kept for test files; a flight's takes count from 1."""
LEAD_S, TAIL_S = 0.5, 0.6
"""Silence before the opening and after the closing slate: players and recorders swallow edges."""
GAP_S = 0.3

PITCH_PERIODS = {"low": 446, "main": 212, "high": 54}
"""Periods in samples at 48 kHz: 107.6, 226.4 and 888.9 Hz."""
STEADY_PERIOD, STEADY_DBFS = 106, -24.0
BURST_PERIOD = 48
CHORDS_HZ = {"third": (82.0, 103.0), "fifth": (82.0, 124.0), "triad": (82.0, 103.0, 124.0)}


@dataclass(frozen=True, kw_only=True)
class Section:
    """One stretch of the file: what sounds, from when, for how long; ``levels_dbfs`` are peaks, in order."""

    key: str
    kind: Kind
    length_s: float
    start_s: float = 0.0
    levels_dbfs: tuple[float, ...] = ()
    step_s: float = 0.0
    period: int = 0
    hz: tuple[float, ...] = ()

    @property
    def end_s(self) -> float:
        """When it ends."""
        return self.start_s + self.length_s

    @property
    def pitch_hz(self) -> float:
        """Its tone in Hz."""
        return ANALYSIS_RATE_HZ / self.period


def _range(low: float, high: float, step: float) -> tuple[float, ...]:
    return tuple(low + step * index for index in range(round((high - low) / step) + 1))


def _tones(name: str, levels: tuple[float, ...], step_s: float) -> Section:
    return Section(key=f"tones-{name}", kind="tones", length_s=round(len(levels) * step_s, 3), levels_dbfs=levels,
                   step_s=step_s, period=PITCH_PERIODS[name])  # fmt: skip


def _sweep(level: float) -> Section:
    return Section(key=f"sweep{level:+.0f}", kind="sweep", length_s=6.2, levels_dbfs=(level,))


def _chord(name: str, level: float) -> Section:
    hz = CHORDS_HZ[name]
    return Section(key=f"{name}{level:+.0f}", kind="chord", length_s=4.2, levels_dbfs=(level,), hz=hz)


BURST_LEVELS = (-34.0, -8.0, -34.0)
BURST_AT_S = (0.0, 1.0, 1.9)
"""Levels of the burst and when each begins: long enough to forget the section before, and to let go again."""

NOISE = Section(key="noise", kind="noise", length_s=1.6)
STEADY = Section(key="steady", kind="steady", length_s=1.8, levels_dbfs=(STEADY_DBFS,), period=STEADY_PERIOD)
FAMILIES: dict[str, tuple[Section, ...]] = {
    "tones": (
        _tones("main", _range(-60.0, 0.0, 0.5), 0.1),
        _tones("low", _range(-60.0, 0.0, 3.0), 0.24),
        _tones("high", _range(-60.0, 0.0, 3.0), 0.16),
    ),
    "sweep": (_sweep(-50.0), _sweep(-30.0), _sweep(-10.0)),
    "chords": (_chord("third", -24.0), _chord("third", -12.0), _chord("fifth", -12.0), _chord("triad", -12.0)),
    "bursts": (
        Section(key="bursts", kind="bursts", length_s=4.2, levels_dbfs=BURST_LEVELS, period=BURST_PERIOD),
    ),
    "ladder": (
        Section(key="ladder", kind="ladder", length_s=17.0, levels_dbfs=_range(-28.0, -1.0, 3.0), step_s=1.7),
    ),
}  # fmt: skip


@dataclass(frozen=True)
class Layout:
    """All of one test file: its part, the number on its slates, its sections in order, when it closes and ends."""

    part: PartName
    mark: int
    sections: tuple[Section, ...]
    closing_s: float

    @property
    def length_s(self) -> float:
        """Length of the file in seconds, silence at both ends included."""
        return LEAD_S + self.closing_s + slate.LENGTH_S + TAIL_S

    def named(self, key: str) -> Section | None:
        """The section with a key, None where this part lacks it."""
        return next((section for section in self.sections if section.key == key), None)

    def of(self, kind: Kind) -> tuple[Section, ...]:
        """The sections of a kind, in order."""
        return tuple(section for section in self.sections if section.kind == kind)


def layout(part: PartName = "all") -> Layout:
    """The plan of a part. Every part begins with silence for the noise and a steady tone for what may waver."""
    if part not in MARKS:
        raise Invalid(f"no part {part!r} of the test file: {', '.join(MARKS)}", "no_part")
    families = tuple(FAMILIES) if part == "all" else (part,)
    placed: list[Section] = []
    at_s = round(slate.LENGTH_S + GAP_S, 2)
    for section in (NOISE, STEADY, *(one for family in families for one in FAMILIES[family])):
        placed.append(replace(section, start_s=round(at_s, 3)))
        at_s += section.length_s + GAP_S
    return Layout(part, MARKS[part], tuple(placed), round(at_s, 3))


def part_of(mark: int) -> PartName | None:
    """The part whose slates carry a number; None for any other slate."""
    return next((part for part, number in MARKS.items() if number == mark), None)
