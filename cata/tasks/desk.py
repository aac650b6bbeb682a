"""What a worker has before it: the files of the data directory as it sees them, and a voice.

The data directory is a folder (the server's own, or the same folder under another name on another machine), or an
fsspec address such as ``sftp://host/cata``; then files are fetched to this machine first, and brought back when they
are whole.
"""

from __future__ import annotations

import json
import os
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Any

PARTIAL = ".part"
"""The ending of files that are being written; none of them outlives a start."""
PROGRESS = "progress"


@dataclass(frozen=True)
class Desk:
    """``root`` is the data directory, ``name`` the piece of work, by which its progress is found."""

    root: str
    name: str = ""

    @property
    def is_remote(self) -> bool:
        """True where files lie behind an address."""
        return "://" in self.root

    @contextmanager
    def reading(self, name: str) -> Iterator[Path]:
        """A file of the data directory, to read."""
        if not self.is_remote:
            yield Path(self.root) / name
            return
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / Path(name).name
            files, base = _remote(self.root)
            files.get_file(f"{base}/{name}", str(path))
            yield path

    @contextmanager
    def writing(self, name: str) -> Iterator[Path]:
        """A file of the data directory, to write: it appears whole when the context ends well, or not at all."""
        own = f"{name}.{os.getpid()}{PARTIAL}"
        if not self.is_remote:
            partial, target = Path(self.root) / own, Path(self.root) / name
            partial.parent.mkdir(parents=True, exist_ok=True)
            try:
                yield partial
                partial.replace(target)
            finally:
                partial.unlink(missing_ok=True)
            return
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / Path(name).name
            yield path
            files, base = _remote(self.root)
            files.makedirs(f"{base}/{Path(name).parent}", exist_ok=True)
            files.put_file(str(path), f"{base}/{own}")
            files.mv(f"{base}/{own}", f"{base}/{name}")

    def tell(self, share: float, what: str = "") -> None:
        """Say how far the work is (0 to 1) and what is being done."""
        if not self.name:
            return
        # A share that cannot be told (a full disk, a slow address) is no reason to stop the work.
        with suppress(OSError), self.writing(f"{PROGRESS}/{self.name}.json") as path:
            path.write_text(json.dumps({"share": round(share, 3), "what": what}))


def _remote(root: str) -> tuple[Any, str]:
    """The file system behind an address, and the path in it."""
    from fsspec.core import url_to_fs  # comes with the optional extra "cluster" only

    files, base = url_to_fs(root)
    return files, str(base).rstrip("/")
