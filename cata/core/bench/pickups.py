"""Pickups: where they listen, and the resonance of coil, cable and pots.

The coil's inductance and resistance with the capacitance and load after it are a second-order
low-pass: f0 = sqrt((1 + Rd/R)/(L C))/2π, Q = sqrt(L C (1 + Rd/R))/(L/R + Rd C) (docs/measures.md, F).
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from cata.core.bench.circuit import Filter, analogue
from cata.core.clip import ANALYSIS_RATE_HZ, Audio
from cata.core.signals.phrase import Phrase, retuned
from cata.core.signals.strings import Sensing, render
from cata.core.workshop.coil import Loaded

NEAR_MM, RATED_MM = 2.0, 2.5
FALL_POWER = 1.6
"""Output falls with this power of the distance between string and pole."""
PULL_CENTS = 4.0
PULLED_SHARE = 0.3


@dataclass(frozen=True, kw_only=True)
class Pickup:
    """An electrical and geometric pickup: henry, ohm, farad; ``output`` linear re the reference pickup.

    ``second_place`` is the other coil of a two-coil pickup, None for a single coil. ``height_mm`` is the distance from
    string to pole; nearer than 2 mm its magnet pulls the string, which then swings at two pitches at once.
    """

    key: str
    name: str
    inductance_h: float
    resistance_ohm: float
    capacitance_f: float
    load_ohm: float
    output: float
    sensing: Sensing
    second_place: float | None = None
    height_mm: float = RATED_MM

    @property
    def loaded(self) -> Loaded:
        """The coil with its cable and pots."""
        return Loaded(
            inductance_h=self.inductance_h, resistance_ohm=self.resistance_ohm, capacitance_f=self.capacitance_f,
            load_ohm=self.load_ohm,
        )  # fmt: skip

    @property
    def resonance_hz(self) -> float:
        """f0 of the loaded coil in Hz."""
        return self.loaded.resonance_hz

    @property
    def q(self) -> float:
        """Q of the loaded coil."""
        return self.loaded.q

    @property
    def coil(self) -> Filter:
        """The loaded coil as a filter: what a sweep through it shows."""
        w0 = 2 * np.pi * self.resonance_hz
        return analogue(np.array([w0 * w0]), np.array([1.0, w0 / self.q, w0 * w0]), warp_hz=self.resonance_hz)

    @property
    def height_gain(self) -> float:
        """Output against that at the rated height."""
        return float((RATED_MM / self.height_mm) ** FALL_POWER)

    @property
    def pull_cents(self) -> float:
        """How far the magnet lowers one of the two directions in which a string swings."""
        return 0.0 if self.height_mm >= NEAR_MM else PULL_CENTS * (NEAR_MM / self.height_mm) ** 2

    def _strings(self, phrase: Phrase, seed: int) -> Audio:
        strings = render(phrase, self.sensing, seed=seed)
        if self.second_place is not None:
            other = render(phrase, Sensing(place=self.second_place, width=self.sensing.width), seed=seed)
            strings = (strings + other) * np.float32(0.7)
        return strings

    def record(self, phrase: Phrase, seed: int = 1) -> Audio:
        """The phrase as this pickup gives it, shape (samples,), 48 kHz."""
        strings = self._strings(phrase, seed)
        if self.pull_cents:
            pulled = self._strings(retuned(phrase, -self.pull_cents), seed)
            strings = strings * np.float32(1 - PULLED_SHARE) + pulled * np.float32(PULLED_SHARE)
        return self.coil.process(strings) * np.float32(self.output * self.height_gain)


PLACES = {"bridge": 0.0, "middle": 0.07, "neck": 0.18}
"""How much further from the bridge a pickup listens in each position, as a share of the string."""


def placed(pickup: Pickup, position: str) -> Pickup:
    """The same pickup in another position of the guitar."""
    further = PLACES.get(position, 0.0)
    place = pickup.sensing.place % PLACES["neck"] + further
    second = None if pickup.second_place is None else pickup.second_place % PLACES["neck"] + further
    # The string swings wider away from its end; the model's comb knows only where its modes have nodes.
    wider = float(np.sqrt(np.sin(np.pi * place) / np.sin(np.pi * (place - further))))
    sensing = replace(pickup.sensing, place=place)
    return replace(pickup, sensing=sensing, second_place=second, output=pickup.output * wider)


def record_strings(pickup: Pickup, phrase: Phrase, bass_mm: float, treble_mm: float, seed: int = 1) -> Audio:
    """A phrase through a pickup whose two sides stand at their own height, shape (samples,), 48 kHz."""
    total = np.zeros(int(phrase.length_s * ANALYSIS_RATE_HZ), dtype=np.float32)
    for string in range(6):
        height = bass_mm + (treble_mm - bass_mm) * string / 5
        notes = tuple(note for note in phrase.notes if note.string == string)
        own = replace(pickup, height_mm=height).record(replace(phrase, notes=notes), seed * 10 + string)
        total[: len(own)] += own[: len(total)]
    return total


def _pf(value: float) -> float:
    return value * 1e-12


PICKUPS = {
    p.key: p
    for p in (
        Pickup(key="narrow-single", name="narrow single coil", inductance_h=2.5, resistance_ohm=6500,
               capacitance_f=_pf(600), load_ohm=200e3, output=0.85, sensing=Sensing(place=0.062, width=0.010)),
        Pickup(key="wide-single", name="wide single coil", inductance_h=6.2, resistance_ohm=8600,
               capacitance_f=_pf(640), load_ohm=240e3, output=0.85, sensing=Sensing(place=0.066, width=0.026)),
        Pickup(key="two-coil", name="two-coil pickup", inductance_h=4.5, resistance_ohm=8200,
               capacitance_f=_pf(620), load_ohm=333e3, output=0.62, sensing=Sensing(place=0.052, width=0.012),
               second_place=0.080),
        Pickup(key="hot-two-coil", name="overwound two-coil pickup", inductance_h=8.6, resistance_ohm=15600,
               capacitance_f=_pf(660), load_ohm=333e3, output=0.85, sensing=Sensing(place=0.052, width=0.013),
               second_place=0.080),
        Pickup(key="small-two-coil", name="small two-coil pickup", inductance_h=3.4, resistance_ohm=6900,
               capacitance_f=_pf(610), load_ohm=333e3, output=0.70, sensing=Sensing(place=0.056, width=0.009),
               second_place=0.070),
        Pickup(key="narrow-single-neck", name="narrow single coil, neck", inductance_h=2.4, resistance_ohm=6200,
               capacitance_f=_pf(600), load_ohm=200e3, output=0.5, sensing=Sensing(place=0.24, width=0.010)),
    )
}  # fmt: skip
