"""Long recordings: taken in, cut by hand, and made into takes."""

from __future__ import annotations

from pathlib import Path, PurePosixPath

from sqlmodel import Session, col, select

from cata.errors import Conflict, Invalid
from cata.media.long import open_long
from cata.services.capture.asking import CUT, ask_for
from cata.services.capture.steps import open_steps
from cata.services.capture.views import PieceView, RecordingView
from cata.services.takes.receiving import clean_name
from cata.services.workspace import Workspace, require
from cata.store.changes import remove
from cata.store.tables import Contender, Failure, Flight, Planned, Recording, Take, Test, Waveform
from cata.store.vault import Kept

MIN_PIECE_S = 0.3
FINDING = "recording"


def check_long(ws: Workspace, path: Path, flight_id: int, takes: int, by_slates: bool) -> int:
    """How many takes a received file is to be searched for; BadAudio with a plain reason where it cannot be used."""
    with ws.reading() as session:
        require(session, Flight, flight_id)
        if by_slates:
            takes = max([takes, *session.exec(select(Planned.number).where(Planned.flight_id == flight_id)).all()])
        elif takes <= 0:
            takes = len(open_steps(session, flight_id))
    if takes <= 0:
        raise Conflict("say how many takes the recording holds, or make an order on the plan first", "no_takes_said")
    with open_long(path):
        return takes


def add_recording(
    ws: Workspace, flight_id: int, filename: str, kept: Kept, takes: int, by_slates: bool, evidence: str
) -> RecordingView:
    """Note a long recording that is safe in the vault; its takes are looked for in the background."""
    name = clean_name(filename)
    with open_long(kept.path) as file:
        duration_s, rate_hz = file.duration_s, file.rate_hz
    with ws.acting(f"Add {PurePosixPath(name).name}") as session:
        require(session, Flight, flight_id)
        recording = Recording(
            flight_id=flight_id, digest=kept.digest, filename=name, size_bytes=kept.size_bytes, duration_s=duration_s,
            rate_hz=rate_hz, by_slates=by_slates, evidence=evidence, added_at=ws.now(), takes=takes, found=False,
        )  # fmt: skip
        session.add(recording)
        session.flush()
    return get_recording(ws, recording.id or 0)


def get_recording(ws: Workspace, recording_id: int, *, outline: bool = True) -> RecordingView:
    """A long recording with its cuts."""
    with ws.reading() as session:
        return _view(session, require(session, Recording, recording_id), outline)


def list_recordings(ws: Workspace, flight_id: int) -> list[RecordingView]:
    """The long recordings of a flight, newest first, without their pictures."""
    with ws.reading() as session:
        require(session, Flight, flight_id)
        rows = session.exec(
            select(Recording).where(Recording.flight_id == flight_id).order_by(col(Recording.id).desc())
        ).all()
        return [_view(session, row, False) for row in rows]


def _view(session: Session, recording: Recording, outline: bool) -> RecordingView:
    labels = _labels(session, recording.flight_id)
    pieces = pieces_of(session, recording)
    for piece in pieces:
        piece.label = labels.get(piece.planned_id or 0, "")
    meant = {piece.planned_id for piece in pieces}
    still = [row for row in open_steps(session, recording.flight_id) if row.id not in meant]
    waveform = session.get(Waveform, recording.id) if outline else None
    failure = session.exec(select(Failure).where(Failure.duty == FINDING, Failure.ident == recording.id)).first()
    return RecordingView(
        id=recording.id or 0,
        flight_id=recording.flight_id,
        filename=recording.filename,
        duration_s=recording.duration_s,
        rate_hz=recording.rate_hz,
        by_slates=recording.by_slates,
        slates=recording.slates,
        state="refused" if recording.refusal else "found" if recording.found else "failed" if failure else "looking",
        refusal=recording.refusal or (failure.text if failure and not recording.found else ""),
        pieces=pieces,
        missing=[labels[row.id or 0] for row in still if row.id in labels] if recording.found else [],
        made=sum(piece.take_id is not None for piece in pieces),
        outline=waveform.outline if waveform is not None else [],
    )


def pieces_of(session: Session, recording: Recording) -> list[PieceView]:
    """The cuts of a recording; a take that was removed since is not made any more."""
    takes = set(session.exec(select(Take.id).where(Take.flight_id == recording.flight_id)).all())
    pieces = [PieceView.model_validate(piece) for piece in recording.pieces]
    for piece in pieces:
        piece.take_id = piece.take_id if piece.take_id in takes else None
    return pieces


def _labels(session: Session, flight_id: int) -> dict[int, str]:
    contenders = {c.id: c.name for c in session.exec(select(Contender).where(Contender.flight_id == flight_id)).all()}
    tests = {t.id: t.name for t in session.exec(select(Test).where(Test.flight_id == flight_id)).all()}
    rows = session.exec(select(Planned).where(Planned.flight_id == flight_id)).all()
    return {
        row.id or 0: f"{row.number}: {contenders.get(row.contender_id, '?')}, {tests.get(row.test_id, '?')}"
        + (f" (anchor {row.anchor})" if row.anchor else "")
        for row in rows
    }


def change_pieces(ws: Workspace, recording_id: int, pieces: list[PieceView]) -> RecordingView:
    """Move, add or remove cuts by hand. A cut that a person set is sure."""
    with ws.acting("Move a cut") as session:
        recording = require(session, Recording, recording_id)
        for piece in pieces:
            if not piece.start_s + MIN_PIECE_S <= piece.end_s <= recording.duration_s + 0.01:
                raise Invalid(
                    f"take {piece.take}: a cut lies within the recording and lasts {MIN_PIECE_S} s at least; "
                    f"got {piece.start_s:.2f} to {piece.end_s:.2f} s",
                    "outside_recording",
                )
        before = {(piece["take"], piece["start_s"], piece["end_s"]) for piece in recording.pieces}
        kept = []
        for piece in sorted(pieces, key=lambda piece: piece.start_s):
            row = piece.model_dump(exclude={"label"})
            if (piece.take, piece.start_s, piece.end_s) not in before:
                row |= {"confidence": 1.0, "flag": "", "take_id": None}
            kept.append(row)
        recording.pieces = kept
        session.add(recording)
    return get_recording(ws, recording_id)


def make_takes(ws: Workspace, recording_id: int) -> RecordingView:
    """Ask for a take of every cut that is meant for a planned take and was not made yet.

    They are made in the background, each safe before the next is begun; a double click asks for nothing twice.
    """
    with ws.writing() as session:
        recording = require(session, Recording, recording_id)
        todo = [piece for piece in pieces_of(session, recording) if piece.take_id is None and piece.planned_id]
        wishes = [{"recording_id": recording_id, "take": one.take, "start_s": one.start_s, "end_s": one.end_s,
                   "planned_id": one.planned_id} for one in todo]  # fmt: skip
        ask_for(session, CUT, recording.flight_id, wishes)
    ws.changed("Make takes")
    return get_recording(ws, recording_id)


def remove_recording(ws: Workspace, recording_id: int) -> int:
    """Remove a long recording; the takes made from it stay. Its flight."""
    with ws.acting("Remove recording") as session:
        recording = require(session, Recording, recording_id)
        remove(session, recording)
        return recording.flight_id
