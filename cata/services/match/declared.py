"""Findings from what was declared: the plan and its takes as the rules want them."""

from __future__ import annotations

from collections.abc import Iterable

from sqlmodel import Session, col, select

from cata.core.match.finding import RULE_NAMES
from cata.core.match.rules import declared as rules
from cata.core.plan.condition import unanswered
from cata.services.match.repeating import FlightRepeats
from cata.services.match.views import FindingView
from cata.services.plan.planning import declared_differences, missing_of
from cata.services.plan.setups import Setups, condition_of, load_setups
from cata.store.tables import Flight, Take

VOICED_KINDS = ("amplifier", "speaker")


def declared_findings(session: Session, flight: Flight, repeats: FlightRepeats) -> list[FindingView]:
    """What the plan itself shows to be unmatched; and drifts of the anchors."""
    found = _drifts(session, repeats)
    if not flight.chain:
        return found
    setups = load_setups(session, flight)
    return [
        *found,
        *_differences(setups),
        *_mute(setups),
        *_used(session, setups),
        *_views(rules.not_written_down(missing_of(setups))),
    ]


def _views(
    found: Iterable[rules.Declared],
    *,
    contender_id: int | None = None,
    test_id: int | None = None,
    take_id: int | None = None,
) -> list[FindingView]:
    return [
        FindingView(
            id=0, take_id=take_id, contender_id=contender_id, test_id=test_id, rule_name=RULE_NAMES[one.rule],
            picture=None, accepted=False, **vars(one),
        )
        for one in found
    ]  # fmt: skip


def _differences(setups: Setups) -> list[FindingView]:
    voiced = {link.key for link in setups.base.links if link.kind in VOICED_KINDS} - {setups.compared.key}
    found: list[FindingView] = []
    for contender in setups.contenders:
        unwanted = [(d.key, d.text) for d in declared_differences(setups, contender) if not d.wanted]
        found += _views(rules.differs(contender.name, unwanted, voiced), contender_id=contender.id)
    return found


def _mute(setups: Setups) -> list[FindingView]:
    found: list[FindingView] = []
    for test in setups.tests:
        condition = condition_of(test)
        for contender in setups.contenders:
            controls = setups.controls_of(setups.chain_of(contender)).get(setups.compared.key, [])
            if not contender.is_bypass and controls:
                told = rules.no_answer(contender.name, test.name, unanswered(condition, controls))
                found += _views(told, contender_id=contender.id, test_id=test.id)
    return found


def _used(session: Session, setups: Setups) -> list[FindingView]:
    names = {contender.id: contender.name for contender in setups.contenders}
    statement = select(Take).where(Take.flight_id == setups.flight.id, col(Take.test_id).is_not(None))
    found: list[FindingView] = []
    for take in session.exec(statement).all():
        told = rules.used_otherwise(names.get(take.contender_id, "A take"), take.used)
        found += _views(told, contender_id=take.contender_id, test_id=take.test_id, take_id=take.id)
    return found


def _drifts(session: Session, repeats: FlightRepeats) -> list[FindingView]:
    """One finding a take, naming what moved most against what can be heard."""
    by_take: dict[int, list[str]] = {}
    for moved in repeats.moved:
        amount = f"{moved.drift.change:+.{moved.reading.decimals}f} {moved.reading.step_unit}".strip()
        by_take.setdefault(moved.take_id, []).append(f"{moved.reading.name.lower()} {amount}")
    found: list[FindingView] = []
    for take_id, changes in by_take.items():
        take = session.get_one(Take, take_id)
        found += _views(rules.drifted(changes), contender_id=take.contender_id, test_id=take.test_id, take_id=take_id)
    return found
