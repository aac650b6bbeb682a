"""One trial after another: what stands before a taster, its sound, and the answer."""

from __future__ import annotations

import hashlib
import hmac
import io

import numpy as np
from sqlmodel import Session, col, select

from cata.core.clip import Clip
from cata.core.taste.glass import common, glass
from cata.core.taste.rate import ANCHOR, REFERENCE
from cata.core.taste.rounds import Trial, kept, trial_of
from cata.errors import Conflict, Invalid, NotFound
from cata.media.decode import decode
from cata.media.encode import write_wav_to
from cata.services.listen.tray import get_tray
from cata.services.tasting.tastings import answers_of, given, open_tasting, rounds_of, taster_of
from cata.services.tasting.views import AnswerIn, GlassView, TrialView
from cata.services.workspace import Workspace
from cata.store.tables import Answer, Take, Taster, Tasting

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
    takes = _takes(ws, row)
    return TrialView(
        round=trial.round + 1, rounds=len(rounds), kind=trial.kind, number=trial.number, of=trial.of,
        glasses=[GlassView(label=one.label, url=_url(row, taster, trial, one.label)) for one in trial.glasses],
        length_s=round(common([(lag, duration) for _, lag, _, duration in takes]).length_s, 3), back=last is not None,
    )  # fmt: skip


def pour(ws: Workspace, tasting_id: int, taster_id: int, ticket: str) -> bytes:
    """The sound behind a ticket of the trial that is open, as a WAV file of 24 bits; NotFound for any other ticket."""
    with ws.reading() as session:
        row = open_tasting(session, tasting_id)
        taster = taster_of(session, tasting_id, taster_id)
        trial, _ = _trial(session, row, taster)
    labels = [one.label for one in trial.glasses] if trial is not None else []
    label = next((one for one in labels if trial and hmac.compare_digest(_ticket(row, taster, trial, one), ticket)), "")
    if trial is None or not label:
        raise NotFound("glass", "of this trial")
    holds = trial.holds(label)
    reference = rounds_of(row)[trial.round].reference or 0
    takes = _takes(ws, row)
    digest, lag, gain_db, _ = takes[reference if holds in (REFERENCE, ANCHOR) else holds]
    clip = decode(ws.vault.copy_path(digest)).clip
    stretch = common([(lag, duration) for _, lag, _, duration in takes])
    samples = glass(clip.samples, clip.rate_hz, lag, gain_db, stretch, np.random.default_rng(), dulled=holds == ANCHOR)
    out = io.BytesIO()
    write_wav_to(Clip(samples, clip.rate_hz), out)
    return out.getvalue()


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


def _takes(ws: Workspace, row: Tasting) -> list[tuple[str, float, float, float]]:
    """Digest, lag, gain and duration of what is poured. Conflict where a take is another than when it was set up."""
    tray = get_tray(ws, row.flight_id, row.test_id, row.school)  # type: ignore[arg-type]
    by_contender = {take.contender_id: take for take in tray.takes}
    found = [by_contender.get(ident) for ident in row.contenders]
    with ws.reading() as session:
        digests = [session.get(Take, take.take_id) if take is not None else None for take in found]
    if [one.digest if one is not None else "" for one in digests] != row.digests:
        raise Conflict("a take was recorded again since this tasting was set up: set up another", "other_takes")
    return [
        (digest, take.lag_s, take.gain_db, take.duration_s)
        for digest, take in zip(row.digests, found, strict=True)
        if take is not None
    ]


def _ticket(row: Tasting, taster: Taster, trial: Trial, label: str) -> str:
    place = f"{row.id}/{taster.number}/{trial.round}/{trial.number}/{label}"
    return hmac.new(row.seed.encode(), place.encode(), hashlib.sha256).hexdigest()[:TICKET]


def _url(row: Tasting, taster: Taster, trial: Trial, label: str) -> str:
    return f"/api/tastings/{row.id}/tasters/{taster.id}/glass/{_ticket(row, taster, trial, label)}"
