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

UNITY_DB = 3.0
TRANSPARENT_DB, COLOURED_DB = 1.0, 3.0
WORDS_FOR_MOST = (
    (3, "stays clean"), (10, "takes on an edge"), (25, "overdrives"), (38.0, "distorts strongly"), (1e9, "saturates"),
)  # fmt: skip
SUDDEN_DB, GRADUAL_DB = 3.0, 9.0
DRIVING_PERCENT = 3.0
FULL_SHARE, SATURATED_PERCENT = 0.85, 38.0
NOT_YET = "Measure it with the drive full up."
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
        turn = f": turn {gain.name} up and measure again." if gain else "."
        answer.missing = f"None of the settings measured distorts{turn}" if probes else NOT_YET
        return answer
    # Whatever saturates ends at about the same share: the most is had where it is had soonest.
    most_percent = max(_peak_percent(probe) for probe in able)
    full = [probe for probe in able if _peak_percent(probe) >= min(FULL_SHARE * most_percent, SATURATED_PERCENT)]
    dirtiest = min(full, key=lambda p: (_drive_at(p), -_peak_percent(p)))
    cleanest = max(able, key=_drive_at)
    share = _peak_percent(dirtiest)
    word = next(word for limit, word in WORDS_FOR_MOST if share < limit)
    onset = dirtiest.number("breakup_dbfs.3")
    answer.sentence = f"It {word}: up to {share:.0f} % of distortion at {dirtiest.name}"
    answer.sentence += f"; 3 % is reached {_level_words(onset)}." if onset is not None else "."
    answer.show(dirtiest, "thd_max_percent", "breakup_dbfs.3", "breakup_dbfs.10", "noise_below_db")
    if gain and max(p.settings.get(gain.key, 0.5) for p in able) < 0.95:
        answer.missing = f"Not measured with {gain.name} full up yet: there may be more."
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


def _level_words(onset: float) -> str:
    where = "under soft playing" if onset < -35 else "under everyday playing" if onset < -15 else "when played hard"
    return f"at {onset:.0f} dBFS, {where}".replace("-", "−")


def pleasant(probes: Sequence[Probe]) -> Answer:
    """How the dirt sounds where there is dirt: knee, touch, even against odd, chords, bite, lows."""
    answer = Answer(*QUESTIONS[1])
    able = [p for p in probes if (p.number("thd_max_percent") or 0.0) >= DRIVING_PERCENT]
    # Where some settings break up under everyday playing, those are what is judged.
    driven = [p for p in able if (p.number("headroom_db") or 0.0) < 0.0] or able
    if not driven:
        answer.missing = "None of the settings measured distorts: turn it up and measure again."
        return answer
    best = min(driven, key=_roughness)
    worst = max(driven, key=_roughness)
    knee, even = best.number("knee_db"), best.number("even_odd_db")
    words = [
        "distorts" if knee is None else "breaks up suddenly" if knee < SUDDEN_DB
        else "breaks up gradually" if knee > GRADUAL_DB else "breaks up over a few dB",
    ]  # fmt: skip
    if even is not None:
        words.append("with thick, even overtones" if even > -3 else "with edgy, odd overtones" if even < -20
                     else "with even and odd overtones mixed")  # fmt: skip
    give = best.number("slope_above_db_per_db")
    if give is not None:
        words.append("and holds its level like a wall" if give < 0.15 else "and keeps swelling under a harder hand")
    answer.sentence = f"At its best ({best.name}) it {' '.join(words)}."
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
        answer.missing = "One driven setting only: measure another to find the better one."
    return answer


def _roughness(probe: Probe) -> float:
    """Muddy chords and bite together, in dB: a rough order, shown with its parts."""
    return (probe.number("chord_clarity_db") or 0.0) + (probe.number("harshness_db") or 0.0)


def clean(probes: Sequence[Probe], controls: Sequence[Control]) -> Answer:
    """The setting with most headroom, how far it strays from a wire there (level aside), and from unity."""
    answer = Answer(*QUESTIONS[2])
    able = [p for p in probes if p.number("gain_db") is not None]
    if not able:
        answer.missing = "Every setting measured distorts at every level: measure it with the drive down."
        return answer
    cleanest = max(able, key=_drive_at)
    colour, gain = cleanest.number("transparency_db"), cleanest.number("gain_db") or 0.0
    words = "not judged for colour" if colour is None else "close to a wire" if colour < TRANSPARENT_DB else \
        "coloured a little" if colour < COLOURED_DB else "strongly voiced"  # fmt: skip
    headroom = cleanest.number("headroom_db")
    room = "it never reaches 3 % of distortion" if headroom is None else \
        f"{headroom:.0f} dB of headroom over everyday playing" if headroom > 0 else \
        f"it breaks up {-headroom:.0f} dB below everyday playing"  # fmt: skip
    answer.sentence = f"Cleanest at {cleanest.name}: {words}, {room}."
    if abs(gain) > UNITY_DB:
        way = "up" if gain < 0 else "down"
        answer.sentence += f" Turn its level {way} by {abs(gain):.0f} dB to be as loud as bypass."
    answer.show(cleanest, "headroom_db", "p1db_dbfs", "gain_db", "transparency_db", "low_end_loss_db")
    dirtiest = min(able, key=_drive_at)
    both = distinct(cleanest, dirtiest)
    answer.picture = picture_of("Response", "Hz", "gain, dB", both, "response", log_x=True)
    answer.proof = tuple(p.ident for p in both)
    return answer


def tone_controls(probes: Sequence[Probe], controls: Sequence[Control]) -> Answer:
    """What each tone control moves, and what is left of that with the drive up."""
    answer = Answer(*QUESTIONS[3])
    found = knob_answers(probes, controls)
    told = [knob for knob in found if knob.sentence]
    if not told:
        tones = [c.name for c in controls if role_of(c) in ("tone", "bass", "mids", "treble", "presence")]
        answer.missing = (
            f"Measure it with {tones[0]} down, at noon and full up, the rest untouched." if tones
            else "No tone control is noted for it."
        )  # fmt: skip
        return answer
    answer.sentence = " ".join(knob.sentence for knob in told)
    strongest = max(told, key=lambda knob: knob.span)
    ends = [probe for probe in (strongest.lowest, strongest.highest) if probe is not None]
    answer.picture = picture_of(f"Response with {strongest.name}", "Hz", "gain, dB", ends, "response", log_x=True)
    answer.proof = tuple(p.ident for p in ends)
    answer.missing = next((knob.missing for knob in told if knob.missing), "")
    return answer


def four_questions(probes: Sequence[Probe], controls: Sequence[Control]) -> list[Answer]:
    """The four answers in order; of a compressor those that are asked of one."""
    probes = told_apart(probes, controls)
    if squeezes_only(probes):
        return [*squeeze_questions(probes, controls), clean(probes, controls)]
    return [most(probes, controls), pleasant(probes), clean(probes, controls), tone_controls(probes, controls)]
