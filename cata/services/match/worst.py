"""The worst that was found of each take."""

from __future__ import annotations

from sqlmodel import Session, col, select

from cata.store.tables import Accepted, Finding


def worst_findings(session: Session, *flights: int) -> dict[int, str]:
    """The worst severity of each take's findings that nobody accepted (notes left out)."""
    accepted = set(session.exec(select(Accepted.take_id, Accepted.rule)).all())
    worst: dict[int, str] = {}
    # Without their pictures, which are most of a finding.
    found = select(Finding.take_id, Finding.rule, Finding.severity).where(
        col(Finding.flight_id).in_(flights), Finding.severity != "note"
    )
    for take_id, rule, severity in session.exec(found).all():
        if (take_id, rule) not in accepted and worst.get(take_id) != "fault":
            worst[take_id] = severity
    return worst
