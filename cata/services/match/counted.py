"""The takes that count in what is said of contenders, with those of their readings that count."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence

from sqlmodel import Session, col, select

from cata.core.match.finding import DOUBTED, EVERY_FAMILY, RULE_NAMES
from cata.core.measure.registry import BY_KEY
from cata.core.measure.results import Results
from cata.said import Said
from cata.services.flights.rows import contenders_of, tests_of
from cata.services.match.worst import open_findings
from cata.services.takes.rows import readings_of
from cata.store.tables import Contender, Take


def counted(
    session: Session, placed: Sequence[tuple[Take, Contender]], keys: Collection[str] | None = None
) -> list[tuple[Take, Contender, Results]]:
    """The takes that need not be recorded again, each with its readings less those that a finding puts in doubt.

    ``keys``: the readings that are wanted, or all of them.
    """
    found = open_findings(session, *{take.flight_id for take, _ in placed})
    able = [
        (take, contender)
        for take, contender in placed
        if "fault" not in found.get(take.id or 0, {}).values() and not _whole(found.get(take.id or 0, {}))
    ]
    wanted = [take.id or 0 for take, _ in able]
    readings = (
        readings_of(session, wanted, keys or ()) if keys is None or keys else {take: Results() for take in wanted}
    )
    return [
        (take, contender, _without(readings[take.id or 0], found.get(take.id or 0, {}))) for take, contender in able
    ]


def left_out_of(session: Session, flight_id: int) -> list[Said]:
    """What counts nowhere yet in a flight, take by take, and why."""
    rows = {one.id: one.name for one in contenders_of(session, flight_id)}
    columns = {one.id: one.name for one in tests_of(session, flight_id)}
    found = open_findings(session, flight_id)
    told = []
    for take in session.exec(select(Take).where(col(Take.id).in_(found)).order_by(col(Take.id))).all():
        rules = found[take.id or 0]
        where = f"{rows.get(take.contender_id, '')}, {columns.get(take.test_id, '')}"
        for rule, severity in rules.items():
            what = RULE_NAMES.get(rule, rule)
            what = f"{where}: {what[0].lower()}{what[1:]}"
            if severity == "fault":
                told.append(Said("left_out", f"{what}. Counts nowhere until it is recorded again or kept."))
                break
            if rule in DOUBTED:
                part = "It" if _whole({rule: severity}) else "Its tone"
                told.append(Said("left_out", f"{what}. {part} counts nowhere until you look at it in Match."))
                break
    return told


def _whole(rules: Mapping[str, str]) -> bool:
    """Whether all of a take is in doubt: it may be another's."""
    return any(DOUBTED.get(rule) == EVERY_FAMILY for rule in rules)


def _without(results: Results, rules: Mapping[str, str]) -> Results:
    """Readings less those of the families that a take's open findings put in doubt."""
    families = {family for rule in rules for family in DOUBTED.get(rule, ())}
    if not families:
        return results
    return Results({key: one for key, one in results.items() if BY_KEY[key].family not in families})
