"""Reading a bundle: nothing is believed before it was checked, and no name in it becomes a path."""

from __future__ import annotations

import codecs
import hashlib
import json
import zipfile
import zlib
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import IO, Any

from cata.errors import Refused
from cata.services.bundle.checking import check_together, checked
from cata.services.bundle.columns import MOST_CELL, Row, read_rows
from cata.services.bundle.links import TABLES
from cata.services.bundle.older import OLDER, brought_up
from cata.services.bundle.packing import DESCRIPTOR, FORMAT
from cata.store.vault import Vault

MOST_FILES, MOST_LIST = 500_000, 16 << 20
MOST_PARTS = 2 * MOST_FILES
"""Lists and objects in the list: millions of empty ones would take half a gigabyte."""
MOST_ROWS = 200_000
MOST_LINES = 1_000_000
"""Cells may have lines of their own; lines without a row take time, too."""
MOST_LINE, BOM = MOST_CELL, codecs.BOM_UTF8
MOST_TABLES = 64 << 20
"""Rows, and bytes of text, of all tables together: checked as they are read, so that nothing larger is ever held."""


@dataclass
class Bundle:
    """An open bundle: its title, its rows by table, and where each recording lies in it."""

    title: str
    rows: dict[str, list[Row]]
    audio: dict[str, zipfile.ZipInfo]
    archive: zipfile.ZipFile

    def keep(self, vault: Vault, digest: str) -> bool:
        """Put a recording into the vault; False where the bundle has none. Refused where it is not what it says."""
        info = self.audio.get(digest)
        if info is None:
            return False
        with vault.receive(Path(info.filename).suffix) as incoming, self.archive.open(info) as source:
            for chunk in iter(lambda: source.read(1 << 20), b""):
                incoming.write(chunk)
            if incoming.digest != digest:
                raise Refused("a recording in the bundle is damaged", "damaged")
            vault.keep(incoming)
        return True


@contextmanager
def opened(path: Path) -> Iterator[Bundle]:
    """A bundle with all its rows checked. Refused for what is none, is damaged, encrypted, too large or newer."""
    if not path.is_file():
        raise Refused(f"there is no file {path}", "missing")
    try:
        with zipfile.ZipFile(path) as archive:
            if any(info.flag_bits & 1 for info in archive.infolist()):
                raise Refused("the bundle is encrypted: take the password off first", "encrypted")
            if len(archive.infolist()) > MOST_FILES:
                raise Refused(f"the bundle holds more than {MOST_FILES} files", "too_large")
            descriptor = _descriptor(archive)
            rows = _rows(archive, descriptor["cata"])
            yield Bundle(str(descriptor.get("title", ""))[:200], rows, _audio(archive), archive)
    except (zipfile.BadZipFile, zipfile.LargeZipFile, EOFError, NotImplementedError, zlib.error) as error:
        raise Refused(f"{path.name} is no bundle, or is damaged", "damaged") from error


def _descriptor(archive: zipfile.ZipFile) -> dict[str, Any]:
    try:
        found = json.loads(_content(archive, DESCRIPTOR))
    except (ValueError, RecursionError) as error:
        raise Refused("the list in the bundle is damaged", "damaged") from error
    if not isinstance(found, dict) or "cata" not in found:
        raise Refused("this is no bundle of Cata: it has no datapackage.json that says so", "other_format")
    if found["cata"] not in (FORMAT, OLDER):
        raise Refused(
            f"this bundle was written by a newer Cata ({str(found['cata'])[:40]}): update Cata", "other_format"
        )
    return found


def _content(archive: zipfile.ZipFile, name: str) -> bytes:
    if name not in archive.NameToInfo:
        raise Refused("this is no bundle of Cata: it has no datapackage.json that says so", "other_format")
    with archive.open(name) as file:
        found = file.read(MOST_LIST + 1)
    if len(found) > MOST_LIST or found.count(b"{") + found.count(b"[") > MOST_PARTS:
        raise Refused(f"{name} in the bundle is far too large", "too_large")
    return found


def _rows(archive: zipfile.ZipFile, version: str) -> dict[str, list[Row]]:
    """All rows, checked each and together. Refused as soon as there are too many."""
    read, size = Counted(MOST_ROWS), Counted(MOST_TABLES, MOST_LINES)
    found: dict[str, list[Row]] = {}
    for table in TABLES:
        name = f"data/{table}.csv"
        found[table] = []
        if name in archive.NameToInfo:
            with archive.open(name) as file:
                found[table] = list(read.each(read_rows(TABLES[table], size.lines(file), version == OLDER)))
    if version == OLDER:
        found = brought_up(found)
    for table, rows in found.items():
        found[table] = [checked(table, row, number) for number, row in enumerate(rows, start=2)]
        if len({row["id"] for row in rows}) < len(rows):
            raise Refused(f"two rows of the table {table} of the bundle have one number", "bad_row")
    check_together({table: {row["id"]: row for row in rows} for table, rows in found.items()})
    return found


@dataclass
class Counted:
    """What may come of something, in all."""

    most: int
    most_lines: int = 0
    came: int = 0
    lines_came: int = 0

    def add(self, count: int) -> None:
        """Count; Refused beyond what may come."""
        self.came += count
        if self.came > self.most:
            raise Refused(f"the tables of the bundle are far too large: more than {self.most:,}", "too_large")

    def each(self, rows: Iterator[Row]) -> Iterator[Row]:
        """Rows, each counted before it is kept."""
        for row in rows:
            self.add(1)
            yield row

    def lines(self, file: IO[bytes]) -> Iterator[str]:
        """Lines of text, counted by their bytes before they are read: one without an end is no line."""
        while line := file.readline(MOST_LINE + 1):
            if len(line) > MOST_LINE:
                raise Refused("a line in the bundle is far too long", "too_large")
            self.add(len(line))
            self.lines_came += 1
            if self.lines_came > self.most_lines:
                raise Refused("the tables of the bundle are far too long", "too_large")
            yield line.decode("utf-8-sig" if line.startswith(BOM) else "utf-8")


def _audio(archive: zipfile.ZipFile) -> dict[str, zipfile.ZipInfo]:
    """Recordings by their digest, which is all of their name that is read."""
    size = len(hashlib.sha256().hexdigest())
    return {
        info.filename.removeprefix("audio/")[:size]: info
        for info in archive.infolist()
        if info.filename.startswith("audio/")
    }
