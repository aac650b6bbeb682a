"""The lock of a data directory: who has it open shares it, who replaces or tidies it must have it alone.

The operating system lets go of it when its process ends, however it ends.
"""

from __future__ import annotations

import os
import time
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

from cata.errors import Conflict, Refused

try:
    import fcntl
except ImportError:  # not everywhere; there nobody is kept out
    fcntl = None  # type: ignore[assignment]

NAME = ".lock"
PATIENCE_S, LOOK_AGAIN_S = 10.0, 0.05
"""Somebody who tidies at a start has it alone for a moment."""


@dataclass
class DataLock:
    """A held lock."""

    descriptor: int

    @classmethod
    def share(cls, data_dir: Path) -> DataLock:
        """Open a directory beside others; Conflict while somebody replaces it, Refused where there is no access."""
        try:
            data_dir.mkdir(parents=True, exist_ok=True)
            descriptor = os.open(data_dir / NAME, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o600)
        except OSError as error:
            raise Refused(f"{data_dir} cannot be used as a data folder: {error.strerror}", "no_access") from error
        lock = cls(descriptor)
        end = time.monotonic() + PATIENCE_S
        while not lock._take("LOCK_SH"):
            if time.monotonic() < end:
                time.sleep(LOOK_AGAIN_S)
                continue
            lock.release()
            raise Conflict(f"the data in {data_dir} is just being replaced; try again when that is done", "in_use")
        return lock

    def alone(self) -> bool:
        """True where nobody else has the directory open; others then wait outside until :meth:`together`."""
        if self._take("LOCK_EX"):
            return True
        self._take("LOCK_SH")
        return False

    def together(self) -> None:
        """Let others in again."""
        self._take("LOCK_SH")

    def _take(self, how: str) -> bool:
        if fcntl is None:
            return True
        try:
            fcntl.flock(self.descriptor, getattr(fcntl, how) | fcntl.LOCK_NB)
        except OSError:
            return False
        return True

    def release(self) -> None:
        """Let go."""
        with suppress(OSError):
            os.close(self.descriptor)
