"""Recordings taken in: what they are, and that they are there."""

from __future__ import annotations

from dataclasses import asdict
from pathlib import PurePosixPath

from sqlmodel import Session

from cata.services.workspace import Workspace, require
from cata.store.tables import Flight, Take
from cata.store.vault import Incoming, Kept
from cata.tasks.takes import INSPECT, Facts, Look

MAX_NAME = 240


def clean_name(filename: str) -> str:
    """A file name for showing and matching: forward slashes, no control characters, bounded. Never used as a path."""
    text = "".join(c for c in filename.replace("\\", "/") if c.isprintable()).strip("/ ")
    return text[-MAX_NAME:] or "unnamed"


def check_incoming(ws: Workspace, incoming: Incoming, *, sounding: bool = False) -> Facts:
    """What a received file is, decided in a worker; BadAudio with a plain reason where it cannot be used.

    ``sounding``: nothing but zeros cannot be used either.
    """
    return ws.ask(INSPECT, Look(ws.inside(incoming.path), ws.max_duration_s, sounding))


def add_take(ws: Workspace, flight_id: int, filename: str, kept: Kept, facts: Facts, lead_in_s: float = 0.0) -> int:
    """Note a recording that is safe in the vault; it is unplaced, and due for analysis. Its id."""
    name = clean_name(filename)
    with ws.acting(f"Add {PurePosixPath(name).name}") as session:
        require(session, Flight, flight_id)
        take = new_take(session, flight_id, name, kept, facts, lead_in_s=lead_in_s, at=ws.now())
    return take.id or 0


def new_take(
    session: Session, flight_id: int, name: str, kept: Kept, facts: Facts, *, lead_in_s: float, at: str
) -> Take:
    """Add a take inside a transaction."""
    take = Take(
        flight_id=flight_id, digest=kept.digest, size_bytes=kept.size_bytes, filename=name, lead_in_s=lead_in_s,
        added_at=at, **asdict(facts),
    )  # fmt: skip
    session.add(take)
    session.flush()
    return take
