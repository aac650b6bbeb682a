"""The four questions for a drive, answered from its probes, each with its number, its picture and what to play.

How much distortion at most? How pleasant? How clean and transparent at equal level? What do the tone controls do, and
do they still do it with the drive up?
"""

from __future__ import annotations

from collections.abc import Sequence

from cata.core.evidence.answers import Answer, distinct, picture_of, told_apart
from cata.core.evidence.knobs import knob_answers
from cata.core.evidence.probe import Probe
from cata.core.evidence.squeeze import squeeze_questions, squeezes_only
from cata.core.gear import Control
from cata.core.plan.condition import role_of
from cata.said import Said

UNITY_DB = 3.0
TRANSPARENT_DB, COLOURED_DB = 1.0, 3.0
WORDS_FOR_MOST = (
    (3, "clean", "stays clean"), (10, "edge", "takes on an edge"), (25, "overdrive", "overdrives"),
    (38.0, "distortion", "distorts strongly"), (1e9, "saturated", "saturates"),
)  # fmt: skip
SUDDEN_DB, GRADUAL_DB = 3.0, 9.0
EVEN_DB, ODD_DB = -3.0, -20.0
WALL_DB_PER_DB = 0.15
DRIVING_PERCENT = 3.0
FULL_SHARE, SATURATED_PERCENT = 0.85, 38.0
QUESTIONS = (
    ("most", "How much distortion at most?"),
    ("pleasant", "How pleasant is it?"),
    ("clean", "How clean and transparent at equal level?"),
    ("controls", "What do the tone controls do, and still do with the drive up?"),
)


def _drive_at(probe: Probe) -> float:
    """How much it distorts when played: the earlier breakup, the more; those that never do come last."""
    onset = probe.number("breakup_dbfs.3")
    return 100.0 if onset is None else onset


def most(probes: Sequence[Probe], controls: Sequence[Control]) -> Answer:
    """The most it distorts, and whether that was with its gain knob full up."""
    answer = Answer(*QUESTIONS[0])
    able = [probe for probe in probes if probe.number("thd_max_percent") is not None]
    gain = next((c for c in controls if role_of(c) == "gain"), None)
    if not able:
        if not probes:
            answer.lacks("nothing_measured", "Measure it with the drive full up.")
        elif gain:
            answer.lacks(
                "never_distorts", "None of the settings measured distorts: turn {knob} up and measure again.",
                knob=gain.name,
            )  # fmt: skip
        else:
            answer.lacks("never_distorts", "None of the settings measured distorts.")
        return answer
    # Whatever saturates ends at about the same share: the most is had where it is had soonest.
    most_percent = max(_peak_percent(probe) for probe in able)
    full = [probe for probe in able if _peak_percent(probe) >= min(FULL_SHARE * most_percent, SATURATED_PERCENT)]
    dirtiest = min(full, key=lambda p: (_drive_at(p), -_peak_percent(p)))
    cleanest = max(able, key=_drive_at)
    share = _peak_percent(dirtiest)
    code, word = next((code, word) for limit, code, word in WORDS_FOR_MOST if share < limit)
    onset = dirtiest.number("breakup_dbfs.3")
    words = f"It {word}: up to {{percent:.0f}} % of distortion at {{setting}}"
    if onset is None:
        answer.tell(code, words + ".", percent=share, setting=dirtiest.name)
    else:
        words += f"; 3 % is reached at {{onset_dbfs:.0f}} dBFS, {_playing(onset)}."
        answer.tell(code, words, percent=share, setting=dirtiest.name, onset_dbfs=onset)
    answer.show(dirtiest, "thd_max_percent", "breakup_dbfs.3", "breakup_dbfs.10", "noise_below_db")
    if gain and max(p.settings.get(gain.key, 0.5) for p in able) < 0.95:
        answer.lacks("not_full_up", "Not measured with {knob} full up yet: there may be more.", knob=gain.name)
    both = distinct(dirtiest, cleanest)
    answer.picture = picture_of(
        "Distortion by level", "level sent, dBFS", "distortion, %", both, "distortion", least=0.0
    )
    answer.proof = tuple(p.ident for p in both)
    return answer


def _peak_percent(probe: Probe) -> float:
    """The most distortion at any level sent: a clean path beside the clipper takes over at the loudest."""
    curve = [float(point[1]) for point in probe.pictures.get("distortion", ())]
    return max([probe.number("thd_max_percent") or 0.0, *curve])


def _playing(onset: float) -> str:
    return "under soft playing" if onset < -35 else "under everyday playing" if onset < -15 else "when played hard"


def pleasant(probes: Sequence[Probe]) -> Answer:
    """How the dirt sounds where there is dirt: knee, touch, even against odd, chords, bite, lows."""
    answer = Answer(*QUESTIONS[1])
    able = [p for p in probes if (p.number("thd_max_percent") or 0.0) >= DRIVING_PERCENT]
    # Where some settings break up under everyday playing, those are what is judged.
    driven = [p for p in able if (p.number("headroom_db") or 0.0) < 0.0] or able
    if not driven:
        answer.lacks("never_distorts", "None of the settings measured distorts: turn it up and measure again.")
        return answer
    best = min(driven, key=_roughness)
    worst = max(driven, key=_roughness)
    knee, even = best.number("knee_db"), best.number("even_odd_db")
    give = best.number("slope_above_db_per_db")
    parts = [
        _knee(knee),
        *([_overtones(even)] if even is not None else []),
        *([_give(give)] if give is not None else []),
    ]
    answer.told.append(
        Said(".".join(part.code for part in parts),
             f"At its best ({best.name}) it {' '.join(part.words for part in parts)}.", {"setting": best.name})
    )  # fmt: skip
    answer.show(best, "knee_db", "even_odd_db", "touch_db_per_db", "slope_above_db_per_db", "chord_clarity_db",
          "harshness_db", "low_tightness_ms")  # fmt: skip
    both = distinct(best, worst)
    answer.picture = picture_of(
        "Second and third overtone by level", "level sent, dBFS", "re the tone, dB", [best], "overtone 2"
    )
    third = picture_of("", "", "", [best], "overtone 3")["curves"]
    for curve, name in ((answer.picture["curves"], "second"), (third, "third")):
        for one in curve:
            one["name"] = f"{name} overtone"
    answer.picture["curves"] += third
    answer.proof = tuple(p.ident for p in both)
    if len(driven) < 2:
        answer.lacks("one_driven", "One driven setting only: measure another to find the better one.")
    return answer


def _knee(knee: float | None) -> Said:
    if knee is None:
        return Said("distorts", "distorts")
    if knee < SUDDEN_DB:
        return Said("sudden", "breaks up suddenly")
    return Said("gradual", "breaks up gradually") if knee > GRADUAL_DB else Said("few_db", "breaks up over a few dB")


def _overtones(even: float) -> Said:
    if even > EVEN_DB:
        return Said("even", "with thick, even overtones")
    return (
        Said("odd", "with edgy, odd overtones") if even < ODD_DB else Said("mixed", "with even and odd overtones mixed")
    )


def _give(give: float) -> Said:
    if give < WALL_DB_PER_DB:
        return Said("wall", "and holds its level like a wall")
    return Said("swells", "and keeps swelling under a harder hand")


def _roughness(probe: Probe) -> float:
    """Muddy chords and bite together, in dB: a rough order, shown with its parts."""
    return (probe.number("chord_clarity_db") or 0.0) + (probe.number("harshness_db") or 0.0)


def clean(probes: Sequence[Probe], controls: Sequence[Control]) -> Answer:
    """The setting with most headroom, how far it strays from a wire there (level aside), and from unity."""
    answer = Answer(*QUESTIONS[2])
    able = [p for p in probes if p.number("gain_db") is not None]
    if not able:
        answer.lacks("never_clean", "Every setting measured distorts at every level: measure it with the drive down.")
        return answer
    cleanest = max(able, key=_drive_at)
    colour, gain = cleanest.number("transparency_db"), cleanest.number("gain_db") or 0.0
    voiced, headroom = _colour(colour), cleanest.number("headroom_db")
    begun = f"Cleanest at {{setting}}: {voiced.words}, "
    if headroom is None:
        answer.tell(f"{voiced.code}.never", begun + "it never reaches 3 % of distortion.", setting=cleanest.name)
    else:
        words = "{db:.0f} dB of headroom over everyday playing." if headroom > 0 else \
            "it breaks up {db:.0f} dB below everyday playing."  # fmt: skip
        code = f"{voiced.code}.{'headroom' if headroom > 0 else 'below'}"
        answer.tell(code, begun + words, setting=cleanest.name, db=abs(headroom))
    if abs(gain) > UNITY_DB:
        way = "up" if gain < 0 else "down"
        answer.tell(f"turn_{way}", f"Turn its level {way} by {{db:.0f}} dB to be as loud as bypass.", db=abs(gain))
    answer.show(cleanest, "headroom_db", "p1db_dbfs", "gain_db", "transparency_db", "low_end_loss_db")
    dirtiest = min(able, key=_drive_at)
    both = distinct(cleanest, dirtiest)
    answer.picture = picture_of("Response", "Hz", "gain, dB", both, "response", log_x=True)
    answer.proof = tuple(p.ident for p in both)
    return answer


def _colour(colour: float | None) -> Said:
    if colour is None:
        return Said("unjudged", "not judged for colour")
    if colour < TRANSPARENT_DB:
        return Said("wire", "close to a wire")
    return Said("coloured", "coloured a little") if colour < COLOURED_DB else Said("voiced", "strongly voiced")


def tone_controls(probes: Sequence[Probe], controls: Sequence[Control]) -> Answer:
    """What each tone control moves, and what is left of that with the drive up."""
    answer = Answer(*QUESTIONS[3])
    found = knob_answers(probes, controls)
    told = [knob for knob in found if knob.told]
    if not told:
        tones = [c.name for c in controls if role_of(c) in ("tone", "bass", "mids", "treble", "presence")]
        if tones:
            words = "Measure it with {knob} down, at noon and full up, the rest untouched."
            answer.lacks("measure_tone", words, knob=tones[0])
        else:
            answer.lacks("no_tone_control", "No tone control is noted for it.")
        return answer
    answer.told = [one for knob in told for one in knob.told]
    strongest = max(told, key=lambda knob: knob.span)
    ends = [probe for probe in (strongest.lowest, strongest.highest) if probe is not None]
    answer.picture = picture_of(f"Response with {strongest.name}", "Hz", "gain, dB", ends, "response", log_x=True)
    answer.proof = tuple(p.ident for p in ends)
    answer.lacking = next((knob.lacking for knob in told if knob.lacking), None)
    return answer


def four_questions(probes: Sequence[Probe], controls: Sequence[Control]) -> list[Answer]:
    """The four answers in order; of a compressor those that are asked of one."""
    probes = told_apart(probes, controls)
    if squeezes_only(probes):
        return [*squeeze_questions(probes, controls), clean(probes, controls)]
    return [most(probes, controls), pleasant(probes), clean(probes, controls), tone_controls(probes, controls)]
