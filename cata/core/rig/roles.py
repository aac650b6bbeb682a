"""How much of a sound each place of a rig makes, by where the drive is to come from.

These are conventions, not measurements: the schools of what an amplifier is for, put into numbers. A person may weigh
the places otherwise; what each part of a found rig adds is then computed (:mod:`cata.core.rig.shares`).
"""

from __future__ import annotations

from collections.abc import Collection, Mapping

from cata.core.brief import AmpRole, Sound
from cata.core.gear import GearKind

DRIVE = "equivalent_drive"
DRIVEN_FROM = 3.0
"""Per cent of drive from which a sound is wanted driven: below that it is clean."""
PLACE_OF: Mapping[GearKind, str] = {
    "guitar": "guitar", "pickup": "pickup", "pedal": "pedals", "amplifier": "amplifier", "direct box": "amplifier",
    "speaker": "speaker", "power supply": "power supply", "cable": "cable", "strings": "strings",
}  # fmt: skip
CLEAN: Mapping[str, float] = {"guitar": 0.15, "pickup": 0.15, "pedals": 0.1, "amplifier": 0.4, "speaker": 0.2}
DRIVEN: Mapping[AmpRole, Mapping[str, float]] = {
    "platform": {"guitar": 0.05, "pickup": 0.1, "pedals": 0.5, "amplifier": 0.2, "speaker": 0.15},
    "edge": {"guitar": 0.05, "pickup": 0.1, "pedals": 0.3, "amplifier": 0.4, "speaker": 0.15},
    "driven": {"guitar": 0.05, "pickup": 0.15, "pedals": 0.1, "amplifier": 0.55, "speaker": 0.15},
    "direct": {"guitar": 0.05, "pickup": 0.1, "pedals": 0.45, "amplifier": 0.4, "speaker": 0.0},
}


def wants_drive(sound: Sound) -> bool:
    """True where a sound asks for more drive than clean playing has."""
    return any(t.reading == DRIVE and t.low is not None and t.low >= DRIVEN_FROM for t in sound.targets)


def shares_of(role: AmpRole, sound: Sound, places: Collection[str]) -> dict[str, float]:
    """How much of a sound each of some places makes, 1 in all; places of which nothing is known are left out."""
    table = DRIVEN[role] if wants_drive(sound) else CLEAN
    known = {place: share for place, share in table.items() if place in places}
    total = sum(known.values())
    return {place: share / total for place, share in known.items()} if total else {}


MOST_OF = {"power supply": 2}
"""Of these a rig may hold several: one supply may not have outputs enough, and two of a kind are often the cheapest."""


def stock_of(place: str, price_kind: str | None) -> int:
    """How many there are of an offer, as far as a rig can hold them; None: what is owned.

    What is sold new comes in any number; what is used, offered or owned is there once.
    """
    return MOST_OF.get(place, 1) if price_kind == "new" else 1
