"""Knob authority from probes: what each knob moves, in which part of its travel, what a drive knob leaves of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from cata.core.evidence.maps import knob_map
from cata.core.evidence.probe import REGION_BANDS, SAME_POSITION, Probe, same_but
from cata.core.evidence.stages import standing, why_not_told
from cata.core.evidence.targets import GAIN, LEAST_DB, Target, targets_of
from cata.core.gear import Control, show_position
from cata.core.plan.condition import TONE_ROLES, role_of
from cata.said import Said, Telling, said

LOST_SHARE = 0.5


@dataclass
class KnobAnswer(Telling):
    """What one knob does: the region or reading it moves most, by how much, where, and with what doubt.

    ``curves`` hold positions, values and measured points; ``left_out`` the error of settings foretold from the others.
    """

    key: str
    name: str
    moves: str = ""
    span: float = 0.0
    unit: str = "dB"
    useful: tuple[float, float] | None = None
    reverses: bool = False
    left_out: float | None = None
    curve: list[tuple[float, float]] | None = None
    points: list[tuple[float, float]] | None = None
    lowest: Probe | None = None
    highest: Probe | None = None
    refusal: Said | None = None
    stands: Said | None = None
    map: dict[str, Any] | None = None


def _reading(probe: Probe, what: str) -> float | None:
    return probe.region_db(what) if what in REGION_BANDS else probe.number(what)


def series_of(probes: Sequence[Probe], knob: str) -> list[Probe]:
    """The longest run of probes that differ in one knob only, by its position."""
    best: list[Probe] = []
    for anchor in probes:
        run = [p for p in probes if same_but(p, anchor, (knob,))]
        places = {round(p.settings.get(knob, 0.5), 2): p for p in run}
        if len(places) > len(best):
            best = [places[place] for place in sorted(places)]
    return best


def knob_answer(probes: Sequence[Probe], control: Control, controls: Sequence[Control]) -> KnobAnswer:
    """What one knob does, from the probes at hand."""
    from cata.core.measure.authority import Sweep, authority

    answer = KnobAnswer(control.key, control.name)
    run = series_of(probes, control.key)
    if len(run) < 2:
        answer.refusal = Said("too_few_positions", "measure it at three positions or more, the other knobs untouched")
        return answer
    best: tuple[float, Target, list[tuple[float, float]]] | None = None
    for target in targets_of(control, run):
        points = [(p.settings.get(control.key, 0.5), v) for p in run if (v := target.of(p)) is not None]
        if len(points) >= 2:
            steps = target.steps([v for _, v in points])
            if best is None or steps > best[0]:
                best = (steps, target, points)
    if best is None:
        answer.refusal = Said("reading_refused", "the reading it moves was refused at these settings")
        return answer
    steps, target, answer.points = best
    values = [v for _, v in answer.points]
    answer.span, answer.moves, answer.unit = max(values) - min(values), target.name, target.unit
    answer.lowest, answer.highest = run[0], run[-1]
    band = max((p.results.bands.get(target.key, 0.0) for p in run), default=0.0)
    if steps < 1.0 or answer.span < band:
        words = f"{{knob}} does nothing that can be heard ({{span:.1f}} {answer.unit})."
        answer.tell("does_nothing", words, knob=control.name, span=answer.span)
        return answer
    sweep = Sweep.of(answer.points, band)
    (low, first), (high, last) = answer.points[0], answer.points[-1]
    answer.told.append(target.told(control.name, first, last, (_at(control, low), _at(control, high))))
    if target is GAIN:
        answer.told.append(_as_boost(min(first, last), max(first, last)))
    found = authority(sweep)
    if isinstance(found.value, dict):
        answer.useful = (float(found.value["useful_from"] or 0), float(found.value["useful_to"] or 0))
        answer.reverses = found.value["reverses"] == "yes"
        answer.left_out = sweep.left_out
        x, y = sweep.curve()
        answer.curve = [(round(float(a), 4), round(float(b), 3)) for a, b in zip(x[::5], y[::5], strict=True)]
        if answer.useful[1] - answer.useful[0] < 0.5:
            start, end = (_at(control, place) for place in answer.useful)
            answer.tell("most_between", "Most of it happens between {start} and {end}.", start=start, end=end)
        if answer.reverses:
            answer.tell("turns_back", "It turns back on its way.")
    elif control.scale != "labels" or len(control.labels) > len(answer.points):
        words = "Measure {knob} at noon too: the way between its ends is not known."
        if control.scale == "labels":
            words = "Measure {knob} in its other positions too."
        answer.lacks("measure_at_noon", words, knob=control.name)
    place = standing(run[0], run[-1])
    answer.stands = place.said if place else why_not_told(run[0], run[-1])
    _with_drive(answer, probes, control, controls, target)
    return answer


def _as_boost(low: float, high: float) -> Said:
    """The range of a gain: whether it boosts, turns down, or both."""
    span = "From {low_db:+.0f} to {high_db:+.0f} dB"
    if low <= -LEAST_DB and high >= LEAST_DB:
        words = span + ": it boosts, and below unity it serves as an attenuator."
        return said("boosts_and_attenuates", words, low_db=low, high_db=high)
    if high < -LEAST_DB:
        return said("never_unity", span + ": it never reaches unity.", low_db=low, high_db=high)
    return said("gain_range", span + ".", low_db=low, high_db=high)


def _at(control: Control, position: float) -> str:
    return show_position(control, position)


def _with_drive(
    answer: KnobAnswer, probes: Sequence[Probe], control: Control, controls: Sequence[Control], target: Target
) -> None:
    """What the drive knob leaves of a tone control: its change with the drive down against its change with it up."""
    drive = next((c for c in controls if role_of(c) == "gain"), None)
    if drive is None or role_of(control) not in TONE_ROLES:
        return
    changes: dict[float, float] = {}
    for anchor in probes:
        at = round(anchor.settings.get(drive.key, 0.5), 2)
        run = [p for p in probes if same_but(p, anchor, (control.key,))]
        points = sorted((p.settings.get(control.key, 0.5), v) for p in run if (v := target.of(p)) is not None)
        if len(points) >= 2 and points[-1][0] - points[0][0] > 0.5:
            changes[at] = points[-1][1] - points[0][1]
    if len(changes) < 2 or max(changes) - min(changes) < 0.3:
        if answer.lacking is None:
            words = "Measure {knob} down and up with {drive} full up too."
            answer.lacks("measure_with_drive_up", words, knob=control.name, drive=drive.name)
        return
    low, high = changes[min(changes)], changes[max(changes)]
    kept = high / low if abs(low) > LEAST_DB else 1.0
    up = _at(drive, max(changes))
    if kept < LOST_SHARE:
        words = "With {drive} at {at} only {db:.0f} dB of that are left."
        answer.tell("lost_with_drive", words, drive=drive.name, at=up, db=abs(high))
    else:
        words = "It still does with {drive} at {at} ({db:.0f} dB)."
        answer.tell("kept_with_drive", words, drive=drive.name, at=up, db=abs(high))
    found = knob_map(probes, control.key, drive.key, target.key, _reading)
    if found is not None:
        answer.map = vars(found) | {"other_name": drive.name, "moves": answer.moves}


def knob_answers(probes: Sequence[Probe], controls: Sequence[Control], *, tonal: bool = True) -> list[KnobAnswer]:
    """Every tone control (or every control), in their order."""
    return [
        knob_answer(probes, control, controls) for control in controls if not tonal or role_of(control) in TONE_ROLES
    ]


FORETOLD = (("gain_db", "Gain"), ("breakup_dbfs.3", "Breakup"), ("transparency_db", "Colour"),
            *((region, region.capitalize()) for region in REGION_BANDS))  # fmt: skip


@dataclass(frozen=True)
class Foretold:
    """A reading at a position: its value, whether it was measured there, and how far a foretold one lies off."""

    name: str
    value: float
    measured: bool
    left_out: float | None


def foretold(
    probes: Sequence[Probe], control: Control, position: float, names: Sequence[tuple[str, str]] = FORETOLD
) -> list[Foretold]:
    """What a knob gives at a position, measured there or drawn between its neighbours; nothing beyond or without them.

    ``left_out`` is the error of measured positions foretold from the others, None with fewer than four.
    """
    from cata.core.measure.authority import Sweep

    run = series_of(probes, control.key)
    found = []
    for key, name in names:
        points = [(p.settings.get(control.key, 0.5), v) for p in run if (v := _reading(p, key)) is not None]
        places = [place for place, _ in points]
        if len(points) < 2 or not min(places) - SAME_POSITION <= position <= max(places) + SAME_POSITION:
            continue
        sweep = Sweep.of(points)
        here = any(abs(place - position) <= SAME_POSITION for place in places)
        found.append(Foretold(name, sweep.at(position), here, None if here else sweep.left_out))
    return found
