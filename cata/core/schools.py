"""Schools: where good people disagree, each school with what it is good for and what it costs.

A flight's house rules choose one school for each question. Cata's default comes first, with its reason.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass


@dataclass(frozen=True)
class School:
    """One answer: ``good_for`` is its reason, ``costs`` its side effect."""

    key: str
    name: str
    good_for: str
    costs: str


@dataclass(frozen=True)
class Question:
    """A question with its schools, the default first."""

    key: str
    name: str
    schools: tuple[School, ...]

    @property
    def default(self) -> School:
        """What Cata does when nobody chose."""
        return self.schools[0]


QUESTIONS: tuple[Question, ...] = (
    Question("level", "Level", (
        School("equal", "equal loudness", "Compares tone: louder is not taken for better.",
               "Output, which is part of the gear, is not heard."),
        School("by_ear", "equal to the ear", "What is filled and sustained is set as loud as it is heard.",
               "A model of hearing at one listening level; it takes a while to compute."),
        School("as_set", "as set", "Output is part of the gear: a boost is judged as a boost.",
               "The loudest tends to win."),
    )),
    Question("start", "Where knobs start", (
        School("noon", "all at noon", "The same start for every contender.", "Some gear is not at its best at noon."),
        School("usual", "your usual", "Judges the sound you would really use.", "Favours the gear you know."),
        School("full", "full up and back off", "Shows the whole range first.",
               "Ears tire; the first sounds are harsh."),
    )),
    Question("drive", "Where the drive comes from", (
        School("pedal", "pedal makes it", "A clean platform lets the pedal re-voice the amplifier.",
               "Says little about a driven amplifier."),
        School("amp", "amp makes it", "The pedal pushes and tightens an amplifier that already breaks up.",
               "The amplifier's own drive covers what the pedal does."),
        School("stacked", "stacked stages", "Several mild stages stay clearer than one hard one.",
               "More knobs to hold constant."),
    )),
    Question("pedal", "A drive pedal should", (
        School("transparent", "stay transparent", "Keeps the guitar and amplifier you chose.", "May add too little."),
        School("revoice", "re-voice", "Puts the guitar where the band leaves room.", "The guitar's own voice goes."),
    )),
    Question("compression", "Compression", (
        School("none", "none", "The pick is heard as it is.", "Levels jump between soft and hard."),
        School("blended", "light, blended with dry", "Evens the level and keeps the attack.", "Brings up some noise."),
        School("driving", "always on, driving the next stage", "A steady push into the next stage.",
               "Dynamics are gone for good."),
    )),
    Question("pickups", "Pickup positions", (
        School("bridge", "bridge tells the story", "Fewest takes; the position that drives hardest.",
               "The neck may tell another story."),
        School("every", "every position", "Nothing is bought unheard.", "Three times the takes."),
    )),
    Question("context", "Context", (
        School("both", "alone, then in the mix", "Alone for detail, in the mix for truth.", "Twice the listening."),
        School("alone", "alone", "Every detail is heard.", "What sounds big alone may drown in a band."),
        School("mix", "in the mix", "Judges what the audience hears.", "Small differences vanish."),
    )),
    Question("space", "Space", (
        School("dry", "bone dry", "Nothing covers the gear.", "Sounds unkind to everything."),
        School("room", "a little room so that it breathes", "Closer to how it will be heard.",
               "Tails hide sustain and noise; all takes must have the same."),
    )),
    Question("guitar_knobs", "Guitar knobs", (
        School("full", "full", "The same signal for every contender.", "Hides how it cleans up."),
        School("ride", "ride volume and tone", "Shows how it follows the guitar's own knobs.", "More takes."),
    )),
)  # fmt: skip
QUESTION: Mapping[str, Question] = {question.key: question for question in QUESTIONS}


def chosen(rules: Mapping[str, str], question: str) -> School:
    """The school a flight follows in a question; the default where it says none (or one unknown)."""
    asked = QUESTION[question]
    return next((school for school in asked.schools if school.key == rules.get(question)), asked.default)
