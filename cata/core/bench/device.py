"""What every bench device is: named knobs and a function from signal to signal.

Linear parts run at 48 kHz, clippers eight times faster (:mod:`.curves`), so that what folds back lies at least
70 dB under the tone that made it.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import scipy.signal

from cata.core.clip import ANALYSIS_RATE_HZ, Audio
from cata.core.gear import Control
from cata.errors import Invalid

Settings = Mapping[str, float]
Floats = npt.NDArray[np.float64]


@dataclass(frozen=True)
class Device:
    """A device of the bench: ``process(signal, settings)`` with every control's position from 0 to 1."""

    key: str
    name: str
    kind: str
    structure: str
    controls: tuple[Control, ...]
    process: Callable[[Audio, Settings], Audio]

    def settings(self, given: Settings) -> dict[str, float]:
        """All positions, defaults where none is given; Invalid for an unknown knob or a position outside 0 to 1."""
        known = {control.key: control.default for control in self.controls}
        for key, position in given.items():
            if key not in known:
                raise Invalid(f"{self.name} has no control {key!r}; it has {', '.join(known) or 'none'}")
            if not 0.0 <= position <= 1.0:
                raise Invalid(f"{self.name}, {key}: a position lies between 0 and 1, got {position:g}")
        return known | dict(given)

    def render(self, signal: Audio, given: Settings) -> Audio:
        """The signal (samples,) through the device at 48 kHz."""
        return np.asarray(self.process(signal, self.settings(given)), dtype=np.float32)


def one_pole(signal: Audio, hz: float, kind: str, rate_hz: int = ANALYSIS_RATE_HZ) -> Audio:
    """First-order low-pass or high-pass (bilinear, prewarped)."""
    b, a = scipy.signal.butter(1, min(hz, 0.49 * rate_hz), kind, fs=rate_hz)
    return np.asarray(scipy.signal.lfilter(b, a, signal.astype(np.float64)), dtype=np.float32)


def analogue(
    signal: Audio, b: Floats, a: Floats, rate_hz: int = ANALYSIS_RATE_HZ, warp_hz: float | None = None
) -> Audio:
    """An analogue transfer function b(s)/a(s) applied at the rate (bilinear, exact at ``warp_hz``)."""
    fs = rate_hz if warp_hz is None else np.pi * warp_hz / np.tan(np.pi * warp_hz / rate_hz)
    bz, az = scipy.signal.bilinear(b, a, fs=fs)
    return np.asarray(scipy.signal.lfilter(bz, az, signal.astype(np.float64)), dtype=np.float32)


def shelf(signal: Audio, hz: float, low_db: float, high_db: float, rate_hz: int = ANALYSIS_RATE_HZ) -> Audio:
    """A first-order shelf that turns around ``hz``: ``low_db`` below it, ``high_db`` above it."""
    low, high = 10 ** (low_db / 20), 10 ** (high_db / 20)
    w = 2 * np.pi * hz
    root = np.sqrt(high / low)
    return analogue(signal, np.array([high / root, low * w]), np.array([1.0 / root, w]), rate_hz, hz)


def taper(position: float, low: float, high: float) -> float:
    """A logarithmic pot: ``low`` at 0, ``high`` at 1, their geometric mean at noon."""
    return float(low * (high / low) ** position)
