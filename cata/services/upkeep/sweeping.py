"""House-keeping of a data directory: no left-overs of a crash or of an old undo."""

from __future__ import annotations

import shutil
from contextlib import suppress

from sqlalchemy import func
from sqlmodel import select

from cata.services.tasting.table import FOLDER
from cata.services.workspace import Workspace
from cata.store.tables import Bed, Failure, Glass, Moved, Probe, Recording, Stem, Take
from cata.tasks.desk import PARTIAL, PROGRESS

WRITTEN_BY_WORKERS = ("copies", "playing", "testfiles", PROGRESS, "vault/incoming")


def wanted_digests(ws: Workspace) -> set[str]:
    """Recordings that a take needs, or that an undo would bring back."""
    with ws.reading() as session:
        wanted = {*session.exec(select(Take.digest)).all(), *session.exec(select(Recording.digest)).all()}
        wanted |= set(session.exec(select(Bed.digest)).all()) | set(session.exec(select(Stem.digest)).all())
        wanted |= set(session.exec(select(Glass.digest)).all())
        wanted |= {mix for mix in session.exec(select(Bed.mix)).all() if mix}
        wanted |= {digest for digest in session.exec(select(Probe.digest)).all() if digest}
        for side in (Moved.before, Moved.after):
            digest = func.json_extract(side, "$.digest")
            wanted |= set(session.exec(select(digest).where(digest.is_not(None)).distinct()).all())
    return wanted - {""}


def sweep(ws: Workspace, *, alone: bool = False) -> int:
    """Remove what a crash or an old undo left behind; how many files. ``alone``: nobody else has the data open."""
    # What this process itself brings in meanwhile is younger than it.
    before = ws.opened_at if alone else None
    removed = ws.vault.sweep(wanted_digests(ws), before=before)
    if alone:
        # What tastings had poured is poured again when somebody sits down.
        shutil.rmtree(ws.data_dir / FOLDER, ignore_errors=True)
        for folder in WRITTEN_BY_WORKERS:
            for path in (ws.data_dir / folder).glob("*"):
                with suppress(OSError):
                    if (path.name.endswith(PARTIAL) or folder == PROGRESS) and path.stat().st_mtime < ws.opened_at:
                        path.unlink()
                        removed += 1
    return removed


def tidy(ws: Workspace) -> None:
    """:func:`sweep` at a start, before any work: alone where nobody else has the data open."""
    alone = ws.lock.alone()
    try:
        sweep(ws, alone=alone)
    finally:
        if alone:
            ws.lock.together()


def retry(ws: Workspace, flight_id: int) -> None:
    """Try again what failed of a flight; with 0 what failed of measurements."""
    with ws.writing() as session:
        for row in session.exec(select(Failure).where(Failure.flight_id == flight_id)).all():
            session.delete(row)
    ws.changed("Try again")
