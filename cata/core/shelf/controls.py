"""Controls as one line for a spreadsheet cell: ``Drive 0-10 = 4.5; Tone clock = 12:00; Voice bright/dark = dark``."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Any

from cata.core.gear import Control, read_position, show_position
from cata.errors import Invalid

SCALES = {"0-10": "0-10", "0–10": "0-10", "clock": "clock", "percent": "percent", "%": "percent", "per cent": "percent"}
SLIDER = "slider"


def key_of(name: str, taken: Sequence[str] = ()) -> str:
    """A key for a control's name, unlike those taken."""
    base = re.sub(r"[\W_]+", "-", name.casefold()).strip("-")[:36] or "control"
    key, count = base, 2
    while key in taken:
        key, count = f"{base}-{count}", count + 1
    return key


def read_controls(text: str) -> tuple[Control, ...]:
    """The controls a line describes. Raises Invalid with the part that cannot be read."""
    controls: list[Control] = []
    for part in filter(None, (piece.strip() for piece in re.split(r"[;\n]", text))):
        controls.append(_read(part, [control.key for control in controls]))
    return tuple(controls)


def _read(part: str, taken: list[str]) -> Control:
    head, _, position = (piece.strip() for piece in part.partition("="))
    found: dict[str, Any] = {"scale": "0-10"}
    words = head.split()
    if SLIDER in (word.casefold() for word in words[1:]):
        found["kind"] = SLIDER
        words = [word for i, word in enumerate(words) if i == 0 or word.casefold() != SLIDER]
    if len(words) > 1 and words[-1].casefold() in SCALES:
        found["scale"] = SCALES[words.pop().casefold()]
    elif len(words) > 1 and "/" in words[-1]:
        found |= {
            "scale": "labels",
            "labels": tuple(label.replace("_", " ") for label in words.pop().split("/") if label),
        }
    name = " ".join(words)
    if not name or len(name) > 60:
        raise Invalid(
            f"{part!r}: write a control as “Drive 0-10 = 5”, “Tone clock = 12:00” or “Voice bright/dark = dark”",
            "bad_control",
        )
    if found["scale"] == "labels" and len(found["labels"]) < 2:
        raise Invalid(f"{part!r}: a switch needs at least two labels", "bad_control")
    control = Control(key=key_of(name, taken), name=name, default=0.0 if found["scale"] == "labels" else 0.5, **found)
    return control.model_copy(update={"default": read_position(control, position)}) if position else control


def show_controls(controls: Sequence[Control]) -> str:
    """Controls as the line that :func:`read_controls` reads."""
    return "; ".join(_show(control) for control in controls)


def _show(control: Control) -> str:
    scale = (
        "/".join(label.replace(" ", "_") for label in control.labels) if control.scale == "labels" else control.scale
    )
    slider = f" {SLIDER}" if control.kind == "slider" else ""
    return f"{control.name}{slider} {scale} = {show_position(control, control.default)}"
