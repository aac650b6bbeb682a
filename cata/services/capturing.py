"""Capture: takes by order, long recordings cut into takes, the slate, and the latency of an interface."""

from __future__ import annotations

import re
from collections.abc import Sequence
from pathlib import Path, PurePosixPath
from typing import Any

from sqlmodel import Session, col, select

from cata.errors import BadAudio, Conflict, Invalid
from cata.services import cutting
from cata.services.ordering import repeat_of
from cata.services.setups import condition_of
from cata.services.takes import clean_name, new_take, put
from cata.services.views.capture import LatencyView, PieceView, RecordingView
from cata.services.workspace import Workspace, require
from cata.store.tables import Contender, Flight, Planned, Recording, Take, Test, Waveform
from cata.store.vault import Kept

MIN_PIECE_S = 0.3
LATENCY_PLAYED_AT_S = 0.5


def natural(name: str) -> list[Any]:
    """A sorting key that puts take 2 before take 10."""
    return [int(part) if part.isdigit() else part for part in re.split(r"(\d+)", name.casefold())]


def open_steps(session: Session, flight_id: int) -> list[Planned]:
    """The planned takes that are not recorded, in order."""
    filled = {
        (take.contender_id, take.test_id, take.repeat)
        for take in session.exec(select(Take).where(Take.flight_id == flight_id, col(Take.test_id).is_not(None))).all()
    }
    rows = session.exec(select(Planned).where(Planned.flight_id == flight_id).order_by(col(Planned.position))).all()
    return [
        row for row in rows
        if row.state == "redo" or (row.contender_id, row.test_id, repeat_of(row.anchor)) not in filled
    ]  # fmt: skip


def place_in_order(ws: Workspace, flight_id: int) -> int:
    """Put the unplaced takes, sorted by name, into the open planned takes in their order; how many."""
    with ws.acting("Place takes in order") as session:
        require(session, Flight, flight_id)
        loose = session.exec(select(Take).where(Take.flight_id == flight_id, col(Take.test_id).is_(None))).all()
        steps = open_steps(session, flight_id)
        if loose and not steps:
            raise Conflict("there is no open take in the order; make an order on the plan, or place them by name")
        count = 0
        for take, step in zip(sorted(loose, key=lambda take: natural(take.filename)), steps, strict=False):
            fill(session, take, step)
            count += 1
        return count


def fill(session: Session, take: Take, step: Planned) -> None:
    """Put a take where it was planned; the planned take is done."""
    put(session, take, step.contender_id, step.test_id, repeat_of(step.anchor))
    step.state = "done"
    session.add(step)
    session.flush()


def place_planned(ws: Workspace, take_id: int, planned_id: int) -> None:
    """Put a take that was just recorded into its planned place; what was there before is kept, unplaced."""
    with ws.acting("Record a take") as session:
        take = require(session, Take, take_id)
        step = require(session, Planned, planned_id, "planned take")
        if step.flight_id != take.flight_id:
            raise Invalid("the planned take belongs to another flight")
        fill(session, take, step)


def _lengths(session: Session, flight_id: int) -> dict[int, float]:
    """Planned lengths by slate number: the phrase and a second for it to ring out."""
    tests = {
        test.id: condition_of(test) for test in session.exec(select(Test).where(Test.flight_id == flight_id)).all()
    }
    rows = session.exec(select(Planned).where(Planned.flight_id == flight_id)).all()
    return {
        row.number: 0.6 + tests[row.test_id].seconds + 1.0
        for row in rows
        if row.test_id in tests and tests[row.test_id].length_s
    }


def check_long(ws: Workspace, path: Path, flight_id: int, takes: int, by_slates: bool) -> dict[str, Any]:
    """Find the takes of a received file in a worker; BadAudio with a plain reason where it cannot be used."""
    with ws.reading() as session:
        require(session, Flight, flight_id)
        lengths = _lengths(session, flight_id)
        if by_slates:
            takes = max([takes, *session.exec(select(Planned.number).where(Planned.flight_id == flight_id)).all()])
        elif takes <= 0:
            takes = len(open_steps(session, flight_id))
    if takes <= 0:
        raise Conflict("say how many takes the recording holds, or make an order on the plan first")
    found = ws.pool.submit(cutting.cut_recording, str(path), takes, by_slates=by_slates, lengths_s=lengths).result()
    if "refused" in found:
        raise BadAudio(found["code"], found["refused"])
    return found


def add_recording(
    ws: Workspace, flight_id: int, filename: str, kept: Kept, found: dict[str, Any], by_slates: bool, evidence: str
) -> RecordingView:
    """Note a long recording that is safe in the vault, with the cuts that were found."""
    name = clean_name(filename)
    with ws.acting(f"Add {PurePosixPath(name).name}") as session:
        require(session, Flight, flight_id)
        recording = Recording(
            flight_id=flight_id,
            digest=kept.digest,
            filename=name,
            size_bytes=kept.size_bytes,
            duration_s=found["duration_s"],
            rate_hz=found["rate_hz"],
            by_slates=by_slates,
            evidence=evidence,
            pieces=_matched(session, flight_id, found["pieces"], by_slates),
            slates=found["slates"],
            added_at=ws.now(),
        )
        session.add(recording)
        session.flush()
        session.add(Waveform(recording_id=recording.id or 0, outline=found["outline"]))
    return get_recording(ws, recording.id or 0)


def _matched(
    session: Session, flight_id: int, pieces: Sequence[dict[str, Any]], by_slates: bool
) -> list[dict[str, Any]]:
    """Pieces with the planned take each is meant for: by slate number, else in the order of open takes."""
    rows = session.exec(select(Planned).where(Planned.flight_id == flight_id)).all()
    by_number = {row.number: row.id for row in rows}
    steps = [row.id for row in open_steps(session, flight_id)]
    found = []
    for index, piece in enumerate(pieces):
        meant = by_number.get(piece["take"]) if by_slates else steps[index] if index < len(steps) else None
        found.append({**piece, "planned_id": meant})
    return found


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
    takes = set(session.exec(select(Take.id).where(Take.flight_id == recording.flight_id)).all())
    pieces = [PieceView.model_validate(piece) for piece in recording.pieces]
    for piece in pieces:
        piece.label = labels.get(piece.planned_id or 0, "")
        piece.take_id = piece.take_id if piece.take_id in takes else None
    meant = {piece.planned_id for piece in pieces}
    still = [row for row in open_steps(session, recording.flight_id) if row.id not in meant]
    waveform = session.get(Waveform, recording.id) if outline else None
    return RecordingView(
        id=recording.id or 0,
        flight_id=recording.flight_id,
        filename=recording.filename,
        duration_s=recording.duration_s,
        rate_hz=recording.rate_hz,
        by_slates=recording.by_slates,
        slates=recording.slates,
        pieces=pieces,
        missing=[labels[row.id or 0] for row in still if row.id in labels],
        made=sum(piece.take_id is not None for piece in pieces),
        outline=waveform.outline if waveform is not None else [],
    )


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
                    f"got {piece.start_s:.2f} to {piece.end_s:.2f} s"
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
    """Make a take of every cut that is meant for a planned take and was not made yet.

    Each take is safe before the next is begun: what is interrupted goes on where it stopped.
    """
    with ws.one_at_a_time:
        _make_takes(ws, recording_id)
    return get_recording(ws, recording_id)


def _make_takes(ws: Workspace, recording_id: int) -> None:
    with ws.reading() as session:
        recording = require(session, Recording, recording_id)
        todo = [
            piece for piece in _view(session, recording, False).pieces if piece.take_id is None and piece.planned_id
        ]
    source = str(ws.vault.path(recording.digest))
    for done, piece in enumerate(todo):
        ws.bus.publish({"kind": "making", "flight_id": recording.flight_id, "done": done, "total": len(todo)})
        with ws.vault.receive(".flac") as incoming:
            arguments = (source, piece.start_s, piece.end_s, str(incoming.path))
            facts = ws.pool.submit(cutting.write_piece, *arguments).result()
            kept = ws.vault.add(incoming.path)
        _store_piece(ws, recording, piece, kept, facts)
    ws.bus.publish({"kind": "making", "flight_id": recording.flight_id, "done": len(todo), "total": len(todo)})


def _store_piece(ws: Workspace, recording: Recording, piece: PieceView, kept: Kept, facts: dict[str, Any]) -> None:
    with ws.acting(f"Take {piece.take} of {PurePosixPath(recording.filename).name}") as session:
        row = require(session, Recording, recording.id or 0)
        step = session.get(Planned, piece.planned_id)
        if step is None:
            return
        stem = PurePosixPath(recording.filename).stem
        name = f"{stem} - take {piece.take:03d}.flac"
        facts = facts | {"evidence": recording.evidence}
        take = new_take(session, recording.flight_id, name, kept, facts, lead_in_s=0.0, at=ws.now())
        fill(session, take, step)
        row.pieces = [
            {**one, "take_id": take.id} if one["take"] == piece.take and one["start_s"] == piece.start_s else one
            for one in row.pieces
        ]
        session.add(row)


def remove_recording(ws: Workspace, recording_id: int) -> int:
    """Remove a long recording; the takes made from it stay. Its flight."""
    with ws.acting("Remove recording") as session:
        recording = require(session, Recording, recording_id)
        session.delete(recording)
        return recording.flight_id


def slate_wav(number: int, closes: bool) -> bytes:
    """The slate of a take as WAV bytes."""
    return cutting.slate_bytes(number, closes)


def measure_latency(ws: Workspace, path: Path) -> LatencyView:
    """The round trip of a loop-back recording in which the slate was played half a second after the start."""
    found = ws.pool.submit(cutting.find_one_slate, str(path)).result()
    if "refused" in found:
        return LatencyView(latency_ms=None, confidence=0.0, reason=found["refused"])
    latency = (found["start_s"] - LATENCY_PLAYED_AT_S) * 1000
    if latency < 0:
        return LatencyView(latency_ms=None, confidence=0.0, reason="the tone was heard before it was played")
    return LatencyView(latency_ms=round(latency, 2), confidence=found["confidence"], reason="")
