"""A coil with what hangs on it: its own capacitance, the cable, the pots, the input it feeds. No numpy.

Coil (L, R) into a capacitance C and a load Rd in parallel: a second-order low-pass with
f0 = sqrt((1 + R/Rd)/(L C))/2π and Q = sqrt(L C (1 + R/Rd)) / (L/Rd + R C).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

NO_PEAK_Q = math.sqrt(0.5)
CABLE_PF_PER_M = 100.0
INPUT_OHM = 1e6


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

    def response_db(self, hz: float) -> float:
        """Level at a frequency against that at the lowest notes with no load, dB."""
        return self.low_loss_db + second_order_db(hz, self.resonance_hz, self.q)

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


def second_order_db(hz: float, resonance_hz: float, q: float) -> float:
    """Response in dB of a second-order low-pass against that far below its resonance."""
    x = hz / resonance_hz
    return -10 * math.log10((1 - x * x) ** 2 + (x / q) ** 2)


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
    input_ohm: float = INPUT_OHM,
    pf_per_m: float = CABLE_PF_PER_M,
) -> Loaded:
    """A pickup with its cable and pots, all full up: the tone pot loads it until it is turned."""
    return Loaded(
        inductance_h=inductance_h,
        resistance_ohm=resistance_ohm,
        capacitance_f=(coil_pf + cable_m * pf_per_m) * 1e-12,
        load_ohm=parallel(volume_ohm, tone_ohm, input_ohm),
    )


def millivolts(dbfs: float, calibrated_dbfs: float, calibrated_mv: float) -> float:
    """Level in mV of a reading in dBFS, where a tone of ``calibrated_mv`` was recorded at ``calibrated_dbfs``."""
    return calibrated_mv * 10 ** ((dbfs - calibrated_dbfs) / 20)
