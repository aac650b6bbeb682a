"""How loud an amplifier is: watts, the speaker's sensitivity and distance, kept apart from how it sounds. No numpy.

In the open, without a room's own sound: what a room adds is several decibels more. Exposure: 85 dB(A) for eight hours,
halved with every 3 dB (NIOSH 1998); local rules may be stricter.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass

from cata.core.spec_fields import Field
from cata.core.workshop.calculator import Answer, Calculator, Given, Line, Question, spec

LIMIT_DB, LIMIT_H, HALVING_DB = 85.0, 8.0, 3.0
HURTS_DB = 120.0
TWICE_AS_LOUD_DB = 10.0
USUAL_SENSITIVITY_DB = 98.0
"""Guitar speakers lie between 94 and 103 dB; the middle where nothing is noted."""
WATTS = re.compile(r"(\d+(?:[.,]\d+)?)\s*(?:W\b|watts?\b)?", re.IGNORECASE)
SHARES = {"full": 1.0, "half": 0.5, "quarter": 0.25}


def level_db(watts: float, sensitivity_db: float, distance_m: float, speakers: int = 1) -> float:
    """SPL at a distance with all the power: dB. Several speakers share the power and add up in step."""
    together = 10 * math.log10(speakers)
    return sensitivity_db + 10 * math.log10(watts) + together - 20 * math.log10(distance_m)


def allowed_h(level: float) -> float:
    """Hours a day without protection at a level in dB(A)."""
    return float(LIMIT_H / 2 ** ((level - LIMIT_DB) / HALVING_DB))


def caution(level: float | None) -> str:
    """What playing at a level risks; empty below where it does."""
    if level is None or level < LIMIT_DB:
        return ""
    return (
        f"From {LIMIT_DB:.0f} dB(A) hearing is at risk: {LIMIT_H:.0f} hours there, half as long for every "
        f"{HALVING_DB:.0f} dB more. Wear protection and follow local limits."
    )


def duration_text(hours: float) -> str:
    """A length of time as one would say it."""
    seconds = hours * 3600
    if hours >= 24:
        return "all day"
    if hours >= 1:
        return f"{hours:.0f} h" if hours >= 3 else f"{hours:.1f} h"
    if seconds >= 90:
        return f"{seconds / 60:.0f} min"
    return f"{seconds:.0f} s" if seconds >= 1 else "less than a second"


def power_steps(watts: float, positions: str) -> list[tuple[str, float]]:
    """The positions of a power switch with their watts, the strongest first: "50 / 25 W", "full, half", "15 W, 1 W".

    Words that say no power are left out; the full power is always there.
    """
    found: dict[float, str] = {watts: "full"}
    for part in re.split(r"[;/|]|,(?!\d)", positions):
        word = part.strip().casefold()
        share = next((share for name, share in SHARES.items() if name in word), None)
        match = WATTS.search(part)
        value = watts * share if share else float(match.group(1).replace(",", ".")) if match else None
        if value and 0 < value <= watts:
            found.setdefault(value, f"{value:g} W")
    return [(name, value) for value, name in sorted(found.items(), reverse=True)]


@dataclass(frozen=True)
class Loudness:
    """One position of the power switch: level at the distance, change against full power, and what it allows."""

    name: str
    watts: float
    level_db: float
    change_db: float
    allowed_h: float

    @property
    def as_loud(self) -> float:
        """How loud it is to the ear, as a share of full power: half for every 10 dB less."""
        return float(2 ** (self.change_db / TWICE_AS_LOUD_DB))

    @property
    def words(self) -> str:
        """What the change means to the ear, and how long one may stay."""
        stay = f"{duration_text(self.allowed_h)} a day without protection"
        if self.change_db == 0:
            return stay
        return f"{100 * self.as_loud:.0f} % as loud to the ear; {stay}"


def loudness(watts: float, positions: str, sensitivity_db: float, distance_m: float, speakers: int) -> list[Loudness]:
    """How loud an amplifier gets before it distorts, at each position of its power switch."""
    full = level_db(watts, sensitivity_db, distance_m, speakers)
    found = []
    for name, value in power_steps(watts, positions):
        change = 10 * math.log10(value / watts)
        found.append(Loudness(name, value, full + change, change, allowed_h(full + change)))
    return found


def how_loud(given: Given) -> Answer:
    """How loud an amplifier gets at a distance at each position of its power switch, and how long one may stay."""
    watts, sensitivity_db, distance_m = (
        float(given[key] or 0) for key in ("watts", "speaker_sensitivity_db", "distance_m")
    )
    speakers = max(1, int(given["speaker_count"] or 1))
    found = loudness(watts, str(given["power_positions"] or ""), sensitivity_db, distance_m, speakers)
    hurts = f"Over {HURTS_DB:.0f} dB hurts at once. " if found[0].level_db >= HURTS_DB else ""
    lines = []
    for one in found:
        change = f"{one.change_db:.1f} dB, ".replace("-", "\N{MINUS SIGN}") if one.change_db else ""
        name = f"full, {watts:g} W" if one.name == "full" else one.name
        lines.append(
            Line(name=name, text=f"{one.level_db:.0f} dB", value=one.level_db, unit="dB", words=change + one.words)
        )
    return Answer(
        sentence=f"Clean at full power it reaches {found[0].level_db:.0f} dB at {distance_m:g} m.",
        lines=lines,
        caution=hurts + "Clean power in the open; a room adds several dB, and a driven amplifier up to 3 more. Protect "
        "your hearing; rules at work may be stricter.",
    )


CALCULATOR = Calculator(
    key="loudness",
    name="How loud it gets",
    about="How loud an amplifier is at each position of its power switch, and how long one may stay there.",
    questions=(
        Question(
            field=Field(key="watts", name="Power", type="number", unit="W", low=0.1, high=2000),
            specs={"amplifier": "watts"},
        ),
        spec("amplifier", "power_positions", optional=True),
        Question(
            field=Field(key="distance_m", name="Distance", type="number", unit="m", low=0.3, high=100),
            usual=2.0,
        ),
        Question(
            field=Field(key="speaker_sensitivity_db", name="Speaker, at 1 W and 1 m", type="number", unit="dB", low=60,
                        high=115),
            usual=USUAL_SENSITIVITY_DB,
            specs={"amplifier": "speaker_sensitivity_db", "speaker": "sensitivity_db"},
        ),
        Question(
            field=Field(key="speaker_count", name="Speakers", type="whole", high=16),
            usual=1,
            specs={"amplifier": "speaker_count", "speaker": "speaker_count"},
        ),
    ),
    answer=how_loud,
)  # fmt: skip
