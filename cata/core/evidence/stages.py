"""Where a knob stands: before the breakup, or after it. From measurements at its ends. No numpy.

What stands before the clipper makes it give way earlier by as much as it lifts the tone; what stands after it changes
loudness or tone and leaves that where it is. Giving way is the level at which the gain of the tone itself has fallen by
1 dB: a filter behind the clipper takes overtones away, so a share of distortion would mistake it for one before.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from cata.core.evidence.probe import Probe
from cata.said import Said

Place = Literal["before", "after", "both", "elsewhere"]
LEAST_DB = 3.0
BEFORE_SHARE, AFTER_SHARE = 0.7, 0.3
MAIN_HZ = 226.4
WORDS: dict[Place, str] = {
    "before": "It stands before the breakup: what it adds is driven harder.",
    "after": "It stands after the breakup: it changes what comes out, not how much it distorts.",
    "both": "Part of it stands before the breakup, part after.",
    "elsewhere": "It moves the breakup, not the clean level: it sets where the stage gives way.",
}


@dataclass(frozen=True)
class Standing:
    """Where a knob stands, the pitch it was judged at, and what gain and giving way did there from end to end."""

    place: Place
    hz: float
    gain_db: float
    gave_way_db: float

    @property
    def said(self) -> Said:
        """The same for a person."""
        return Said(f"stands_{self.place}", WORDS[self.place])


def _gain_at(probe: Probe, hz: float) -> float | None:
    """Clean gain at a pitch, from the response's nearest third octaves."""
    if abs(hz - MAIN_HZ) < 1.0 and (main := probe.number("gain_db")) is not None:
        return main
    known = probe.results.get("response_db")
    if known is None or not isinstance(known.value, dict) or (known.flag and known.flag.code == "breaks_up"):
        return None
    response = probe.results.parts("response_db")
    nearest = sorted(response, key=lambda name: abs(math.log(float(name) / hz)))[:2]
    near = sorted((math.log(float(name)), response[name]) for name in nearest)
    (x0, y0), (x1, y1) = near
    return y0 + (y1 - y0) * (math.log(hz) - x0) / (x1 - x0)


def _gave_way(probe: Probe) -> dict[float, float]:
    """The level at which a probe gave way, by pitch in Hz; without the pitches at which it never did.

    Empty where nothing distorts: the gain of a compressor falls too, and it has no breakup.
    """
    if not isinstance(probe.results.readings.get("breakup_dbfs"), dict):
        return {}
    return {round(hz, 1): level for hz, level in probe.pictures.get("compression by pitch", ())}


def standing(low: Probe, high: Probe) -> Standing | None:
    """Where the knob stands by which two probes differ; None where nothing moves by 3 dB at any pitch.

    Judged at the pitch where the clean gain moves most, of those where both gave way below full scale.
    """
    points = [_gave_way(probe) for probe in (low, high)]
    found: list[Standing] = []
    for hz in sorted(set(points[0]) & set(points[1])):
        gains = [_gain_at(probe, hz) for probe in (low, high)]
        moved = points[1][hz] - points[0][hz]
        if gains[0] is None or gains[1] is None:
            continue
        gained = gains[1] - gains[0]
        if max(abs(gained), abs(moved)) < LEAST_DB:
            continue
        found.append(Standing(_place(gained, moved), hz, gained, moved))
    return max(found, key=lambda one: abs(one.gain_db), default=None)


def why_not_told(low: Probe, high: Probe) -> Said | None:
    """Why ``standing`` says nothing of a knob; None where nothing broke up at either end, and so there is no place."""
    ends = [_gave_way(probe) for probe in (low, high)]
    if not any(ends):
        return None
    begun = "Whether it stands before or after the breakup is not told: "
    if not (both := sorted(ends[0].keys() & ends[1].keys())):
        return Said("no_tone_at_both", f"{begun}no tone broke up at both of its ends.")
    known = [hz for hz in both if None not in (_gain_at(low, hz), _gain_at(high, hz))]
    if not known:
        return Said("clean_gain_unknown", f"{begun}the clean gain is not known where breakup was measured.")
    span = f"{known[0]:.0f} to {known[-1]:.0f} Hz" if len(known) > 1 else f"{known[0]:.0f} Hz"
    words = f"{begun}it moves less than {LEAST_DB:.0f} dB where breakup was measured, {span}."
    return Said("moves_too_little", words, {"from_hz": known[0], "to_hz": known[-1]})


def _place(gained: float, moved: float) -> Place:
    if abs(gained) < LEAST_DB:
        return "elsewhere"
    share = -moved / gained
    return "before" if share >= BEFORE_SHARE else "after" if share <= AFTER_SHARE else "both"
