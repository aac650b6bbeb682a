"""The match of a flight: what the audit found, and how the takes were lined up."""

from __future__ import annotations

from sqlmodel import Session, col, select

from cata.core.match.finding import RULE_NAMES, SEVERITY_ORDER
from cata.services.derived import audits_current
from cata.services.flight_view import plural
from cata.services.views import AlignmentView, FindingView, MatchView
from cata.services.workspace import Workspace, require
from cata.store.tables import Accepted, Alignment, Finding, Flight, Take


def get_match(ws: Workspace, flight_id: int) -> MatchView:
    """Findings worst first, alignments, and one sentence."""
    with ws.reading() as session:
        require(session, Flight, flight_id)
        findings = _findings(session, flight_id)
        pending = not audits_current(session, flight_id)
        statement = select(Alignment).join(Take, col(Take.id) == Alignment.take_id).where(Take.flight_id == flight_id)
        alignments = [_alignment(row) for row in session.exec(statement).all()]
        return MatchView(
            findings=findings,
            alignments=alignments,
            summary=summary(findings, pending, len(alignments)),
            pending=pending,
        )


def summary(findings: list[FindingView], pending: bool, takes: int) -> str:
    """The state of the match in one sentence."""
    if pending:
        return "The takes are being compared."
    if not takes:
        return "Nothing to compare yet: place recordings in the table first."
    faults = {f.take_id for f in findings if f.severity == "fault" and not f.accepted}
    checks = [f for f in findings if f.severity == "check" and not f.accepted]
    if faults:
        rest = f", {plural(len(checks), 'thing')} to look at" if checks else ""
        return f"{plural(len(faults), 'take')} to redo{rest}. The others can be trusted."
    if checks:
        return f"Nothing to redo, {plural(len(checks), 'thing')} to look at."
    return f"All {takes} takes match: what differs is the gear."


def _findings(session: Session, flight_id: int) -> list[FindingView]:
    accepted = {(row.take_id, row.rule) for row in session.exec(select(Accepted)).all()}
    statement = select(Finding, Take).join(Take, col(Take.id) == Finding.take_id).where(Finding.flight_id == flight_id)
    views = [
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
            accepted=(found.take_id, found.rule) in accepted,
        )
        for found, take in session.exec(statement).all()
    ]
    order = [*SEVERITY_ORDER]
    return sorted(views, key=lambda f: (f.accepted, order.index(f.severity), f.id))  # type: ignore[arg-type]


def _alignment(row: Alignment) -> AlignmentView:
    if row.take_id == row.reference_id:
        lag = "the reference"
    elif row.lag_s is None:
        lag = "cannot be lined up"
    else:
        lag = f"{row.lag_s * 1000:+.1f} ms, {'to the sample' if row.exact else 'by its onsets'}"
    return AlignmentView(
        take_id=row.take_id,
        reference_id=row.reference_id,
        lag_text=lag,
        polarity=row.polarity,
        tempo_text="cannot tell" if row.tempo_ratio is None else f"{(row.tempo_ratio - 1) * 100:+.1f} %",
        tuning_text="cannot tell" if row.tuning_cents is None else f"{row.tuning_cents:+.1f} cents",
        same_phrase=row.same_phrase,
    )
