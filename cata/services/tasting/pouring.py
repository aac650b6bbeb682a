"""One trial after another: what stands before a taster, its sound, and the answer."""

from __future__ import annotations

import hashlib
import hmac

from sqlmodel import Session, col, select

from cata.core.taste.rounds import Trial, kept, trial_of
from cata.errors import Conflict, Invalid, NotFound
from cata.services.tasting.table import Table
from cata.services.tasting.tastings import answers_of, given, open_tasting, rounds_of, taster_of
from cata.services.tasting.views import AnswerIn, GlassView, TrialView
from cata.services.workspace import Workspace
from cata.store.tables import Answer, Taster, Tasting

TICKET = 32


def get_trial(ws: Workspace, tasting_id: int, taster_id: int) -> TrialView:
    """What this taster is asked now."""
    with ws.reading() as session:
        row = open_tasting(session, tasting_id)
        taster = taster_of(session, tasting_id, taster_id)
        trial, last = _trial(session, row, taster)
        rounds = rounds_of(row)
    if trial is None:
        return TrialView(rounds=len(rounds), back=last is not None)
    table = Table(ws, row)
    table.pour(rounds[trial.round], {_ticket(row, taster, trial, one.label): one.holds for one in trial.glasses})
    return TrialView(
        round=trial.round + 1, rounds=len(rounds), kind=trial.kind, number=trial.number, of=trial.of,
        glasses=[GlassView(label=one.label, url=_url(row, taster, trial, one.label)) for one in trial.glasses],
        length_s=round(table.stretch.length_s, 3), back=last is not None,
    )  # fmt: skip


def pour(ws: Workspace, tasting_id: int, taster_id: int, ticket: str) -> bytes:
    """The sound behind a ticket of the trial that is open, as a WAV file of 24 bits; NotFound for any other ticket."""
    with ws.reading() as session:
        row = open_tasting(session, tasting_id)
        taster = taster_of(session, tasting_id, taster_id)
        trial, _ = _trial(session, row, taster)
    tickets = {_ticket(row, taster, trial, one.label): one.holds for one in trial.glasses} if trial else {}
    if trial is None or not any(hmac.compare_digest(one, ticket) for one in tickets):
        raise NotFound("glass", "of this trial")
    table = Table(ws, row)
    table.pour(rounds_of(row)[trial.round], tickets)
    return table.glass(ticket)


def answer(ws: Workspace, tasting_id: int, taster_id: int, data: AnswerIn) -> TrialView:
    """Keep an answer and say what comes next. Conflict where another trial is open, Invalid where it is no answer."""
    with ws.writing() as session:
        row = open_tasting(session, tasting_id)
        taster = taster_of(session, tasting_id, taster_id)
        trial, _ = _trial(session, row, taster)
        if trial is None or (trial.round + 1, trial.number) != (data.round, data.number):
            raise Conflict("this was answered already, perhaps in another window", "answered")
        try:
            what = kept(trial, data.model_dump(exclude_none=True))
        except ValueError as error:
            raise Invalid(str(error), "no_answer") from error
        session.add(Answer(taster_id=taster_id, round=trial.round, trial=trial.number - 1, what=what, at=ws.now()))
    ws.changed("An answer")
    return get_trial(ws, tasting_id, taster_id)


def take_back(ws: Workspace, tasting_id: int, taster_id: int) -> TrialView:
    """Take the last answer back: the same glasses stand there again. Conflict where there is none."""
    with ws.writing() as session:
        open_tasting(session, tasting_id)
        taster_of(session, tasting_id, taster_id)
        last = session.exec(
            select(Answer)
            .where(Answer.taster_id == taster_id)
            .order_by(col(Answer.round).desc(), col(Answer.trial).desc())
        ).first()
        if last is None:
            raise Conflict("nothing was answered yet", "nothing_answered")
        session.delete(last)
    ws.changed("An answer taken back")
    return get_trial(ws, tasting_id, taster_id)


def _trial(session: Session, row: Tasting, taster: Taster) -> tuple[Trial | None, Answer | None]:
    answers = answers_of(session, [taster])[taster.id or 0]
    return trial_of(rounds_of(row), row.seed, taster.number, given(answers)), answers[-1] if answers else None


def _ticket(row: Tasting, taster: Taster, trial: Trial, label: str) -> str:
    place = f"{row.id}/{taster.number}/{trial.round}/{trial.number}/{label}"
    return hmac.new(row.seed.encode(), place.encode(), hashlib.sha256).hexdigest()[:TICKET]


def _url(row: Tasting, taster: Taster, trial: Trial, label: str) -> str:
    return f"/api/tastings/{row.id}/tasters/{taster.id}/glass/{_ticket(row, taster, trial, label)}"
