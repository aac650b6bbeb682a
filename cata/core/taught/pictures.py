"""The picture of a sentence: the spectrum beside the middle of the others, or each contender's value."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from statistics import median

from cata.core.match.finding import Picture, Series
from cata.core.measure.regions import THIRD_OCTAVES_HZ
from cata.core.taught.differences import HEARD_DB, NOISE, TOLD, Taken, hiss_of, number_of

NUMBER_OF = {key: f"{key}.{part}" if part else key for key, part in TOLD}


@dataclass(frozen=True)
class Shown:
    """One contender's value of a reading; ``band`` is how far it may be off, in its unit."""

    ident: int
    value: float
    band: float = 0.0


def spectrum_beside(ident: int, takes: Sequence[Taken], low_hz: float, high_hz: float) -> Picture | None:
    """Third octaves of a contender less the middle of the others, dB, where it is heard; the named bands are marked.

    None where it, or everybody else, has no spectrum.
    """
    bands = {take.ident: take.results.parts("third_octaves_db") for take in takes if not take.is_bypass}
    mine = bands.pop(ident, {})
    others = [one for one in bands.values() if one]
    if not mine or not others:
        return None
    name = next(take.name for take in takes if take.ident == ident)
    x: list[float] = []
    y: list[float] = []
    loudest = max(mine.values())
    for hz in THIRD_OCTAVES_HZ:
        key = str(hz)
        theirs = [one[key] for one in others if key in one]
        if key in mine and theirs and mine[key] > loudest - HEARD_DB:
            x.append(float(hz))
            y.append(round(mine[key] - median(theirs), 2))
    if len(x) < 2:
        return None
    marks = [(hz, f"{hz / 1000:.1f} kHz" if hz >= 1000 else f"{hz:.0f} Hz") for hz in (low_hz, high_hz) if hz]
    series = [Series(name, y), Series("the middle of the others", [0.0] * len(x))]
    return Picture(x=x, series=series, x_label="Hz", y_label="dB", marks=marks, log_x=True)


def values_of(reading: str, takes: Sequence[Taken]) -> list[Shown]:
    """What a reading is for each contender of a test, the highest first; empty where none has it.

    Of noise, what differs is how far it lies under the playing: dB re the take's loudness.
    """
    key = NUMBER_OF.get(reading, reading)
    found = [
        Shown(take.ident, value, take.results.bands.get(key, take.results.bands.get(reading, 0.0)))
        for take in takes
        if (value := hiss_of(take) if reading == NOISE else number_of(take, key)) is not None
    ]
    return sorted(found, key=lambda one: -one.value)
