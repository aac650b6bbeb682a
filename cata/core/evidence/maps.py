"""Two knobs at once: a reading over the plane of both, measured in places and drawn between them."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from cata.core.evidence.probe import Probe, same_but
from cata.core.measure.authority import Sweep

STEPS = 11
MIN_ROWS, MIN_TRAVEL = 2, 0.3


@dataclass(frozen=True)
class KnobMap:
    """A reading over two knobs: ``points`` (knob, other, value) measured, ``grid`` the same drawn between.

    ``grid`` holds 11 x 11 places inside what was measured.
    """

    knob: str
    other: str
    reading: str
    points: list[tuple[float, float, float]]
    grid: list[tuple[float, float, float]]


def knob_map(
    probes: Sequence[Probe], knob: str, other: str, name: str, reading: Callable[[Probe, str], float | None]
) -> KnobMap | None:
    """The map of the largest set of probes that differ in these two knobs only.

    None unless the other knob was set in two places at least, at each of which the knob was swept over a third of its
    travel.
    """
    best: KnobMap | None = None
    for anchor in probes:
        family = [p for p in probes if same_but(p, anchor, (knob, other))]
        rows: dict[float, list[tuple[float, float]]] = {}
        for probe in family:
            value = reading(probe, name)
            if value is not None:
                place = round(probe.settings.get(other, 0.5), 2)
                rows.setdefault(place, []).append((probe.settings.get(knob, 0.5), value))
        swept = {place: Sweep.of(points) for place, points in rows.items() if _travel(points) >= MIN_TRAVEL}
        if len(swept) < MIN_ROWS:
            continue
        points = [
            (float(x), place, round(float(value), 2))
            for place, sweep in sorted(swept.items())
            for x, value in zip(sweep.positions, sweep.values, strict=True)
        ]
        if best is None or len(points) > len(best.points):
            best = KnobMap(knob, other, name, points, _grid(swept))
    return best


def _travel(points: Sequence[tuple[float, float]]) -> float:
    places = [place for place, _ in points]
    return max(places) - min(places)


def _grid(rows: dict[float, Sweep]) -> list[tuple[float, float, float]]:
    """Monotone cubic along each measured row, straight between rows; nowhere beyond what was measured."""
    others = sorted(rows)
    low = max(float(sweep.positions[0]) for sweep in rows.values())
    high = min(float(sweep.positions[-1]) for sweep in rows.values())
    found = []
    for x in np.linspace(low, high, STEPS):
        values = [rows[place].at(float(x)) for place in others]
        for y in np.linspace(others[0], others[-1], STEPS):
            found.append((round(float(x), 3), round(float(y), 3), round(float(np.interp(y, others, values)), 2)))
    return found
