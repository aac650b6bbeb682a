"""How much of the disk is left, and what a full one looks like."""

from __future__ import annotations

import errno
import shutil
import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from sqlalchemy.exc import DBAPIError

from cata.said import Said, said

FULL_BYTES = 4 << 20
"""With less left no work is begun: a take of some seconds, its copy and its rows need about so much."""
FULL = "disk_full"


def free_bytes(folder: Path) -> int:
    """What is left on the disk of a folder."""
    return shutil.disk_usage(folder).free


def full(folder: Path) -> Said | None:
    """That the disk of a folder is full, where it is."""
    if free_bytes(folder) >= FULL_BYTES:
        return None
    return said(FULL, "The disk is full. Make room: the work goes on by itself.")


def is_of_full(error: BaseException) -> bool:
    """Whether an error says that a disk is full, or a share of it used up."""
    found = error.orig if isinstance(error, DBAPIError) else error
    if isinstance(found, sqlite3.Error):
        return getattr(found, "sqlite_errorcode", 0) & 0xFF == sqlite3.SQLITE_FULL
    return isinstance(found, OSError) and found.errno in (errno.ENOSPC, errno.EDQUOT)


@contextmanager
def telling_of_full(folder: Path) -> Iterator[None]:
    """Libraries say of a full disk only that something failed. Look at once: what they began to write is taken away."""
    try:
        yield
    except RuntimeError as error:
        if full(folder):
            raise OSError(errno.ENOSPC, "the disk is full") from error
        raise
