"""Gain character from playing alone: the weaker grade of evidence, where no test file was played.

Clipping fills the spectrum and squashes the peaks. Either alone is blind at one end: density saturates once all is
filled, and a palm mutes what a clipper would fill. Together they order takes of one phrase.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

SQUASH_WEIGHT = 0.03
"""One dB less between peak and loudness counts as much as 0.03 of density, the least that is heard."""
OPEN_PLR_DB = 16.0
LEAST = 0.03


def played_drive(readings: Mapping[str, Any]) -> float | None:
    """How driven a take sounds, for ordering takes of one phrase only; None where its density was refused."""
    density, plr = readings.get("drive_density"), readings.get("plr_db")
    if not isinstance(density, float) or not isinstance(plr, float):
        return None
    return density + SQUASH_WEIGHT * (OPEN_PLR_DB - plr)


def order_of_gain(takes: Mapping[str, Mapping[str, Any]]) -> list[str]:
    """The names of takes of one phrase, the cleanest first; those that cannot be judged are left out."""
    known = {name: value for name, readings in takes.items() if (value := played_drive(readings)) is not None}
    return sorted(known, key=lambda name: known[name])


def played_range(values: Sequence[object], part: str = "", decimals: int = 1) -> tuple[str, int]:
    """The range that a reading spans over takes, and over how many that have it: "−3.1 to 4.0"; ("", 0) over none."""
    known = []
    for value in values:
        number = value.get(part) if part and isinstance(value, Mapping) else value
        if isinstance(number, int | float) and not isinstance(number, bool):
            known.append(float(number))
    if not known:
        return "", 0
    ends = dict.fromkeys(f"{value:.{decimals}f}".replace("-", "−") for value in (min(known), max(known)))
    return " to ".join(ends), len(known)
