"""Pickups as circuits: coil, cable and pots; and their resonance read back from a response.

Coil (L, R) into a capacitance C and a load Rd in parallel: a second-order low-pass with
f0 = sqrt((1 + R/Rd)/(L C))/2π and Q = sqrt(L C (1 + R/Rd)) / (L/Rd + R C).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import scipy.optimize

from cata.core.measure.outcome import Outcome, measured, refused

Floats = npt.NDArray[np.float64]

FIT_HZ = (200.0, 12_000.0)
MAX_FIT_DB = 1.5
NO_PEAK_Q = math.sqrt(0.5)
CABLE_PF_PER_M = 100.0
FALLS_DB = 6.0


@dataclass(frozen=True, kw_only=True)
class Loaded:
    """A coil with what hangs on it: henry, ohm, farad; ``load_ohm`` all pots and inputs in parallel."""

    inductance_h: float
    resistance_ohm: float
    capacitance_f: float
    load_ohm: float

    @property
    def stiffness(self) -> float:
        """(2π f0)²."""
        return (1 + self.resistance_ohm / self.load_ohm) / (self.inductance_h * self.capacitance_f)

    @property
    def resonance_hz(self) -> float:
        """f0, where an undamped coil would ring."""
        return math.sqrt(self.stiffness) / (2 * math.pi)

    @property
    def q(self) -> float:
        """How sharply it rings; under 0.71 there is no peak."""
        damping = self.resistance_ohm / self.inductance_h + 1 / (self.load_ohm * self.capacitance_f)
        return math.sqrt(self.stiffness) / damping

    @property
    def peak(self) -> tuple[float, float] | None:
        """Frequency in Hz and height in dB of the peak, None where the load damps it away."""
        return peak_of(self.resonance_hz, self.q)

    @property
    def low_loss_db(self) -> float:
        """What the load takes of the level at low notes: the divider of coil and load."""
        return 20 * math.log10(self.load_ohm / (self.load_ohm + self.resistance_ohm))


def peak_of(resonance_hz: float, q: float) -> tuple[float, float] | None:
    """Frequency and height in dB of the peak of a second-order low-pass; None for a Q of 0.71 or less."""
    if q <= NO_PEAK_Q:
        return None
    height = q / math.sqrt(1 - 1 / (4 * q * q))
    return resonance_hz * math.sqrt(1 - 1 / (2 * q * q)), 20 * math.log10(height)


def parallel(*ohms: float | None) -> float:
    """Resistances in parallel; None stands for one that is not there."""
    given = [1 / ohm for ohm in ohms if ohm]
    return 1 / sum(given) if given else 1e9


def with_cable(
    inductance_h: float,
    resistance_ohm: float,
    coil_pf: float,
    *,
    cable_m: float,
    volume_ohm: float | None,
    tone_ohm: float | None,
    input_ohm: float = 1e6,
    pf_per_m: float = CABLE_PF_PER_M,
) -> Loaded:
    """A pickup with its cable and pots, all full up: the tone pot loads it until it is turned."""
    return Loaded(
        inductance_h=inductance_h,
        resistance_ohm=resistance_ohm,
        capacitance_f=(coil_pf + cable_m * pf_per_m) * 1e-12,
        load_ohm=parallel(volume_ohm, tone_ohm, input_ohm),
    )


def _model_db(hz: Floats, f0: float, q: float) -> Floats:
    x = hz / f0
    return np.asarray(-10 * np.log10((1 - x * x) ** 2 + (x / q) ** 2))


def fit_resonance(hz: Floats, response_db: Floats) -> Outcome:
    """{"resonance_hz", "q", "peak_hz", "peak_db", "fit_db"} from a response against a flat reference.

    ``hz`` and ``response_db`` shape (points,); levels may lie at any height. Refused where no second-order low-pass
    describes it (fit over 1.5 dB), where it does not fall within what was measured, or has no peak (Q under 0.71).
    """
    inside = (hz >= FIT_HZ[0]) & (hz <= FIT_HZ[1])
    x, y = hz[inside], response_db[inside]
    if len(x) < 8:
        return refused("too few frequencies were measured")
    # Equal weight for equal parts of an octave, however finely the points lie.
    weight = np.sqrt(np.gradient(np.log(x)))

    def misfit(p: Floats) -> Floats:
        return np.asarray((_model_db(x, float(np.exp(p[0])), float(np.exp(p[1]))) + p[2] - y) * weight)

    starts = [(math.log(f), math.log(q), float(np.median(y[:4]))) for f in (2000.0, 3500.0, 6000.0) for q in (1.0, 3.0)]
    bounds = ([math.log(100.0), math.log(0.1), -np.inf], [math.log(40_000.0), math.log(30.0), np.inf])
    fits = [scipy.optimize.least_squares(misfit, start, bounds=bounds) for start in starts]
    found = min(fits, key=lambda one: float(one.cost))
    f0, q, gain = math.exp(found.x[0]), math.exp(found.x[1]), float(found.x[2])
    fit_db = float(np.sqrt(np.average((_model_db(x, f0, q) + gain - y) ** 2, weights=weight**2)))
    if fit_db > MAX_FIT_DB:
        return refused(f"no coil with one resonance describes this response: the best fit is {fit_db:.1f} dB off")
    if f0 > FIT_HZ[1] or y[0] - y[-1] < FALLS_DB:
        return refused("the response does not fall within what was measured: the resonance lies above it")
    peak = peak_of(f0, q)
    if peak is None:
        return refused(f"so heavily loaded that it has no peak (Q {q:.2f})")
    return measured({"resonance_hz": f0, "q": q, "peak_hz": peak[0], "peak_db": peak[1], "fit_db": fit_db})


def millivolts(dbfs: float, calibrated_dbfs: float, calibrated_mv: float) -> float:
    """Level in mV of a reading in dBFS, where a tone of ``calibrated_mv`` was recorded at ``calibrated_dbfs``."""
    return calibrated_mv * 10 ** ((dbfs - calibrated_dbfs) / 20)
