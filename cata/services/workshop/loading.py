"""What a cable, pots and an input make of a pickup of the shelf."""

from __future__ import annotations

from cata.core.workshop.coil import CABLE_PF_PER_M, with_cable
from cata.services.workshop.views import LoadingView
from cata.services.workspace import Workspace, require
from cata.store.tables import Gear

LOADING_HZ = tuple(round(200.0 * 2 ** (step / 12), 1) for step in range(73))


def loading(
    ws: Workspace, gear_id: int, cable_m: float, volume_kohm: float | None, tone_kohm: float | None, input_kohm: float
) -> LoadingView:
    """What a cable, pots and an input make of a pickup's coil, from its specification."""
    with ws.reading() as session:
        gear = require(session, Gear, gear_id)
    names = {"inductance_h": "inductance", "dc_resistance_kohm": "DC resistance"}
    lacking = [name for key, name in names.items() if not isinstance(gear.specs.get(key), int | float)]
    if gear.kind != "pickup" or lacking:
        reason = f"note its {' and '.join(lacking)} to see what a cable does to it" if lacking else "not a pickup"
        return LoadingView(missing=reason, resonance_hz=None, q=None, peak_hz=None, peak_db=None, low_loss_db=None,
                           sentence="", curve=[])  # fmt: skip
    coil_pf = float(gear.specs.get("capacitance_pf") or 100.0)
    loaded = with_cable(
        float(gear.specs["inductance_h"]), 1000 * float(gear.specs["dc_resistance_kohm"]), coil_pf, cable_m=cable_m,
        volume_ohm=1000 * volume_kohm if volume_kohm else None, tone_ohm=1000 * tone_kohm if tone_kohm else None,
        input_ohm=1000 * input_kohm,
    )  # fmt: skip
    peak = loaded.peak
    said = (
        f"With {cable_m:g} m of cable ({cable_m * CABLE_PF_PER_M:.0f} pF) it rings at {peak[0] / 1000:.2f} kHz, "
        f"{peak[1]:.1f} dB above the rest."
        if peak
        else f"With this load it has no peak left: it falls from about {loaded.resonance_hz / 1000:.1f} kHz on."
    )
    return LoadingView(
        missing="", resonance_hz=loaded.resonance_hz, q=loaded.q, peak_hz=peak[0] if peak else None,
        peak_db=peak[1] if peak else None, low_loss_db=loaded.low_loss_db, sentence=said,
        curve=[[hz, round(loaded.response_db(hz), 2)] for hz in LOADING_HZ],
    )  # fmt: skip
