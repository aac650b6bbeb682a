"""What a cable, pots and an input make of a pickup's coil."""

from __future__ import annotations

from cata.core.spec_fields import Field
from cata.core.workshop.calculator import Answer, Calculator, Given, Question, line, spec
from cata.core.workshop.coil import CABLE_PF_PER_M, INPUT_OHM, Loaded, with_cable

DRAWN_HZ = tuple(round(200.0 * 2 ** (step / 12), 1) for step in range(73))
SHORT_M = 0.5
USUAL_COIL_PF = 100.0
USUAL_CABLE_M = 4.5


def _loaded(given: Given, cable_m: float) -> Loaded:
    number = {key: float(value) for key, value in given.items() if isinstance(value, int | float)}
    pots = {
        key: number[f"{key}_pot_kohm"] * 1000 if number.get(f"{key}_pot_kohm") else None for key in ("volume", "tone")
    }
    return with_cable(
        number["inductance_h"], 1000 * number["dc_resistance_kohm"], number["capacitance_pf"], cable_m=cable_m,
        volume_ohm=pots["volume"], tone_ohm=pots["tone"], input_ohm=1000 * number["input_kohm"],
        pf_per_m=number["capacitance_pf_per_m"],
    )  # fmt: skip


def _curve(loaded: Loaded) -> list[tuple[float, float]]:
    return [(hz, round(loaded.response_db(hz), 2)) for hz in DRAWN_HZ]


def cable_and_pots(given: Given) -> Answer:
    """Where the coil rings with its load, how high its peak stands, and what the load takes of the level."""
    cable_m, pf_per_m = float(given["length_m"] or 0), float(given["capacitance_pf_per_m"] or 0)
    loaded, short = _loaded(given, cable_m), _loaded(given, SHORT_M)
    lines = [line("Level lost into the load", loaded.low_loss_db, "dB", 1, "at the lowest notes, against no load")]
    peak = loaded.peak
    if peak is None:
        sentence = f"With this load it has no peak left: it falls from about {loaded.resonance_hz / 1000:.1f} kHz on."
    else:
        sentence = (
            f"With {cable_m:g} m of cable ({cable_m * pf_per_m:.0f} pF) it rings at {peak[0] / 1000:.2f} kHz, "
            f"{peak[1]:.1f} dB above the rest."
        )
        lines = [line("Peak", peak[0], "Hz", 0, "where it bites"), line("Height", peak[1], "dB", 1), *lines]
    lines.append(line("Resonance", loaded.resonance_hz, "Hz", 0, f"Q {loaded.q:.2f}"))
    curves = {f"{cable_m:g} m of cable": _curve(loaded)}
    if cable_m != SHORT_M:
        curves["half a metre"] = _curve(short)
    return Answer(sentence=sentence, lines=lines, curves=curves, basis="The coil as one resonance, all knobs full up.")


CALCULATOR = Calculator(
    key="cable",
    name="Cable and pots",
    about="Where a pickup rings with its cable and pots, and how much a longer cable dulls it.",
    questions=(
        spec("pickup", "inductance_h", low=0.001),
        spec("pickup", "dc_resistance_kohm", low=0.001),
        spec("pickup", "capacitance_pf", usual=USUAL_COIL_PF, low=1),
        Question(
            field=Field(key="length_m", name="Cable", type="number", unit="m", high=15),
            usual=USUAL_CABLE_M, specs={"cable": "length_m"}, slide=0.5,
        ),
        spec("cable", "capacitance_pf_per_m", usual=CABLE_PF_PER_M),
        spec("guitar", "volume_pot_kohm", usual=250.0, optional=True),
        spec("guitar", "tone_pot_kohm", usual=250.0, optional=True),
        Question(
            field=Field(key="input_kohm", name="Input impedance", type="number", unit="kΩ", low=1, high=20_000),
            usual=INPUT_OHM / 1000, specs={"pedal": "input_kohm"},
        ),
    ),
    answer=cable_and_pots,
)  # fmt: skip
