"""What is known of a device: readings with doubts, refusals, bands and curves."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt

from cata.core.measure.outcome import Number, Outcome, Value

Floats = npt.NDArray[np.float64]
Points = list[tuple[float, float]]


@dataclass
class Report:
    """Readings by key with doubts, refusals and bands; ``pictures`` holds curves as points, by name.

    A band is what two measurements of the same device differ by less than, 19 times in 20.
    """

    part: str
    readings: dict[str, Value] = field(default_factory=dict)
    flags: dict[str, str] = field(default_factory=dict)
    refusals: dict[str, str] = field(default_factory=dict)
    bands: dict[str, float] = field(default_factory=dict)
    notes: list[str] = field(default_factory=list)
    pictures: dict[str, Points] = field(default_factory=dict)

    def put(self, key: str, outcome: Outcome) -> float | None:
        """Keep what was found under a key; the number where it is one."""
        if outcome.value is None:
            self.refusals[key] = outcome.refusal or "not measured"
            return None
        self.readings[key] = outcome.value
        if outcome.flag:
            self.flags[key] = outcome.flag
        return float(outcome.value) if isinstance(outcome.value, int | float) else None

    def put_parts(self, key: str, parts: dict[str, Outcome]) -> None:
        """Keep a reading of several parts: those that were had, and why the others were not."""
        values: dict[str, Number | str | None] = {}
        for name, outcome in parts.items():
            if isinstance(outcome.value, int | float):
                values[name] = outcome.value
                if outcome.flag:
                    self.flags[f"{key}.{name}"] = outcome.flag
            else:
                self.refusals[f"{key}.{name}"] = outcome.refusal or "not measured"
        if values:
            self.readings[key] = values
        else:
            self.refusals[key] = next(iter(self.refusals[f"{key}.{name}"] for name in parts), "not measured")


def number(outcome: Outcome) -> float | None:
    """The number of an outcome, None where it has none."""
    return float(outcome.value) if isinstance(outcome.value, int | float) else None


def points(x: Floats, y: Floats) -> Points:
    """A curve as pairs."""
    return [(round(float(a), 3), round(float(b), 4)) for a, b in zip(x, y, strict=True)]
