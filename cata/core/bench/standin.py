"""Which bench device stands in for a piece of gear, and where its knobs go.

Chosen by what the specification says of the structure; a stand-in is not the device, and says so.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from cata.core.bench.device import Device
from cata.core.bench.pickups import PICKUPS
from cata.core.gear import Control
from cata.core.plan.condition import role_of

# The first whose words appear in name, description, structure or specification.
PEDAL_WORDS: Mapping[str, tuple[str, ...]] = {
    "fuzz": ("fuzz", "asymmetric", "sputter"),
    "hard-clip": ("hard clip", "hard-clip", "distortion", "diodes against ground"),
    "mid-hump": ("mid-hump", "mid hump", "lows cut", "in the feedback", "soft clip"),
    "transparent": ("transparent", "full range", "boost", "overdrive", "drive", "gain"),
}
NO_STAND_IN = "bypass"


def pedal_for(*texts: str) -> str:
    """The key of the bench pedal for what is written of a pedal; "bypass" where nothing like it is simulated."""
    said = " ".join(texts).casefold()
    return next((key for key, words in PEDAL_WORDS.items() if any(word in said for word in words)), NO_STAND_IN)


def pickup_for(coils: float | None, inductance_h: float | None, resistance_kohm: float | None) -> str:
    """The key of the bench pickup nearest in inductance and resistance, among those with as many coils if said."""

    def distance(key: str) -> float:
        pickup = PICKUPS[key]
        off = 0.0
        if inductance_h:
            off += abs(pickup.inductance_h - inductance_h) / inductance_h
        if resistance_kohm:
            off += abs(pickup.resistance_ohm / 1000 - resistance_kohm) / resistance_kohm
        if coils and (coils >= 2) != ("two-coil" in key):
            off += 10.0
        return off

    return min((key for key in PICKUPS if not key.endswith("-neck")), key=distance)


def knobs_for(device: Device, controls: Sequence[Control], settings: Mapping[str, float]) -> dict[str, float]:
    """The device's knobs from a piece of gear's: the same key, else the same role; what it lacks stays as it starts."""
    by_role = {role_of(control): control for control in reversed(controls)}
    found: dict[str, float] = {}
    for knob in device.controls:
        control = next((one for one in controls if one.key == knob.key), None) or by_role.get(role_of(knob))
        if control is not None and role_of(knob) is not None:
            found[knob.key] = settings.get(control.key, control.default)
    return found
