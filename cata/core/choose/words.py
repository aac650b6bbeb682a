"""A target range in a player's words. Imports no numpy."""

from __future__ import annotations

from cata.core.brief import Target
from cata.core.drive.words import name_between
from cata.core.measure.reading import Reading
from cata.core.measure.registry import BY_KEY
from cata.said import Said

DRIVE = "equivalent_drive"


def range_in_words(target: Target) -> Said:
    """What a range asks for; ``code`` says how: drive, difference, values or anything."""
    low, high = target.low, target.high
    if low is None and high is None:
        return Said("anything", "anything: no end is set")
    reading = BY_KEY[target.reading]
    if target.against:
        return Said("difference", _difference(reading, low, high))
    if target.reading == DRIVE:
        # A range ends before the word that begins there.
        share = name_between((low or 0.0) / 100, 1.0 if high is None else max(0.0, high / 100 - 1e-9))
        return Said("drive", f"{share} ({_ends(low, high)} %)")
    return Said("values", f"{_ends(low, high)} {reading.unit}".strip())


def _ends(low: float | None, high: float | None) -> str:
    if low is None:
        return f"at most {high:g}"
    return f"at least {low:g}" if high is None else f"{low:g} to {high:g}"


def _difference(reading: Reading, low: float | None, high: float | None) -> str:
    def at(value: float) -> str:
        word = reading.more if value > 0 else reading.less
        return f"{abs(value):g} {reading.unit} {word}" if value else "as much"

    if low is not None and high is not None:
        words = f"from {at(low)} to {at(high)}"
    elif high is not None:
        words = f"at most {at(high)}" if high >= 0 else f"at least {at(high)}"
    else:
        end = low or 0.0
        words = f"at least {at(end)}" if end > 0 else f"at most {at(end)}"
    return f"{words} than the reference"
