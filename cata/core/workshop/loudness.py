"""How loud an amplifier is: watts, the speaker's sensitivity and distance, kept apart from how it sounds. No numpy.

In the open, without a room's own sound: what a room adds is several decibels more. Exposure: 85 dB(A) for eight hours,
halved with every 3 dB (NIOSH 1998); local rules may be stricter.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass

LIMIT_DB, LIMIT_H, HALVING_DB = 85.0, 8.0, 3.0
HURTS_DB = 120.0
TWICE_AS_LOUD_DB = 10.0
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
    def words(self) -> str:
        """What the change means to the ear, and how long one may stay."""
        stay = f"{duration_text(self.allowed_h)} a day without protection"
        if self.change_db == 0:
            return stay
        share = 2 ** (self.change_db / TWICE_AS_LOUD_DB)
        return f"{100 * share:.0f} % as loud to the ear; {stay}"


def loudness(watts: float, positions: str, sensitivity_db: float, distance_m: float, speakers: int) -> list[Loudness]:
    """How loud an amplifier gets before it distorts, at each position of its power switch."""
    full = level_db(watts, sensitivity_db, distance_m, speakers)
    found = []
    for name, value in power_steps(watts, positions):
        change = 10 * math.log10(value / watts)
        found.append(Loudness(name, value, full + change, change, allowed_h(full + change)))
    return found
