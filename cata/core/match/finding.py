"""A finding: what is wrong, how bad, what to do, and the picture that shows it. Imports no numpy."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass, field
from typing import Any, Literal

from cata.said import Number

Severity = Literal["fault", "check", "note"]
SEVERITY_ORDER: tuple[Severity, ...] = ("fault", "check", "note")


@dataclass(frozen=True)
class Series:
    """One curve of a picture."""

    name: str
    y: list[float]


@dataclass(frozen=True, kw_only=True)
class Picture:
    """Evidence as a chart: curves over one axis, with marked places; ``log_x`` for frequencies."""

    x: list[float]
    series: list[Series]
    x_label: str
    y_label: str
    marks: list[tuple[float, str]] = field(default_factory=list)
    log_x: bool = False


@dataclass(frozen=True, kw_only=True)
class Finding:
    """``severity``: "fault" (record it again), "check" (a person must decide), "note" (Cata has dealt with it).

    ``take`` is the index of the take in the set that was audited; ``numbers`` are those of its text.
    """

    rule: str
    severity: Severity
    text: str
    advice: str
    take: int
    picture: Picture | None = None
    numbers: Mapping[str, Number] = field(default_factory=dict)

    def as_json(self) -> dict[str, Any]:
        """Plain data for storage and for the command line."""
        return asdict(self)


@dataclass(frozen=True)
class Rule:
    """What the audit looks for, in words."""

    key: str
    name: str
    about: str


RULES: tuple[Rule, ...] = (
    Rule("silence", "Silence", "Nothing was recorded."),
    Rule("clipping", "Clipping", "The recorder, or something before it, ran out of range."),
    Rule("not_the_same_phrase", "Not the same phrase", "Something else was played."),
    Rule("other_tuning", "Other tuning", "The strings were tuned differently; from 5 cents it is heard."),
    Rule("other_tempo", "Other tempo", "Played faster or slower; from 2 % it is heard."),
    Rule("tone_moved", "Tone moved in one take", "Something besides the contender changed: an amplifier knob, a mic."),
    Rule("exchanged", "Takes exchanged", "Two takes of a test fit better in each other's place."),
    Rule("hum", "Hum on one take", "The mains hum louder than in the contender's other takes."),
    Rule("inverted", "Inverted", "The wave is upside down: harmless alone, but two sources cancel."),
    Rule("loudness_gap", "Loudness gap", "Corrected by a gain from 0.5 LU; from 12 LU the noise comes up with it."),
    Rule("wet_tail", "Room or delay on one take", "Sound hangs on after the music stops, on some takes only."),
    Rule("drift", "Drift over the session", "The anchor, played again later, is not what it was."),
    Rule("differs", "Something else differs", "A contender's chain differs in more than the compared link."),
    Rule(
        "voiced_for_one",
        "Amplifier set up for one",
        "An amplifier knob stands differently for one contender.",
    ),
    Rule("not_written_down", "Settings not written down", "What was held constant cannot be checked or repeated."),
    Rule("used_otherwise", "Set otherwise than planned", "What was really used differs from the plan."),
    Rule("no_answer", "No such knob", "The test asks for a knob that a contender does not have."),
    Rule("lag", "Lag", "Starts earlier or later; lined up by Cata where it can be told."),
    Rule("noise", "Noise", "Hum or hiss close to the playing."),
    Rule("length", "Length", "Ends before the others do."),
    Rule("source", "Lossy or low-rate source", "The file no longer holds what the microphone heard."),
    Rule("offset", "DC offset", "The wave does not rest at zero."),
    Rule("channels", "Mono against stereo", "One take is mono, the others are stereo."),
)
RULE_NAMES = {rule.key: rule.name for rule in RULES}
