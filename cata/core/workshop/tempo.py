"""Delay times and tremolo rates that fall on the beat."""

from __future__ import annotations

from fractions import Fraction

from cata.core.spec_fields import Field
from cata.core.workshop.calculator import Answer, Calculator, Given, Line, Question

NOTES: tuple[tuple[str, Fraction], ...] = (
    ("Half note", Fraction(2)), ("Dotted quarter", Fraction(3, 2)), ("Quarter note", Fraction(1)),
    ("Dotted eighth", Fraction(3, 4)), ("Quarter triplet", Fraction(2, 3)), ("Eighth note", Fraction(1, 2)),
    ("Eighth triplet", Fraction(1, 3)), ("Sixteenth note", Fraction(1, 4)), ("Sixteenth triplet", Fraction(1, 6)),
)  # fmt: skip


def beat_times(given: Given) -> Answer:
    """Milliseconds of each note at a tempo, where a quarter note is a beat, and how many there are a second."""
    bpm = float(given["bpm"] or 0)
    lines = []
    for name, beats in NOTES:
        ms = 60_000 / bpm * float(beats)
        lines.append(Line(name=name, text=f"{ms:.0f} ms", value=ms, unit="ms", words=f"{1000 / ms:.2f} Hz"))
    eighth = 60_000 / bpm * 0.75
    return Answer(
        sentence=f"At {bpm:g} beats a minute a beat lasts {60_000 / bpm:.0f} ms, a dotted eighth {eighth:.0f} ms.",
        lines=lines,
        basis="A beat is a quarter note. The rate (Hz) is that of a tremolo with one wave a note.",
    )


CALCULATOR = Calculator(
    key="tempo",
    name="Tempo",
    about="The delay time and the tremolo rate of each note at a song's tempo.",
    questions=(
        Question(
            field=Field(key="bpm", name="Beats a minute", type="number", low=20, high=400), usual=120.0, slide=1.0
        ),
    ),
    answer=beat_times,
)
