"""Speakers on an amplifier: the load they make together, and what each has to take."""

from __future__ import annotations

import re

from cata.core.spec_fields import Field
from cata.core.specs import read_number
from cata.core.workshop.calculator import Answer, Calculator, Given, Line, Question, line, spec
from cata.errors import Invalid

PARALLEL, SERIES, MIXED = "in parallel", "in series", "two pairs in series, those in parallel"
NEAR = 0.1
"""Nominal impedances are round figures: a tenth apart is the same."""
NO_LOAD = "Never run a valve amplifier without its speaker or a rated load."


def impedances(text: str) -> list[float]:
    """The nominal impedances in a line like "8, 8" or "2 x 16 Ω". Invalid for anything else, 0, or over 16 of them."""
    found: list[float] = []
    for part in re.split(r"[,;+]\s*|\s+and\s+", text.strip()):
        match = re.fullmatch(r"(?:(\d{1,2})\s*[x×]\s*)?(\d+(?:\.\d+)?)\s*(?:Ω|ohms?)?", part.strip(), re.IGNORECASE)
        if match is None or not 1 <= read_number(match[2]) <= 100 or match[1] == "0":
            raise Invalid(f"Speakers: write their impedances as “8, 8” or “2 x 16”; got {text!r}", "no_impedances")
        found += [read_number(match[2])] * int(match[1] or 1)
    if len(found) > 16:
        raise Invalid("Speakers: 16 at most", "too_many_speakers", most=16)
    return found


def together(ohms: list[float], wiring: str) -> tuple[float, list[float]]:
    """The load of speakers in ohms, and the share of the power that each takes (they add up to 1)."""
    if wiring == SERIES:
        return sum(ohms), [one / sum(ohms) for one in ohms]
    if wiring == PARALLEL:
        total = 1 / sum(1 / one for one in ohms)
        return total, [total / one for one in ohms]
    if len(ohms) != 4:
        raise Invalid("Two pairs in series need four speakers", "not_four_speakers", speakers=len(ohms))
    pairs = [together(ohms[:2], SERIES), together(ohms[2:], SERIES)]
    total, shares = together([pair[0] for pair in pairs], PARALLEL)
    return total, [share * one for share, pair in zip(shares, pairs, strict=True) for one in pair[1]]


def _verdict(total: float, wanted: float, build: str) -> str:
    off = total / wanted
    if abs(off - 1) <= NEAR:
        return f"{total:.3g} Ω together: it matches the {wanted:g} Ω output."
    way = "below" if off < 1 else "above"
    said = f"{total:.3g} Ω together: {way} the {wanted:g} Ω output. "
    if build == "valve":
        return said + "A valve amplifier wants its load matched: take the output of that value, or wire them otherwise."
    if off < 1:
        return said + "Do not: the amplifier may be damaged."
    return said + f"It works, with about {100 / off:.0f} % of the power."


def load(given: Given) -> Answer:
    """The load of speakers against an output, and the watts each must take."""
    total, shares = together(impedances(str(given["speakers"])), str(given["wiring"]))
    wanted, watts, build = given["speaker_load_ohm"], given["watts"], str(given["build"])
    lines = [line("Load", total, "Ω", 2)]
    if watts:
        lines += [
            Line(name=f"Speaker {index}", text=f"{share * float(watts):.1f} W", value=share * float(watts), unit="W",
                 words=f"{100 * share:.0f} % of the power")
            for index, share in enumerate(shares, 1)
        ]  # fmt: skip
    valve = build == "valve"
    driven = (
        "Fully driven, an amplifier gives up to twice the power it is rated at: leave that much room." if watts else ""
    )
    return Answer(
        sentence=_verdict(total, float(wanted), build) if wanted else f"{total:.3g} Ω together.",
        lines=lines,
        caution=f"{NO_LOAD if valve else ''} {driven}".strip(),
        basis="Nominal impedances; a speaker's own rises at its resonance and in the highs.",
    )


CALCULATOR = Calculator(
    key="speakers",
    name="Speaker load",
    about="What several speakers are together, whether an amplifier may drive them, and what each has to take.",
    questions=(
        Question(field=Field(key="speakers", name="Speakers, Ω (8, 8 or 2 x 16)"), usual="8, 8"),
        Question(
            field=Field(key="wiring", name="Wired", type="choice", choices=(PARALLEL, SERIES, MIXED)), usual=PARALLEL
        ),
        spec("amplifier", "speaker_load_ohm", optional=True),
        spec("amplifier", "watts", optional=True),
        spec("amplifier", "build", usual="valve"),
    ),
    answer=load,
)
