"""The match of a flight: what the audit found, and how the takes were lined up."""

from __future__ import annotations

from collections.abc import Mapping

from sqlmodel import Session, col, select

from cata.core.match.finding import OF_GEAR, RULE_NAMES, SEVERITY_ORDER, SURE, how_sure
from cata.core.match.size import big_enough
from cata.core.words import plural
from cata.said import Said
from cata.services.flights.rows import contenders_of, tests_of
from cata.services.match.accepting import Kept
from cata.services.match.audits import audits_current
from cata.services.match.declared import declared_findings
from cata.services.match.lags import LinedUp, lags_of
from cata.services.match.repeating import flight_repeats
from cata.services.match.views import AlignmentView, FindingView, MatchView, RedoView, ToldFinding
from cata.services.plan.cells import repeat_of
from cata.services.takes.rows import failures_of
from cata.services.workspace import Workspace, require
from cata.store.tables import Alignment, Contender, Finding, Flight, Planned, Take, Test


def get_match(ws: Workspace, flight_id: int) -> MatchView:
    """Findings worst first, alignments, and one sentence."""
    with ws.reading() as session:
        flight = require(session, Flight, flight_id)
        repeats = flight_repeats(session, flight_id)
        findings = worst_first([*_findings(session, flight_id), *declared_findings(session, flight, repeats)])
        pending = not audits_current(session, flight_id)
        statement = select(Alignment).join(Take, col(Take.id) == Alignment.take_id).where(Take.flight_id == flight_id)
        rows = session.exec(statement).all()
        lined_up = lags_of(session, [row.take_id for row in rows])
        alignments = [_alignment(row, lined_up[row.take_id]) for row in rows]
        beyond = _not_looked_at(session, flight_id)
        return MatchView(
            findings=findings,
            alignments=alignments,
            summary=summary(findings, pending, len(alignments), beyond),
            redo=_redo(session, flight_id, findings),
            repeatability=repeats.said,
            pending=pending,
            failures=failures_of(session, flight_id),
        )


def told_findings(ws: Workspace, flight_id: int) -> list[ToldFinding]:
    """The findings of a flight with the names of contender and test, worst first."""
    found = get_match(ws, flight_id).findings
    with ws.reading() as session:
        contenders = {one.id: one.name for one in contenders_of(session, flight_id)}
        tests = {one.id: one.name for one in tests_of(session, flight_id)}
    return [
        ToldFinding(
            rule=one.rule,
            severity=one.severity,
            contender=contenders.get(one.contender_id, ""),
            test=tests.get(one.test_id, ""),
            text=one.text,
            advice=one.advice,
            sure=SURE.get(one.severity, "note"),
            why=one.sure,
            accepted=one.accepted,
            numbers=one.numbers,
        )
        for one in found
    ]


def summary(findings: list[FindingView], pending: bool, takes: int, beyond: str = "") -> Said:
    """The state of the match in a sentence, then ``beyond``: what could not be looked at."""
    if pending:
        return Said("being_compared", "The takes are being compared.")
    if not takes:
        return Said("nothing_yet", "Nothing to compare yet: place recordings in the table first.")
    faults = len({(f.take_id, f.contender_id) for f in findings if f.severity == "fault" and not f.accepted})
    checks = len([f for f in findings if f.severity == "check" and not f.accepted])
    counts = {"redo": faults, "look_at": checks}
    if faults:
        rest = f", {plural(checks, 'thing')} to look at" if checks else ""
        return Said("redo", f"{plural(faults, 'take')} to redo{rest}. Nothing was found in the others.{beyond}", counts)
    if checks:
        return Said("look_at", f"Nothing to redo, {plural(checks, 'thing')} to look at.{beyond}", counts)
    return Said("match", f"All {takes} takes match: what differs is the gear.{beyond}", counts)


def _not_looked_at(session: Session, flight_id: int) -> str:
    """What the table of a flight is too small for, as a sentence after another."""
    placed = select(Take.contender_id, Take.test_id).where(Take.flight_id == flight_id, col(Take.test_id).is_not(None))
    cells = set(session.exec(placed).all())
    if big_enough({(row or 0, column or 0) for row, column in cells}):
        return ""
    return " With fewer than three contenders or tests, a moved knob or microphone may stay unseen."


def _findings(session: Session, flight_id: int) -> list[FindingView]:
    kept = Kept(session, flight_id)
    statement = select(Finding, Take).join(Take, col(Take.id) == Finding.take_id).where(Finding.flight_id == flight_id)
    rows = session.exec(statement).all()
    lined_up = lags_of(session, [found.take_id for found, _ in rows if found.rule == "lag"])
    # There are at most two of a flight: they stand in each other's place.
    exchanged = {take.id for found, take in rows if found.rule == "exchanged"}
    return [
        FindingView(
            id=found.id or 0,
            take_id=found.take_id,
            contender_id=take.contender_id,
            test_id=take.test_id,
            rule=found.rule,
            rule_name=RULE_NAMES.get(found.rule, found.rule),
            severity=found.severity,
            text=found.text,
            advice=found.advice,
            picture=found.picture,
            numbers=found.numbers,
            accepted=kept.keeps(found.take_id, take.contender_id, found.rule) or _settled(found, lined_up),
            always=kept.known(take.contender_id, found.rule),
            of_gear=found.rule in OF_GEAR,
            other_id=next(iter(exchanged - {take.id}), None) if found.rule == "exchanged" else None,
            reason=kept.reason(found.take_id, take.contender_id, found.rule),
            sure=how_sure(found.rule, found.severity),
        )
        for found, take in rows
    ]


def _settled(found: Finding, lined_up: Mapping[int, LinedUp]) -> bool:
    """Whether a take that could not be lined up has been lined up by hand."""
    one = lined_up.get(found.take_id)
    return found.rule == "lag" and found.severity != "note" and one is not None and one.by_hand


def kept_as_it_is(session: Session, flight_id: int) -> list[Said]:
    """What a person looked at and kept, take by take, with the reason where one was given."""
    rows = {one.id: one.name for one in contenders_of(session, flight_id)}
    columns = {one.id: one.name for one in tests_of(session, flight_id)}
    told = []
    for one in _findings(session, flight_id):
        if not one.accepted or one.severity == "note":
            continue
        row, column = rows.get(one.contender_id), columns.get(one.test_id)
        if row is None or column is None:
            continue
        reason = f": “{one.reason}”" if one.reason else ""
        how = "what it does" if one.always else "kept as it is"
        words = f"{row}, {column}: {one.rule_name[0].lower()}{one.rule_name[1:]}, {how}{reason}."
        told.append(Said("kept", words, {"rule": one.rule, "severity": one.severity}))
    return told


def worst_first(findings: list[FindingView]) -> list[FindingView]:
    """Open ones before accepted ones, faults before checks before notes."""
    order: list[str] = [*SEVERITY_ORDER]
    return sorted(findings, key=lambda f: (f.accepted, order.index(f.severity), f.id))


def _redo(session: Session, flight_id: int, findings: list[FindingView]) -> list[RedoView]:
    """The takes that cannot be used, each once, with its worst reason; and those marked to be done again."""
    rows = session.exec(select(Planned).where(Planned.flight_id == flight_id).order_by(col(Planned.position))).all()
    by_cell = {(row.contender_id, row.test_id, repeat_of(row.anchor)): row for row in rows}
    found: dict[int, RedoView] = {}
    names = {c.id: c.name for c in session.exec(select(Contender).where(Contender.flight_id == flight_id)).all()}
    tests = {t.id: t.name for t in session.exec(select(Test).where(Test.flight_id == flight_id)).all()}
    takes = {t.id: t for t in session.exec(select(Take).where(Take.flight_id == flight_id)).all()}

    def add(take: Take, rule: str, reason: str) -> None:
        row = by_cell.get((take.contender_id or 0, take.test_id or 0, take.repeat))
        found.setdefault(
            take.id or 0,
            RedoView(
                take_id=take.id or 0,
                contender_id=take.contender_id,
                test_id=take.test_id,
                planned_id=row.id if row is not None else None,
                name=f"{names.get(take.contender_id, '?')} · {tests.get(take.test_id, '?')}",
                rule=rule,
                reason=reason,
            ),
        )

    for finding in findings:
        if finding.severity == "fault" and not finding.accepted and finding.take_id in takes:
            add(takes[finding.take_id], finding.rule, finding.rule_name)
    marked = {(row.contender_id, row.test_id, repeat_of(row.anchor)) for row in rows if row.state == "redo"}
    for take in takes.values():
        if (take.contender_id, take.test_id, take.repeat) in marked:
            add(take, "marked", "marked to be done again")
    return list(found.values())


def _alignment(row: Alignment, lined_up: LinedUp) -> AlignmentView:
    if lined_up.reference:
        lag = "the reference"
    elif lined_up.by_hand:
        lag = f"{(lined_up.lag_s or 0.0) * 1000:+.0f} ms, by hand"
    elif row.lag_s is None:
        lag = "cannot be lined up"
    else:
        how = "to the sample" if row.doubt_s is None else f"its strokes within {max(row.doubt_s * 1000, 1.0):.0f} ms"
        lag = f"{row.lag_s * 1000:+.{1 if row.exact else 0}f} ms, {how}"
    return AlignmentView(
        take_id=row.take_id,
        reference_id=row.reference_id,
        lag_text=lag,
        polarity=row.polarity,
        tempo_text="cannot tell" if row.tempo_ratio is None else f"{(row.tempo_ratio - 1) * 100:+.1f} %",
        tuning_text="cannot tell" if row.tuning_cents is None else f"{row.tuning_cents:+.1f} cents",
        same_phrase=row.same_phrase,
    )
