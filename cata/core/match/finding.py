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
    Rule("silence", "Nothing to hear", "Silence, or a file shorter than 0.4 s."),
    Rule("clipping", "Clipping", "The recorder, or something before it, ran out of range."),
    Rule("not_the_same_phrase", "Not the same phrase", "Something else was played."),
    Rule("other_notes", "Other notes in one place", "A chord or a note of the phrase is another one."),
    Rule("octave", "An octave away", "The whole phrase sounds an octave higher or lower than the reference."),
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
OF_GEAR = frozenset(
    {"not_the_same_phrase", "octave", "other_tuning", "tone_moved", "hum", "noise", "wet_tail", "loudness_gap",
     "inverted", "lag", "offset", "channels"}
)  # fmt: skip
"""What a contender may do by itself: an octave it adds, a spring in its tank, its own hiss, a path that inverts."""

EVERY_FAMILY = ("level", "tone", "drive", "dynamics", "noise", "pitch")
DOUBTED: Mapping[str, tuple[str, ...]] = {"tone_moved": ("tone",), "exchanged": EVERY_FAMILY}
"""Families of readings that a finding puts in doubt: they say nothing of the contender until somebody looked."""

SURE: Mapping[str, str] = {"fault": "sure", "check": "likely"}
"""Record it again is said where nothing else explains it, look at it where that is likely; the rest are notes."""
WHY_SURE: Mapping[str, str] = {
    "silence": "nothing in the file can be heard",
    "clipping": "equal samples at the very top come from a recorder alone",
    "not_the_same_phrase": "neither strokes nor pitches agree, whatever the tone",
    "other_notes": "moved by whole semitones the notes fit far better, and no device does that",
    "other_tuning": "pitch does not hang on tone, and the others of the test agree with each other",
    "other_tempo": "strokes drift apart more than hands do, all through the take",
    "tone_moved": "further from what its contender and its test explain than any take of 45 faultless flights was",
    "wet_tail": "no other take of the contender or of the test falls so slowly",
    "hum": "most of it lies on lines of the mains, and the contender's other takes have less",
}
WHY_LIKELY: Mapping[str, str] = {
    "not_the_same_phrase": "a fuzz or an octave can hide strokes and pitches too",
    "other_notes": "moved notes fit better there, by little: strings that ring on may do that",
    "octave": "its partials fit better an octave away; a device that adds an octave does that too",
    "tone_moved": "beyond the usual scatter here, but a drive that answers this phrase does that too",
    "exchanged": "both takes fit better in each other's place, but contenders may be that much alike",
    "wet_tail": "slower than the others, but ringing strings fall slowly too",
    "hum": "more than in its other takes, but a gain knob further up does that too",
    "noise": "louder than in its other takes, but a gain knob further up does that too",
    "inverted": "told by the wave itself; it may be the contender's own way",
    "loudness_gap": "measured; a drive is that loud by itself",
    "lag": "by the strokes, as far as hands allow",
    "source": "told by the file, or by an edge that only a coder leaves",
}


def how_sure(rule: str, severity: str) -> str:
    """How sure a finding is and why, as half a sentence; empty for a note."""
    if severity not in SURE:
        return ""
    why = (WHY_SURE if severity == "fault" else WHY_LIKELY).get(rule, "")
    return f"{SURE[severity].capitalize()}: {why}." if why else f"{SURE[severity].capitalize()}."
