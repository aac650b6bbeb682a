"""Which bench pickup stands in for one that is written down; pedals and amplifiers go by words (``names``)."""

from __future__ import annotations

from cata.core.bench.pickups import PICKUPS


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
