"""How far what the test file's playing says of a device carries into flights: measured, reading by reading."""

from __future__ import annotations

from dataclasses import dataclass, replace
from math import hypot

from cata.core.brief import Target
from cata.core.choose.takes import key_of


@dataclass(frozen=True)
class Carried:
    """What a difference from the bare signal moves by between the test file and flights, as standard deviations.

    ``item_sd`` moves all settings of an item alike, ``setting_sd`` each by itself.
    """

    item_sd: float
    setting_sd: float


CARRIED = {
    "equivalent_drive.percent": Carried(2.7, 4.0),
    "level_spread_db": Carried(3.0, 3.0),
    "regions_db.lows": Carried(3.0, 2.2),
    "regions_db.low_mids": Carried(2.0, 1.5),
    "regions_db.mids": Carried(1.0, 0.6),
    "regions_db.upper_mids": Carried(1.0, 0.9),
    "regions_db.presence": Carried(2.2, 2.2),
    "harshness_db": Carried(2.6, 2.4),
    "tilt_db_per_oct": Carried(0.7, 0.6),
    "centroid_hz": Carried(120.0, 90.0),
    "sustain.db_per_s": Carried(3.5, 3.0),
}
"""Fitted on flights of two kinds (docs/measures.md). What is not here does not carry."""


LEVEL_SD = 6.0
"""Points of drive that lie between everyday strumming as it is assumed and as somebody really strums."""


def carried_by(target: Target, *, own_level: bool = True) -> Carried | None:
    """How a target's reading carries; None where it does not. ``own_level``: the player's strumming was measured."""
    found = CARRIED.get(key_of(target))
    if found is None or own_level or target.reading != "equivalent_drive":
        return found
    return replace(found, item_sd=hypot(found.item_sd, LEVEL_SD))
