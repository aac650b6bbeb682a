"""What a knob can do: how far it moves a reading, over which part of its travel, and what another knob does to that."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import scipy

from cata.core.measure.outcome import Outcome, measured, refused
from cata.said import said

Floats = npt.NDArray[np.float64]

MIN_SPAN = 1.0
CENTRAL = (0.1, 0.9)
MIN_POSITIONS = 3
FINE = 201


@dataclass(frozen=True)
class Sweep:
    """A reading at measured positions of one knob (0 to 1, rising), and how far two measurements may lie apart."""

    positions: Floats
    values: Floats
    band: float

    @classmethod
    def of(cls, points: Sequence[tuple[float, float]], band: float = 0.0) -> Sweep:
        """From (position, value) pairs in any order; several at one position count by their mean."""
        by_place: dict[float, list[float]] = {}
        for position, value in points:
            by_place.setdefault(round(position, 4), []).append(value)
        places = sorted(by_place)
        return cls(np.array(places), np.array([float(np.mean(by_place[p])) for p in places]), band)

    def at(self, position: float) -> float:
        """The value at a position: monotone cubic between measured ones; never beyond them."""
        place = float(np.clip(position, self.positions[0], self.positions[-1]))
        return float(scipy.interpolate.PchipInterpolator(self.positions, self.values)(place))

    def curve(self) -> tuple[Floats, Floats]:
        """The curve at 201 positions."""
        x = np.linspace(self.positions[0], self.positions[-1], FINE)
        return x, np.asarray(scipy.interpolate.PchipInterpolator(self.positions, self.values)(x))

    @property
    def left_out(self) -> float | None:
        """RMS error when each inner position is foretold from the others; None with fewer than four positions."""
        if len(self.positions) < 4:
            return None
        errors = []
        for index in range(1, len(self.positions) - 1):
            others = np.delete(self.positions, index), np.delete(self.values, index)
            errors.append(
                float(scipy.interpolate.PchipInterpolator(*others)(self.positions[index]) - self.values[index])
            )
        return float(np.sqrt(np.mean(np.square(errors))))


def authority(sweep: Sweep, least: float = MIN_SPAN) -> Outcome:
    """{"span", "low", "high", "useful_from", "useful_to", "reverses"} of a knob for one reading.

    ``span`` is the largest minus the smallest value; the useful part is the shortest stretch of travel that holds the
    central 80 % of the change from end to end; it reverses where the curve turns back by more than the least span and
    the band. Refused under ``least`` (1 dB), or with fewer than three positions.
    """
    if len(sweep.positions) < MIN_POSITIONS:
        return refused(
            said(
                "few_positions",
                "{had} positions were measured: at least {least} are needed",
                had=len(sweep.positions),
                least=MIN_POSITIONS,
            )
        )
    x, y = sweep.curve()
    span = float(sweep.values.max() - sweep.values.min())
    if span < max(least, sweep.band):
        return refused(
            said("hardly_moves", "it moves by {span:.1f} only: no more than can be heard or trusted", span=span)
        )
    change = np.concatenate(([0.0], np.cumsum(np.abs(np.diff(y)))))
    change /= change[-1]
    first, last = (float(np.interp(share, change, x)) for share in CENTRAL)
    total = float(np.abs(np.diff(y)).sum())
    turned = (total - abs(float(y[-1] - y[0]))) / 2
    return measured({
        "span": span, "low": float(sweep.values.min()), "high": float(sweep.values.max()),
        "useful_from": first, "useful_to": last,
        "reverses": "yes" if turned > max(0.5 * least, sweep.band) else "no",
    })  # fmt: skip


def interaction(low: Sweep, high: Sweep, least: float = MIN_SPAN) -> Outcome:
    """How a second knob changes what the first can do: its change at the second's one end minus at its other.

    ``low`` and ``high`` are sweeps of the first knob with the second down and up. Refused where neither moves by
    ``least``.
    """
    changes = [float(one.values[-1] - one.values[0]) for one in (low, high)]
    if max(map(abs, changes)) < least:
        return refused(said("hardly_moves", "the first knob moves nothing at either end of the second"))
    return measured(changes[1] - changes[0])
