"""Findings from what was declared: chains that differ, settings nobody wrote down, knobs a contender lacks."""

from __future__ import annotations

from sqlmodel import Session, col, select

from cata.core.match.finding import RULE_NAMES
from cata.core.plan.condition import unanswered
from cata.core.words import plural
from cata.services.match.repeating import FlightRepeats
from cata.services.match.views import FindingView
from cata.services.plan.planning import declared_differences, missing_of
from cata.services.plan.setups import Setups, condition_of, load_setups
from cata.store.tables import Flight, Take

SHOWN = 4
GUESSED_KINDS = ("amplifier", "speaker")


def declared_findings(session: Session, flight: Flight, repeats: FlightRepeats) -> list[FindingView]:
    """What the plan itself shows to be unmatched; and drifts of the anchors."""
    found = _drifts(session, repeats)
    if not flight.chain:
        return found
    setups = load_setups(session, flight)
    found += _differences(setups)
    found += _mute(setups)
    found += _used(session, setups)
    if missing := missing_of(setups):
        more = f" and {len(missing) - SHOWN} more" if len(missing) > SHOWN else ""
        found.append(
            _view(
                "not_written_down",
                "note",
                f"Not written down: {', '.join(missing[:SHOWN])}{more}.",
                "Write it down on the plan while the room still stands: later nobody can check or repeat it.",
            )
        )
    return found


def _view(
    rule: str,
    severity: str,
    text: str,
    advice: str,
    *,
    contender_id: int | None = None,
    test_id: int | None = None,
    take_id: int | None = None,
) -> FindingView:
    return FindingView(
        id=0,
        take_id=take_id,
        contender_id=contender_id,
        test_id=test_id,
        rule=rule,
        rule_name=RULE_NAMES[rule],
        severity=severity,
        text=text,
        advice=advice,
        picture=None,
        accepted=False,
    )


def _differences(setups: Setups) -> list[FindingView]:
    found = []
    for contender in setups.contenders:
        unwanted = [d for d in declared_differences(setups, contender) if not d.wanted]
        for rule, mine in _by_rule(setups, [(d.key, d.text) for d in unwanted]).items():
            found.append(
                _view(
                    rule,
                    "fault" if rule == "voiced_for_one" else "check",
                    f"{contender.name}: {'; '.join(mine[:SHOWN])}.",
                    "Set it as for the others, or say on the plan that this difference is meant.",
                    contender_id=contender.id,
                )
            )
    return found


def _by_rule(setups: Setups, differences: list[tuple[str, str]]) -> dict[str, list[str]]:
    """Knobs of the amplifier that stand otherwise for one contender are the mistake with a name of its own."""
    amplifiers = {link.key for link in setups.base.links if link.kind in GUESSED_KINDS}
    amplifiers.discard(setups.compared.key)
    rules: dict[str, list[str]] = {}
    for key, text in differences:
        device, _, knob = key.partition("/")
        rule = "voiced_for_one" if knob and device in amplifiers else "differs"
        rules.setdefault(rule, []).append(text)
    return rules


def _mute(setups: Setups) -> list[FindingView]:
    found = []
    for test in setups.tests:
        condition = condition_of(test)
        for contender in setups.contenders:
            controls = setups.controls_of(setups.chain_of(contender)).get(setups.compared.key, [])
            if contender.is_bypass or not controls:
                continue
            if missing := unanswered(condition, controls):
                found.append(
                    _view(
                        "no_answer",
                        "note",
                        f"{contender.name} has no {' and no '.join(missing)} knob, which “{test.name}” turns.",
                        "Its take repeats another one; leave the cell empty, or compare it in the other tests.",
                        contender_id=contender.id,
                        test_id=test.id,
                    )
                )
    return found


def _used(session: Session, setups: Setups) -> list[FindingView]:
    found = []
    names = {contender.id: contender.name for contender in setups.contenders}
    statement = select(Take).where(Take.flight_id == setups.flight.id, col(Take.test_id).is_not(None))
    for take in session.exec(statement).all():
        if take.used:
            said = "; ".join(f"{key.split('/')[-1]} {text}" for key, text in list(take.used.items())[:SHOWN])
            found.append(
                _view(
                    "used_otherwise",
                    "check",
                    f"{names.get(take.contender_id, 'A take')} was played with {said}.",
                    "Record it again as planned, or keep it and remember what it is.",
                    contender_id=take.contender_id,
                    test_id=take.test_id,
                    take_id=take.id,
                )
            )
    return found


def _drifts(session: Session, repeats: FlightRepeats) -> list[FindingView]:
    """One finding a take, naming what moved most against what can be heard."""
    by_take: dict[int, list[str]] = {}
    for moved in repeats.moved:
        amount = f"{moved.drift.change:+.{moved.reading.decimals}f} {moved.reading.step_unit}".strip()
        by_take.setdefault(moved.take_id, []).append(f"{moved.reading.name.lower()} {amount}")
    found = []
    for take_id, words in by_take.items():
        take = session.get_one(Take, take_id)
        rest = f" and {plural(len(words) - SHOWN, 'more reading')}" if len(words) > SHOWN else ""
        found.append(
            _view(
                "drift",
                "check",
                f"The anchor moved from its first to its last take: {', '.join(words[:SHOWN])}{rest}.",
                "Something changed meanwhile (valves, strings, hands, microphone). Compare takes close in time, "
                "or record again.",
                contender_id=take.contender_id,
                test_id=take.test_id,
                take_id=take_id,
            )
        )
    return found
