"""Clock positions to numbers and back: one place of a knob in every way it is written down."""

from __future__ import annotations

from cata.core.gear import CLOCK_TRAVEL_H, Control, Scale, read_position, show_position
from cata.core.spec_fields import Field
from cata.core.workshop.calculator import Answer, Calculator, Given, Line, Question, line

DEGREES_PER_HOUR = 30.0
AUDIO_TAPER_HALF = 0.15
"""A common audio taper: 15 % of the resistance at half the turn, in two straight pieces."""
WRITTEN: tuple[tuple[Scale, str], ...] = (
    ("0-10", "On a scale to 10"),
    ("clock", "On a clock face"),
    ("percent", "In per cent"),
)


def audio_share(position: float) -> float:
    """Share of the resistance at a place of the turn (0 to 1) of a common audio pot."""
    half = AUDIO_TAPER_HALF
    return 2 * half * position if position <= 0.5 else half + 2 * (1 - half) * (position - 0.5)


def positions(given: Given) -> Answer:
    """A knob's place in each scale, how far it is turned, and what a linear and an audio pot make of it."""
    text = str(given["position"])
    place = read_position(Control(key="knob", name="Knob"), text)
    shown = {scale: show_position(Control(key="knob", name="Knob", scale=scale), place) for scale, _ in WRITTEN}
    turned = place * CLOCK_TRAVEL_H * DEGREES_PER_HOUR
    return Answer(
        sentence=f"{shown['clock']} on a clock face is {shown['0-10']} of 10.",
        lines=[
            *(Line(name=name, text=shown[scale], value=place, words="") for scale, name in WRITTEN),
            line("Turned", turned, "°", 0, f"of {CLOCK_TRAVEL_H * DEGREES_PER_HOUR:.0f}°, from fully left"),
            line("A linear pot gives", 100 * place, "%"),
            line("An audio pot gives", 100 * audio_share(place), "%", 0, "15 % at noon; makers differ"),
        ],
        basis="From 7:00 (fully left) over 12:00 to 5:00 (fully right).",
    )


CALCULATOR = Calculator(
    key="clock",
    name="Clock positions",
    about="One place of a knob as a clock face, a number to ten, per cent and degrees.",
    questions=(Question(field=Field(key="position", name="Knob at (2:30, 7.5 or 75 %)"), usual="12:00"),),
    answer=positions,
)
