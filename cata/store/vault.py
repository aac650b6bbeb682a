"""The vault: the bytes of recordings as they came, named by their SHA-256.

A file is written under a temporary name, flushed to the disk, and renamed: after a crash it is there
whole or not at all.
"""

from __future__ import annotations

import hashlib
import os
import secrets
import time
from collections.abc import Iterable, Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from pathlib import Path
from typing import BinaryIO

from cata.errors import Refused

DEFAULT_MAX_BYTES = 1 << 30
UNTOUCHED_S = 3600


@dataclass(frozen=True)
class Kept:
    """A file in the vault."""

    digest: str
    size_bytes: int
    path: Path


class Incoming:
    """A file on its way into the vault."""

    def __init__(self, file: BinaryIO, path: Path, max_bytes: int) -> None:
        self._file = file
        self._hash = hashlib.sha256()
        self._max_bytes = max_bytes
        self.path = path
        self.size_bytes = 0

    def write(self, chunk: bytes) -> None:
        """Add bytes; Refused beyond the limit."""
        self.size_bytes += len(chunk)
        if self.size_bytes > self._max_bytes:
            raise Refused(f"the file is larger than {self._max_bytes >> 20} MB", "too_large")
        self._hash.update(chunk)
        self._file.write(chunk)

    def flush(self) -> None:
        """Make the bytes safe on the disk."""
        self._file.flush()
        os.fsync(self._file.fileno())

    @property
    def digest(self) -> str:
        """SHA-256 of what was written, hexadecimal."""
        return self._hash.hexdigest()


class Vault:
    """Files by content below ``root``; listening copies and features, which can be made again, in ``copies``."""

    def __init__(self, root: Path, max_bytes: int = DEFAULT_MAX_BYTES) -> None:
        self.root = root
        self.copies = root.parent / "copies"
        self.max_bytes = max_bytes
        self._incoming = root / "incoming"
        for folder in (self.root, self.copies, self._incoming):
            folder.mkdir(parents=True, exist_ok=True)

    def path(self, digest: str) -> Path:
        """Where the file with this digest lies (or would)."""
        return self.root / digest[:2] / digest

    def copy_path(self, digest: str) -> Path:
        """Where its listening copy lies (or would)."""
        return self.copies / f"{digest}.flac"

    def features_path(self, digest: str) -> Path:
        """Where what comparisons need of it lies (or would)."""
        return self.copies / f"{digest}.npz"

    @contextmanager
    def receive(self, suffix: str = "") -> Iterator[Incoming]:
        """A temporary file; it is removed at the end unless :meth:`keep` was called."""
        safe = "".join(c for c in suffix.lower() if c.isascii() and (c.isalnum() or c == "."))[:8]
        path = self._incoming / f"{secrets.token_hex(8)}{safe}"
        try:
            with path.open("xb") as file:
                yield Incoming(file, path, self.max_bytes)
        finally:
            path.unlink(missing_ok=True)

    def keep(self, incoming: Incoming) -> Kept:
        """Give the received file its place. The same content twice is kept once."""
        incoming.flush()
        return self._place(incoming.path, incoming.digest, incoming.size_bytes)

    def _place(self, path: Path, digest: str, size_bytes: int) -> Kept:
        """Give a whole, flushed file its place; one that was there and is damaged is healed by it."""
        target = self.path(digest)
        target.parent.mkdir(exist_ok=True)
        if self._holds(target, digest, size_bytes):
            # Wanted again from now on: a sweep that began before must take it for new.
            os.utime(target)
        else:
            os.replace(path, target)
            directory = os.open(target.parent, os.O_RDONLY)
            try:
                os.fsync(directory)
            finally:
                os.close(directory)
        return Kept(digest, size_bytes, target)

    @staticmethod
    def _holds(target: Path, digest: str, size_bytes: int) -> bool:
        try:
            with target.open("rb") as file:
                whole = os.fstat(file.fileno()).st_size == size_bytes
                return whole and hashlib.file_digest(file, "sha256").hexdigest() == digest
        except FileNotFoundError:
            return False

    def add(self, source: Path) -> Kept:
        """Copy a file from elsewhere into the vault."""
        with self.receive(source.suffix) as incoming:
            with source.open("rb") as file:
                for chunk in iter(lambda: file.read(1 << 20), b""):
                    incoming.write(chunk)
            return self.keep(incoming)

    @contextmanager
    def adopting(self, path: Path) -> Iterator[Kept]:
        """Keep a file that a worker wrote inside the data directory; the loose file is gone afterwards."""
        try:
            with path.open("rb") as file:
                digest = hashlib.file_digest(file, "sha256").hexdigest()
                size = os.fstat(file.fileno()).st_size
                os.fsync(file.fileno())
            yield self._place(path, digest, size)
        finally:
            path.unlink(missing_ok=True)

    def sweep(self, wanted: Iterable[str], *, before: float | None = None) -> int:
        """Remove left-over temporary files and files whose digest is not wanted any more; how many.

        Only those last touched ``before`` a time in seconds since the epoch; by default an hour ago, for another
        process may just be bringing them in.
        """
        keep = set(wanted)
        removed = 0
        newest = time.time() - UNTOUCHED_S if before is None else before
        left = [*self._incoming.iterdir(), *self.root.glob("??/*"), *self.copies.iterdir()]
        for path in left:
            # A file that goes meanwhile was on its way in, or another process sweeps as well.
            with suppress(FileNotFoundError):
                if path.name.partition(".")[0] not in keep and path.stat().st_mtime < newest:
                    path.unlink()
                    removed += 1
        return removed
