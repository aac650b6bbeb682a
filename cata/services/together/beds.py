"""Beds: brought in, and how well the takes of a test are heard through one at a steady loudness relation."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from math import log10
from pathlib import Path, PurePosixPath
from typing import Literal

from pydantic import BaseModel, Field
from sqlmodel import Session, col, select

from cata.core.together.in_the_mix import told
from cata.errors import Invalid
from cata.said import Said
from cata.services.listen.tray import get_tray
from cata.services.listen.views import TrayView
from cata.services.takes.receiving import clean_name
from cata.services.workspace import Workspace, require
from cata.store.changes import remove
from cata.store.tables import Analysed, Bed, Stem, Take
from cata.store.vault import Kept
from cata.tasks.beds import CUT, LAY, MIX, Laid, Mixed, ToCut, ToLay, ToMix
from cata.tasks.takes import Facts

Kind = Literal["bed", "target"]
LEAST_BPM, MOST_BPM = 20.0, 400.0
HIGHEST_DBTP = -1.0
"""No take in the tray is louder; a listening copy has no sample over full scale."""


class BedView(BaseModel):
    """A bed as a list has it."""

    id: int
    name: str
    duration_s: float
    tempo_bpm: float | None
    loudness_lufs: float | None
    url: str


class BedPatch(BaseModel):
    """A new name or tempo; what is None stays."""

    name: str | None = Field(default=None, min_length=1, max_length=120)
    tempo_bpm: float | None = Field(default=None, ge=LEAST_BPM, le=MOST_BPM)


class Heard(BaseModel):
    """A contender against the bed: the share of its loudness that is left, and where it is covered."""

    contender_id: int
    share: float | None
    covered: dict[str, float]
    said: Said | None


class BesideView(BaseModel):
    """A bed beside the takes of a test: the gain at which takes lie so many LU above it, copy scaling included.

    ``room_db``: what takes and bed are lowered by together so that no peak of their sum is cut.
    """

    bed: BedView
    relation_lu: float
    gain_db: float
    room_db: float
    heard: list[Heard]


def list_beds(ws: Workspace, kind: Kind = "bed") -> list[BedView]:
    """All beds, or all targets, by name."""
    statement = select(Bed).where(Bed.kind == kind).order_by(col(Bed.name), col(Bed.id))
    with ws.reading() as session:
        return [view_of_bed(bed) for bed in session.exec(statement).all()]


def add_bed(ws: Workspace, filename: str, kept: Kept, facts: Facts, kind: Kind = "bed") -> BedView:
    """Note a recording that is safe in the vault as a bed or a target. Invalid where it is too quiet for either."""
    bed = new_bed(ws, filename, kept, facts)
    bed.kind = kind
    with ws.acting(f"Add the {kind} {bed.name}"[:200]) as session:
        session.add(bed)
        session.flush()
        return view_of_bed(bed)


def new_bed(ws: Workspace, filename: str, kept: Kept, facts: Facts) -> Bed:
    """The row of a bed that is not added yet, its listening copy made. Invalid as above."""
    laid = _lay(ws, kept.digest)
    if laid.loudness_lufs is None:
        raise Invalid("there is too little in it to play beside anything", "too_quiet")
    name = clean_name(filename)
    return Bed(name=PurePosixPath(name).stem, digest=kept.digest, filename=name, size_bytes=kept.size_bytes,
               duration_s=facts.duration_s, rate_hz=facts.rate_hz, channels=facts.channels,
               loudness_lufs=laid.loudness_lufs, copy_gain_db=laid.copy_gain_db, added_at=ws.now())  # fmt: skip


def change_bed(ws: Workspace, bed_id: int, patch: BedPatch) -> BedView:
    """Give a bed another name or tempo."""
    with ws.acting("Change a bed") as session:
        bed = require(session, Bed, bed_id)
        for key, value in patch.model_dump(exclude_none=True).items():
            setattr(bed, key, value)
        session.add(bed)
        session.flush()
        return view_of_bed(bed)


def remove_bed(ws: Workspace, bed_id: int) -> None:
    """Take a bed away; an undo brings it back."""
    with ws.acting("Remove a bed") as session:
        remove(session, require(session, Bed, bed_id))


def bed_copy(ws: Workspace, bed_id: int) -> Path:
    """The file that browsers play; made again where a backup brought only the recording."""
    with ws.reading() as session:
        bed = require(session, Bed, bed_id)
        stems = session.exec(select(Stem).where(Stem.bed_id == bed_id).order_by(col(Stem.id))).all() if bed.mix else []
    path = ws.vault.copy_path(bed.mix or bed.digest)
    if not path.exists():
        if stems:
            mix_of(ws, bed.mix, stems)
        else:
            _lay(ws, bed.digest)
    return path


def mix_of(ws: Workspace, name: str, stems: Sequence[Stem]) -> Mixed:
    """Lay stems together as the listening copy of this name."""
    files = tuple((ws.inside(ws.vault.path(one.digest)), one.gain_db, one.side) for one in stems)
    return ws.ask(MIX, ToMix(files, ws.inside(ws.vault.copy_path(name))), MIX.limit_s)


def beside(ws: Workspace, flight_id: int, test_id: int, bed_id: int, relation_lu: float) -> BesideView:
    """A bed beside the takes of a test at equal loudness, each of them so many LU above it, and how they are heard."""
    path = bed_copy(ws, bed_id)
    tray = get_tray(ws, flight_id, test_id, "equal")
    with ws.reading() as session:
        bed = require(session, Bed, bed_id)
        copies = copies_of(session, tray)
        view, bed_lufs, bed_copy_db = view_of_bed(bed), bed.loudness_lufs or 0.0, bed.copy_gain_db
    common, heard = common_lufs(tray, copies), []
    for take in tray.takes:
        digest = copies[take.take_id][0]
        found = None
        if take.loudness_lufs is not None:
            # In the copies: the bed as it lies there, the take so much above it.
            gain = bed_lufs - bed_copy_db + relation_lu - (take.loudness_lufs - copies[take.take_id][1])
            wish = ToCut(ws.inside(ws.vault.copy_path(digest)), ws.inside(path), round(gain, 2))
            found = ws.answers.remember(("cut-through", wish), lambda wish=wish: ws.ask(CUT, wish))  # type: ignore[misc]
        heard.append(Heard(
            contender_id=take.contender_id or 0, share=None if found is None else round(found.share, 3),
            covered={} if found is None else {str(hz): share for hz, share in found.covered.items()},
            said=None if found is None else told(found, take.name),
        ))  # fmt: skip
    gain_db = common - relation_lu - bed_lufs + bed_copy_db
    room_db = -20 * log10(max(1.0, 10 ** (HIGHEST_DBTP / 20) + 10 ** (gain_db / 20)))
    return BesideView(bed=view, relation_lu=relation_lu, heard=heard, gain_db=round(gain_db, 3),
                      room_db=round(room_db, 3))  # fmt: skip


def copies_of(session: Session, tray: TrayView) -> dict[int | None, tuple[str, float]]:
    """By take the digest of its recording, and the gain that undoes the scaling of its listening copy."""
    return {ident: (session.get_one(Take, ident).digest, session.get_one(Analysed, ident).copy_gain_db)
            for ident in (take.take_id for take in tray.takes)}  # fmt: skip


def common_lufs(tray: TrayView, copies: Mapping[int | None, tuple[str, float]]) -> float:
    """The loudness at which all takes of a tray are heard; one that has none lies at none."""
    loud = [take for take in tray.takes if take.loudness_lufs is not None]
    return max(((take.loudness_lufs or 0.0) + take.gain_db - copies[take.take_id][1] for take in loud), default=-23.0)


def _lay(ws: Workspace, digest: str) -> Laid:
    return ws.ask(LAY, ToLay(ws.inside(ws.vault.path(digest)), ws.inside(ws.vault.copy_path(digest))))


def view_of_bed(bed: Bed) -> BedView:
    """A bed as a list has it."""
    return BedView(id=bed.id or 0, name=bed.name, duration_s=bed.duration_s, tempo_bpm=bed.tempo_bpm,
                   loudness_lufs=bed.loudness_lufs,
                   url=f"/api/beds/{bed.id}/audio?v={(bed.mix or bed.digest)[:12]}")  # fmt: skip
