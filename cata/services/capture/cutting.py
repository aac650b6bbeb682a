"""Long recordings at work: takes are found in them, and cut out of them."""

from __future__ import annotations

from pathlib import PurePosixPath
from typing import Any

from sqlmodel import Session, col, select

from cata.core.bench.chain import LEAD_IN_S
from cata.core.capture.pieces import Piece
from cata.errors import CataError
from cata.services.capture.asking import CUT, asked_of, done
from cata.services.capture.recordings import FINDING
from cata.services.capture.steps import fill, open_steps
from cata.services.plan.setups import condition_of
from cata.services.takes.receiving import new_take
from cata.services.workspace import Workspace
from cata.store.actor import acting_as
from cata.store.tables import Asked, Planned, Recording, Test, Waveform
from cata.tasks import cuts as tasks
from cata.tasks.shape import Due, Duty
from cata.tasks.takes import Facts

RING_OUT_S = 1.0
"""What a planned take lasts after its phrase."""


def due_recordings(session: Session) -> list[Due]:
    """Recordings in which no takes were looked for yet, and those whose picture was lost (a removal undone)."""
    statement = (
        select(Recording.id, Recording.flight_id)
        .join(Waveform, col(Waveform.recording_id) == Recording.id, isouter=True)
        .where(Recording.refusal == "", col(Recording.found).is_(False) | col(Waveform.recording_id).is_(None))
        .order_by(col(Recording.id))
    )
    return [Due(FINDING, ident or 0, flight) for ident, flight in session.exec(statement).all()]


def _lengths(session: Session, flight_id: int) -> dict[int, float]:
    """Planned lengths by slate number: the phrase and a second for it to ring out."""
    tests = {
        test.id: condition_of(test) for test in session.exec(select(Test).where(Test.flight_id == flight_id)).all()
    }
    rows = session.exec(select(Planned).where(Planned.flight_id == flight_id)).all()
    return {
        row.number: LEAD_IN_S + tests[row.test_id].seconds + RING_OUT_S
        for row in rows
        if row.test_id in tests and tests[row.test_id].length_s
    }


def _to_find(ws: Workspace, session: Session, due: Due) -> tasks.ToCut:
    recording = session.get_one(Recording, due.ident)
    file = ws.inside(ws.vault.path(recording.digest))
    return tasks.ToCut(file, recording.takes, recording.by_slates, _lengths(session, recording.flight_id))


def _found(ws: Workspace, due: Due, found: tasks.Found) -> None:
    with ws.writing() as session:
        recording = session.get(Recording, due.ident)
        if recording is None:
            return
        session.merge(Waveform(recording_id=due.ident, outline=found.outline))
        if not recording.found:
            recording.pieces = _matched(session, recording, found.pieces)
            recording.slates, recording.found = found.slates, True
            session.add(recording)


def _not_found(ws: Workspace, due: Due, error: CataError) -> None:
    with ws.writing() as session:
        recording = session.get(Recording, due.ident)
        if recording is not None:
            recording.refusal = error.message
            session.add(recording)


def _matched(session: Session, recording: Recording, pieces: tuple[Piece, ...]) -> list[dict[str, Any]]:
    """Pieces with the planned take each is meant for: by slate number, else in the order of open takes."""
    rows = session.exec(select(Planned).where(Planned.flight_id == recording.flight_id)).all()
    by_number = {row.number: row.id for row in rows}
    steps = [row.id for row in open_steps(session, recording.flight_id)]
    found = []
    for index, piece in enumerate(pieces):
        meant = steps[index] if index < len(steps) else None
        planned = by_number.get(piece.take) if recording.by_slates else meant
        found.append({**piece.as_json(), "planned_id": planned})
    return found


def _out(due: Due) -> str:
    return f"vault/incoming/{due.name}.flac"


def _to_cut(ws: Workspace, session: Session, due: Due) -> tasks.Span:
    wish = session.get_one(Asked, due.ident).wish
    recording = session.get_one(Recording, wish["recording_id"])
    file = ws.inside(ws.vault.path(recording.digest))
    return tasks.Span(file, wish["start_s"], wish["end_s"], _out(due), recording.evidence)


def _cut(ws: Workspace, due: Due, facts: Facts) -> None:
    """Keep a take that was cut out; nothing where the cut, or its place in the order, went meanwhile."""
    with ws.reading() as session:
        asked = session.get(Asked, due.ident)
        recording = session.get(Recording, asked.wish["recording_id"]) if asked else None
    with ws.vault.adopting(ws.data_dir / _out(due)) as kept:
        if asked is None or recording is None:
            return
        name = PurePosixPath(recording.filename)
        with acting_as(asked.by), ws.acting(f"Make takes of {name.name}", joined=True) as session:
            row, step = session.get(Recording, recording.id), session.get(Planned, asked.wish["planned_id"])
            if not done(session, due) or row is None or step is None:
                return
            file = f"{name.stem} - take {asked.wish['take']:03d}.flac"
            take = new_take(session, row.flight_id, file, kept, facts, lead_in_s=0.0, at=ws.now())
            fill(session, take, step)
            this = (asked.wish["take"], asked.wish["start_s"])
            row.pieces = [
                {**one, "take_id": take.id} if (one["take"], one["start_s"]) == this else one for one in row.pieces
            ]
            session.add(row)


FIND = Duty(FINDING, tasks.FIND_TAKES, due_recordings, _to_find, _found, _not_found)
CUT_OUT = Duty(CUT, tasks.CUT_OUT, lambda session: asked_of(session, CUT), _to_cut, _cut)
