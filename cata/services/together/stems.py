"""Beds of several stems: each at a level and a place, laid together whenever one of them changes."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from hashlib import sha256
from pathlib import PurePosixPath

from pydantic import BaseModel, Field
from sqlmodel import Session, col, select

from cata.errors import Conflict
from cata.services.takes.receiving import clean_name
from cata.services.together.beds import BedView, mix_of, view_of_bed
from cata.services.workspace import Workspace, require
from cata.store.changes import remove
from cata.store.tables import Bed, Stem
from cata.store.vault import Kept

MOST_STEMS, JOINED_S = 16, 5.0
LEAST_DB, MOST_DB = -60.0, 12.0


class StemView(BaseModel):
    """A stem: its level in dB, and its place from -1 (left) to 1 (right)."""

    id: int
    name: str
    gain_db: float
    side: float


class StemPatch(BaseModel):
    """Another level or place; what is None stays."""

    gain_db: float | None = Field(default=None, ge=LEAST_DB, le=MOST_DB)
    side: float | None = Field(default=None, ge=-1, le=1)


def list_stems(ws: Workspace, bed_id: int) -> list[StemView]:
    """The stems of a bed, in the order in which they came; none of a bed that is one recording."""
    with ws.reading() as session:
        require(session, Bed, bed_id)
        return [StemView(id=one.id or 0, name=one.name, gain_db=one.gain_db, side=one.side)
                for one in stems_of(session, bed_id)]  # fmt: skip


def stems_of(session: Session, bed_id: int) -> list[Stem]:
    """The rows of a bed's stems."""
    return list(session.exec(select(Stem).where(Stem.bed_id == bed_id).order_by(col(Stem.id))).all())


def add_stem(ws: Workspace, bed_id: int, filename: str, kept: Kept) -> BedView:
    """Lay one more recording into a bed; what it was so far becomes its first stem. Conflict where it has enough."""
    name, now = clean_name(filename), ws.now()
    with ws.reading() as session:
        bed, there = require(session, Bed, bed_id), stems_of(session, bed_id)
    if len(there) >= MOST_STEMS:
        raise Conflict(f"a bed has at most {MOST_STEMS} stems", "too_many")
    new = [] if there else [_stem(bed_id, bed.digest, bed.filename, bed.size_bytes, bed.added_at)]
    new.append(_stem(bed_id, kept.digest, name, kept.size_bytes, now))

    def put_in(session: Session) -> None:
        session.add_all(new)

    return _relaid(ws, "Add a stem", bed_id, there, [*there, *new], put_in)


def change_stem(ws: Workspace, stem_id: int, patch: StemPatch) -> BedView:
    """Give a stem another level or place."""
    given = patch.model_dump(exclude_none=True)
    with ws.reading() as session:
        bed_id = require(session, Stem, stem_id).bed_id
        there = stems_of(session, bed_id)
    planned = [Stem(**one.model_dump() | given) if one.id == stem_id else one for one in there]

    def change(session: Session) -> None:
        stem = require(session, Stem, stem_id)
        for key, value in given.items():
            setattr(stem, key, value)
        session.add(stem)

    return _relaid(ws, "Change a stem", bed_id, there, planned, change, joined=True)


def remove_stem(ws: Workspace, stem_id: int) -> BedView:
    """Take a stem out of its bed. Conflict for the last one: then the bed would be nothing."""
    with ws.reading() as session:
        bed_id = require(session, Stem, stem_id).bed_id
        there = stems_of(session, bed_id)
    if len(there) < 2:
        raise Conflict("a bed is at least one recording: remove the bed", "last_stem")

    def take_out(session: Session) -> None:
        remove(session, require(session, Stem, stem_id))

    return _relaid(ws, "Remove a stem", bed_id, there, [one for one in there if one.id != stem_id], take_out)


def _stem(bed_id: int, digest: str, filename: str, size_bytes: int, added_at: str) -> Stem:
    return Stem(bed_id=bed_id, name=PurePosixPath(filename).stem, digest=digest, filename=filename,
                size_bytes=size_bytes, added_at=added_at)  # fmt: skip


def _state(stems: Sequence[Stem]) -> list[tuple[str, float, float]]:
    return [(one.digest, one.gain_db, one.side) for one in stems]


def _relaid(
    ws: Workspace, label: str, bed_id: int, before: Sequence[Stem], after: Sequence[Stem],
    change: Callable[[Session], None], *, joined: bool = False,
) -> BedView:  # fmt: skip
    """Lay stems as they will be, then note them so. Conflict where somebody else changed them meanwhile."""
    mix = sha256(repr(_state(after)).encode()).hexdigest()
    # Laying takes seconds, and meanwhile others write.
    laid = mix_of(ws, mix, after)
    with ws.acting(label, joined=joined, within_s=JOINED_S) as session:
        if _state(stems_of(session, bed_id)) != _state(before):
            raise Conflict("the stems of this bed were changed meanwhile; look again", "changed")
        change(session)
        bed = require(session, Bed, bed_id)
        bed.mix, bed.loudness_lufs, bed.copy_gain_db = mix, laid.loudness_lufs, laid.copy_gain_db
        bed.duration_s, bed.channels = laid.duration_s, 2
        session.add(bed)
        session.flush()
        return view_of_bed(bed)
