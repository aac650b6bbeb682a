"""How loud an amplifier of the shelf gets, at each position of its power switch."""

from __future__ import annotations

from cata.core.workshop.loudness import HURTS_DB, loudness
from cata.services.workshop.views import LoudnessView, PowerStep
from cata.services.workspace import Workspace, require
from cata.store.tables import Gear

USUAL_SENSITIVITY_DB = 98.0
"""Guitar speakers lie between 94 and 103 dB; the middle where nothing is noted."""


def get_loudness(
    ws: Workspace, gear_id: int, *, distance_m: float, sensitivity_db: float | None, speakers: int | None
) -> LoudnessView:
    """The loudness of an amplifier from its watts, its speakers' sensitivity and a distance."""
    with ws.reading() as session:
        gear = require(session, Gear, gear_id)
    noted = gear.specs.get("speaker_sensitivity_db")
    used = sensitivity_db or (float(noted) if isinstance(noted, int | float) else USUAL_SENSITIVITY_DB)
    count = speakers or max(1, int(gear.specs.get("speaker_count") or 1))
    watts = gear.specs.get("watts")
    view = LoudnessView(
        missing="", sensitivity_db=used, assumed=sensitivity_db is None and noted is None, speakers=count,
        distance_m=distance_m, steps=[], caution="",
    )  # fmt: skip
    if gear.kind != "amplifier" or not isinstance(watts, int | float) or watts <= 0:
        view.missing = (
            "not an amplifier" if gear.kind != "amplifier" else "note its power in watts to see how loud it is"
        )
        return view
    found = loudness(float(watts), str(gear.specs.get("power_positions") or ""), used, distance_m, count)
    view.steps = [
        PowerStep(name=one.name, watts=one.watts, level_db=round(one.level_db, 1), change_db=round(one.change_db, 1),
                  words=one.words)
        for one in found
    ]  # fmt: skip
    view.caution = (
        "Clean power in the open; a room adds several dB, and a driven amplifier up to 3 more. Protect your hearing; "
        "rules at work may be stricter."
    )
    if found[0].level_db >= HURTS_DB:
        view.caution = f"Over {HURTS_DB:.0f} dB hurts at once. " + view.caution
    return view
