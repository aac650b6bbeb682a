"""The worst that was found of each take."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection

from sqlmodel import Session, col, select

from cata.core.match.finding import RULE_NAMES
from cata.services.match.accepting import Kept
from cata.store.tables import Finding, Take


def open_findings(session: Session, *flights: int) -> dict[int, dict[str, str]]:
    """The severity of each take's findings that nobody accepted, by rule (notes left out)."""
    kept = Kept(session, *flights)
    told: dict[int, dict[str, str]] = defaultdict(dict)
    # Without their pictures, which are most of a finding.
    found = (
        select(Finding.take_id, Take.contender_id, Finding.rule, Finding.severity)
        .join(Take, col(Take.id) == Finding.take_id)
        .where(col(Finding.flight_id).in_(flights), Finding.severity != "note")
    )
    for take_id, contender_id, rule, severity in session.exec(found).all():
        if not kept.keeps(take_id, contender_id, rule) and told[take_id].get(rule) != "fault":
            told[take_id][rule] = severity
    return {take_id: rules for take_id, rules in told.items() if rules}


def worst_findings(session: Session, *flights: int) -> dict[int, str]:
    """The worst severity of each take's findings that nobody accepted (notes left out)."""
    told = open_findings(session, *flights)
    return {take_id: "fault" if "fault" in rules.values() else "check" for take_id, rules in told.items()}


def to_play_again(session: Session, flight_id: int, *, but: Collection[str] = ()) -> dict[int, str]:
    """The takes that cannot be used as they are, with the name of the first thing found of each.

    ``but``: what these rules find does not count.
    """
    kept = Kept(session, flight_id)
    found = (
        select(Finding.take_id, Take.contender_id, Finding.rule)
        .join(Take, col(Take.id) == Finding.take_id)
        .where(Finding.flight_id == flight_id, Finding.severity == "fault", col(Finding.rule).not_in(but))
        .order_by(col(Finding.id))
    )
    again: dict[int, str] = {}
    for take_id, contender_id, rule in session.exec(found).all():
        if not kept.keeps(take_id, contender_id, rule):
            name = RULE_NAMES.get(rule, rule)
            again.setdefault(take_id, name[0].lower() + name[1:])
    return again


def to_be_left_out(session: Session, *flights: int) -> set[int]:
    """The takes that count nowhere: to be recorded again, and kept by nobody."""
    return {take_id for take_id, severity in worst_findings(session, *flights).items() if severity == "fault"}
