"""What is known of a device: results by key, and curves."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

import numpy as np
import numpy.typing as npt

from cata.core.measure.device.readings import BY_KEY
from cata.core.measure.outcome import Evidence, Number, Outcome, measured, refused
from cata.core.measure.results import NOT_MEASURED, Result, Results
from cata.said import Said

Floats = npt.NDArray[np.float64]
Points = list[tuple[float, float]]


@dataclass
class Report:
    """Results by key, notes, and ``pictures``: curves as points, by name."""

    part: str
    results: Results = field(default_factory=Results)
    notes: list[Said] = field(default_factory=list)
    pictures: dict[str, Points] = field(default_factory=dict)

    def put(self, key: str, outcome: Outcome, *, band: float | None = None, evidence: Evidence | None = None) -> None:
        """Keep what was found under a key; what is read from the picking ladder is evidence of playing."""
        # Some parts are readings of their own, with their own unit.
        reading = BY_KEY.get(key) or BY_KEY[key.partition(".")[0]]
        self.results[key] = Result(
            value=outcome.value,
            flag=outcome.flag,
            refusal=outcome.refusal,
            bound=outcome.bound,
            unit=reading.unit,
            band=band,
            evidence=evidence or ("re-amped" if reading.part == "ladder" else "test signal"),
            version=reading.version,
        )

    def put_parts(self, key: str, parts: Mapping[str, Outcome], flag: Said | None = None) -> None:
        """Keep a reading of several parts: those that were had, and why the others were not."""
        values: dict[str, Number | str | None] = {}
        for name, outcome in parts.items():
            if isinstance(outcome.value, int | float):
                values[name] = outcome.value
            self.put(f"{key}.{name}", outcome)
        first = next((one.refusal for one in parts.values() if one.refusal), None)
        self.put(key, measured(values, flag) if values else refused(first or NOT_MEASURED))

    def add_bands(self, bands: Mapping[str, float]) -> None:
        """The bands of results that have a value, by key."""
        for key, band in bands.items():
            known = self.results.get(key)
            if known is not None and known.value is not None:
                self.results[key] = replace(known, band=band)


def number(outcome: Outcome) -> float | None:
    """The number of an outcome, None where it has none."""
    return float(outcome.value) if isinstance(outcome.value, int | float) else None


def points(x: Floats, y: Floats) -> Points:
    """A curve as pairs."""
    return [(round(float(a), 3), round(float(b), 4)) for a, b in zip(x, y, strict=True)]
