"""What calculators answer."""

from __future__ import annotations

from pydantic import BaseModel


class PowerStep(BaseModel):
    """One position of the power switch."""

    name: str
    watts: float
    level_db: float
    change_db: float
    words: str


class LoudnessView(BaseModel):
    """How loud an amplifier gets; ``missing`` says what its specification lacks."""

    missing: str
    sensitivity_db: float
    assumed: bool
    speakers: int
    distance_m: float
    steps: list[PowerStep]
    caution: str


class LoadingView(BaseModel):
    """A coil with a cable and pots; ``missing`` says what its specification lacks, ``curve`` is Hz and dB."""

    missing: str
    resonance_hz: float | None
    q: float | None
    peak_hz: float | None
    peak_db: float | None
    low_loss_db: float | None
    sentence: str
    curve: list[list[float]]
