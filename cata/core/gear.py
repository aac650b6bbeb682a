"""Gear: what is compared, with its controls as they are labelled and its prices.

A position is kept as a number from 0 to 1 and shown in the scale of the control: 0 to 10, a clock face
from 7:00 (fully left) over 12:00 to 5:00 (fully right), per cent, or one of a switch's labels.
"""

from __future__ import annotations

import re
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from cata.errors import Invalid

GearKind = Literal[
    "pickup", "guitar", "pedal", "amplifier", "speaker", "microphone", "direct box", "strings", "cable",
    "power supply", "accessory",
]  # fmt: skip
Scale = Literal["0-10", "clock", "percent", "labels"]
ControlKind = Literal["knob", "slider", "switch", "selector"]
Taper = Literal["linear", "audio", "reverse audio"]
PriceKind = Literal["new", "used", "offer"]

SCALE_NAMES: dict[Scale, str] = {
    "0-10": "0 to 10", "clock": "clock face", "percent": "per cent", "labels": "switch, selector",
}  # fmt: skip
PRICE_NAMES: dict[PriceKind, str] = {"new": "new", "used": "used", "offer": "own offer"}

MAX_KNOB_NAME = 60
CLOCK_START_H, CLOCK_TRAVEL_H = 7, 10


class Control(BaseModel):
    """One knob, slider, switch or selector.

    ``default`` is a position from 0 to 1; ``labels`` name the positions of a switch (two) or selector; ``taper`` is
    how the pot's resistance goes with its rotation.
    """

    model_config = ConfigDict(frozen=True)

    key: str = Field(min_length=1, max_length=40)
    name: str = Field(min_length=1, max_length=MAX_KNOB_NAME)
    scale: Scale = "0-10"
    default: float = Field(default=0.5, ge=0, le=1)
    labels: tuple[str, ...] = ()
    kind: ControlKind = "knob"
    taper: Taper = "linear"

    @model_validator(mode="before")
    @classmethod
    def _labelled_is_no_knob(cls, given: Any) -> Any:
        if isinstance(given, dict) and given.get("scale") == "labels" and given.get("kind", "knob") == "knob":
            labels = given.get("labels")  # not yet checked: anything that was sent
            two = isinstance(labels, list | tuple) and len(labels) == 2
            return given | {"kind": "switch" if two else "selector"}
        return given

    @model_validator(mode="after")
    def _labels_where_needed(self) -> Control:
        if self.scale == "labels" and len(self.labels) < 2:
            raise ValueError(f"{self.name}: a switch needs at least two labels")
        return self


def show_position(control: Control, position: float) -> str:
    """A position (0 to 1) as the control's own scale shows it."""
    if control.scale == "labels":
        return control.labels[round(position * (len(control.labels) - 1))]
    if control.scale == "percent":
        return f"{position * 100:.0f} %"
    if control.scale == "clock":
        minutes = round((CLOCK_START_H + position * CLOCK_TRAVEL_H) * 60 / 5) * 5
        return f"{(minutes // 60 - 1) % 12 + 1}:{minutes % 60:02d}"
    return f"{position * 10:.1f}".removesuffix(".0")


def read_position(control: Control, text: str) -> float:
    """The position (0 to 1) that a person typed, in any scale the control can be read in.

    Raises Invalid with the accepted forms for anything else.
    """
    text = text.strip()
    for index, label in enumerate(control.labels):
        if label.casefold() == text.casefold():
            return index / (len(control.labels) - 1)
    if match := re.fullmatch(r"(\d{1,2}):(\d{2})", text):
        hours = int(match[1]) % 12 + int(match[2]) / 60
        position = ((hours - CLOCK_START_H) % 12) / CLOCK_TRAVEL_H
        if int(match[2]) < 60 and 1 <= int(match[1]) <= 12 and position <= 1:
            return position
    elif match := re.fullmatch(r"(\d+(?:[.,]\d+)?)\s*(%?)", text):
        position = float(match[1].replace(",", ".")) / (100 if match[2] else 10)
        if position <= 1:
            return position
    forms = " or ".join(control.labels) if control.labels else "0 to 10, 7:00 to 5:00, or 0 % to 100 %"
    raise Invalid(f"{control.name}: write {forms}; got {text!r}", "bad_position")
