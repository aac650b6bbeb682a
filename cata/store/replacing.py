"""Putting another data directory in place of one, as one step: whoever opens it next finds the old or the new, whole.

The new one is made beside it. A note that it is whole is written last; from then on an interruption is finished by the
next who comes, before that it is undone.
"""

from __future__ import annotations

import os
import shutil
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from pathlib import Path

from cata.errors import Conflict

try:
    import fcntl
except ImportError:  # not everywhere; there nobody is kept out
    fcntl = None  # type: ignore[assignment]

WHOLE, FRESH = "whole", "fresh"


@dataclass(frozen=True)
class Place:
    """A directory that is replaced, and where the new one is made meanwhile."""

    data_dir: Path

    @property
    def folder(self) -> Path:
        """Beside the directory, so that it can be moved in its place."""
        return self.data_dir.parent / f".{self.data_dir.name}-restoring"

    @property
    def fresh(self) -> Path:
        """The new directory."""
        return self.folder / FRESH

    @contextmanager
    def alone(self) -> Iterator[None]:
        """Nobody else replaces it meanwhile; Conflict where somebody does. Let go of when the process ends."""
        descriptor = os.open(self.folder, os.O_RDONLY)
        try:
            if fcntl is not None:
                try:
                    fcntl.flock(descriptor, fcntl.LOCK_EX | fcntl.LOCK_NB)
                except OSError:
                    raise Conflict(
                        f"the data in {self.data_dir} is just being replaced; try again when that is done", "in_use"
                    ) from None
            yield
        finally:
            os.close(descriptor)

    def put(self, aside: Path) -> None:
        """Note that the new one is whole, and put it in place; what was there goes aside."""
        note = self.folder / f"{WHOLE}.part"
        with note.open("w") as file:
            file.write(str(aside))
            file.flush()
            os.fsync(file.fileno())
        note.replace(self.folder / WHOLE)
        _safe(self.folder)
        self.finish()

    def finish(self) -> None:
        """Do what is left of :meth:`put`, or take away what never was whole."""
        note = self.folder / WHOLE
        if note.exists() and self.fresh.exists():
            if self.data_dir.exists():
                self.data_dir.rename(note.read_text())
            self.fresh.rename(self.data_dir)
            _safe(self.data_dir.parent)
        shutil.rmtree(self.folder, ignore_errors=True)


def _safe(folder: Path) -> None:
    """Have the disk remember which names a folder holds."""
    descriptor = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(descriptor)
    finally:
        os.close(descriptor)


def recover(data_dir: Path) -> None:
    """Finish or undo a replacement that was interrupted. Conflict where somebody is just at it."""
    place = Place(data_dir)
    if place.folder.is_dir():
        with suppress(FileNotFoundError), place.alone():
            place.finish()


@contextmanager
def replacing(data_dir: Path, stamp: str) -> Iterator[Path]:
    """A new directory to fill; it is in place when the context ends well, and gone when it does not.

    What was there is kept beside it, named by ``stamp``. Conflict where somebody else is just at it.
    """
    place = Place(data_dir)
    data_dir.parent.mkdir(parents=True, exist_ok=True)
    recover(data_dir)
    place.folder.mkdir()
    with place.alone():
        try:
            yield place.fresh
            place.put(_free(data_dir.with_name(f"{data_dir.name}.before-{stamp}")))
        except BaseException:
            if not (place.folder / WHOLE).exists():
                shutil.rmtree(place.folder, ignore_errors=True)
            raise


def _free(path: Path) -> Path:
    """A name that nothing has yet."""
    number, found = 2, path
    while found.exists():
        number, found = number + 1, path.with_name(f"{path.name}-{number}")
    return found
