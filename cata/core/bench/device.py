"""What every bench device is: named knobs, and a circuit for each setting of them.

Linear parts run at 48 kHz, clippers eight times faster (:mod:`.curves`), so that what folds back lies at least
70 dB under the tone that made it. Each device knows its own truth (:mod:`.circuit`).
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np

from cata.core.bench.circuit import Block, Truth, truth
from cata.core.clip import Audio
from cata.core.gear import Control
from cata.errors import Invalid

Settings = Mapping[str, float]


@dataclass(frozen=True)
class Device:
    """A device of the bench: ``circuit(settings)`` with every control's position from 0 to 1.

    ``hiss_dbfs``: the RMS of its own noise at its input; None where it has none to speak of.
    """

    key: str
    name: str
    kind: str
    structure: str
    controls: tuple[Control, ...]
    circuit: Callable[[Settings], Block]
    hiss_dbfs: float | None = None

    def settings(self, given: Settings) -> dict[str, float]:
        """All positions, defaults where none is given; Invalid for an unknown knob or a position outside 0 to 1."""
        known = {control.key: control.default for control in self.controls}
        for key, position in given.items():
            if key not in known:
                raise Invalid(f"{self.name} has no control {key!r}; it has {', '.join(known) or 'none'}", "no_control")
            if not 0.0 <= position <= 1.0:
                raise Invalid(f"{self.name}, {key}: a position lies between 0 and 1, got {position:g}", "out_of_range")
        return known | dict(given)

    def render(self, signal: Audio, given: Settings) -> Audio:
        """The signal (samples,) through the device at 48 kHz."""
        return np.asarray(self.circuit(self.settings(given)).process(signal), dtype=np.float32)

    def truth(self, given: Settings, hz: float, dbfs: float) -> Truth:
        """What it does to a steady sine, by analysis instead of rendering."""
        return truth(self.circuit(self.settings(given)), hz, dbfs)


def knob(key: str, name: str, default: float = 0.5) -> Control:
    """A knob of the bench."""
    return Control(key=key, name=name, default=default)


def taper(position: float, low: float, high: float) -> float:
    """A logarithmic pot: ``low`` at 0, ``high`` at 1, their geometric mean at noon."""
    return float(low * (high / low) ** position)


def db(value: float) -> float:
    """A level in dB as a factor."""
    return float(10 ** (value / 20))
