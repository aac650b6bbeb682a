"""Recordings beside takes: beds that play under them, and sounds that somebody is after."""

from __future__ import annotations

from sqlmodel import Field

from cata.store.tables.columns import Entered, owner


class Bed(Entered, table=True):
    """A recording that takes are heard against; ``loudness_lufs`` None where it is too quiet for one.

    ``kind``: "bed", or "target", a sound that somebody is after. ``mix``: the name of the
    listening copy in which its stems lie together; empty where it is one recording.

    ``tempo_bpm`` as a person knows it; ``copy_gain_db`` undoes the scaling of its listening copy.
    """

    name: str
    digest: str = Field(index=True)
    filename: str
    size_bytes: int
    duration_s: float = 0.0
    rate_hz: int = 0
    channels: int = 0
    tempo_bpm: float | None = None
    loudness_lufs: float | None = None
    copy_gain_db: float = 0.0
    added_at: str = ""
    kind: str = "bed"
    mix: str = ""


class Stem(Entered, table=True):
    """A recording that a bed is laid of: its level in dB, and its ``side`` from -1 (left) to 1 (right)."""

    bed_id: int = owner("bed.id")
    name: str
    digest: str = Field(index=True)
    filename: str
    size_bytes: int
    gain_db: float = 0.0
    side: float = 0.0
    added_at: str = ""
