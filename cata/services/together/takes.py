"""Blending and one tone for takes of a flight."""

from __future__ import annotations

import io
from collections.abc import Sequence

import numpy as np
from pydantic import BaseModel
from sqlmodel import Session

from cata.core.clip import ANALYSIS_RATE_HZ, Clip
from cata.core.together import same_tone
from cata.errors import NotFound
from cata.media.decode import decode
from cata.media.encode import write_wav_to
from cata.said import Said
from cata.services.listen.tray import listening_copy
from cata.services.takes.rows import placed_takes, readings_of
from cata.services.workspace import Workspace, require
from cata.store.tables import Contender, Take, Test


class ToneMove(BaseModel):
    """One turn of an equaliser."""

    hz: int
    db: float


class ToneView(BaseModel):
    """How far a contender is from the reference, and what an equaliser does about it; gains at third octaves."""

    contender_id: int
    name: str
    apart_db: float
    remains_db: float
    explained: float | None
    moves: list[ToneMove]
    gains_db: dict[str, float]
    said: list[Said]


def one_tone(ws: Workspace, flight_id: int, test_id: int, reference_id: int) -> list[ToneView]:
    """Every other contender of a test brought to the tone of one, the nearest after the equaliser first."""
    takes = takes_of(ws, flight_id, test_id)
    if reference_id not in takes:
        raise NotFound("take of this contender", reference_id)
    wanted, reference = takes[reference_id]
    with ws.reading() as session:
        readings = readings_of(session, [take.id or 0 for take, _ in takes.values()])
    found = []
    for ident, (take, name) in takes.items():
        if ident != reference_id:
            one = remains_of(ws, take, wanted)
            found.append(ToneView(
                contender_id=ident, name=name, apart_db=one.apart_db, remains_db=one.remains_db,
                explained=one.explained, moves=[ToneMove(hz=move.hz, db=move.db) for move in one.moves],
                gains_db=dict(zip(map(str, same_tone.BANDS_HZ), one.equaliser.gains_db, strict=True)),
                said=[*same_tone.told(one, name, reference),
                      *same_tone.told_beside(readings[take.id or 0], readings[wanted.id or 0], anew=one.anew)],
            ))  # fmt: skip
    return sorted(found, key=lambda one: one.remains_db)


def impulse(ws: Workspace, flight_id: int, test_id: int, contender_id: int, reference_id: int) -> bytes:
    """The impulse response (48 kHz, 24 bit) that brings a contender's take to the tone of another."""
    takes = takes_of(ws, flight_id, test_id)
    for ident in (contender_id, reference_id):
        if ident not in takes:
            raise NotFound("take of this contender", ident)
    response = remains_of(ws, takes[contender_id][0], takes[reference_id][0]).equaliser.impulse
    out = io.BytesIO()
    # A gain of 12 dB must not be cut: the level is nobody's.
    write_wav_to(Clip.of(response / max(1.0, float(np.abs(response).max())), ANALYSIS_RATE_HZ), out)
    return out.getvalue()


def remains_of(ws: Workspace, take: Take, reference: Take) -> same_tone.Remains:
    """How a take differs from another, and the equaliser that brings it there."""
    # Two that were sent through the gear from one dry take are one performance.
    anew = "played" in (take.evidence, reference.evidence)
    key = ("one tone", take.digest, reference.digest, anew)
    return ws.answers.remember(key, lambda: same_tone.remains(*clips_of(ws, [take, reference]), anew=anew))


def clips_of(ws: Workspace, takes: Sequence[Take]) -> list[Clip]:
    """The sound of takes, as browsers play it. Conflict while one is still being read."""
    return [decode(listening_copy(ws, take.id or 0)).clip for take in takes]


def takes_of(ws: Workspace, flight_id: int, test_id: int) -> dict[int, tuple[Take, str]]:
    """The takes of a test by contender, with its name. NotFound for a test of another flight."""
    with ws.reading() as session:
        if require(session, Test, test_id).flight_id != flight_id:
            raise NotFound("test in this flight", test_id)
        return _named(session, test_id)


def _named(session: Session, test_id: int) -> dict[int, tuple[Take, str]]:
    placed: list[tuple[Take, Contender]] = placed_takes(session, test_id)
    return {contender.id or 0: (take, contender.name) for take, contender in placed}
