"""Aspects that several rules ask for, each read in one place."""

from __future__ import annotations

from cata.core.pairing.rule import Aspect, Piece

LOW_MV, HOT_MV = 130.0, 260.0
"""Output of strummed chords: what the trade calls low, medium and hot single and two-coil pickups."""
EARLY_DB, LATE_DB = 0.0, 10.0
"""Headroom over everyday playing: an input below the first distorts at once, above the second it stays clean."""
CUT_DB, KEPT_DB = 3.0, 1.0
SCOOP_DB = -3.0
NOISY_DB = 45.0
OWN_SPEAKER = ("speaker_count", "speaker_size_in", "speaker_sensitivity_db")
"""What is written of an amplifier that has a speaker."""


def _output(piece: Piece) -> tuple[str, bool] | None:
    output = piece.figures.get("output_mv", piece.specs.get("output_mv"))
    if isinstance(output, int | float) and not isinstance(output, bool):
        return ("low" if output < LOW_MV else "hot" if output > HOT_MV else "medium"), "output_mv" in piece.figures
    word = piece.specs.get("output_class")
    return (str(word), False) if word in ("low", "medium", "hot") else None


def _input(piece: Piece) -> tuple[str, bool] | None:
    headroom = piece.figures.get("headroom_db")
    if headroom is None:
        return None
    return ("early" if headroom < EARLY_DB else "late" if headroom > LATE_DB else "middling"), True


def _lows(piece: Piece) -> tuple[str, bool] | None:
    loss = piece.figures.get("low_end_loss_db")
    if loss is None:
        return None
    return ("cut" if loss > CUT_DB else "kept" if loss < KEPT_DB else "thinned"), True


def _mids(piece: Piece) -> tuple[str, bool] | None:
    mids = piece.figures.get("region.mids")
    return None if mids is None else (("scooped" if mids < SCOOP_DB else "full"), True)


def _noise(piece: Piece) -> tuple[str, bool] | None:
    below = piece.figures.get("noise_below_db")
    return None if below is None else (("noisy" if below < NOISY_DB else "quiet"), True)


OUTPUT = Aspect("output", "pickup", _output)
AMP_INPUT = Aspect("input", "amplifier", _input)
PEDAL_INPUT = Aspect("pedal input", "pedals", _input)
PEDAL_LOWS = Aspect("lows", "pedals", _lows)
PEDAL_MIDS = Aspect("pedal mids", "pedals", _mids)
AMP_MIDS = Aspect("amplifier mids", "amplifier", _mids)
PEDAL_NOISE = Aspect("noise", "pedals", _noise)
