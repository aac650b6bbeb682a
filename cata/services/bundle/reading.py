"""Reading a bundle: nothing is believed before it was checked, and no name in it becomes a path."""

from __future__ import annotations

import hashlib
import json
import zipfile
import zlib
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from cata.errors import Refused
from cata.services.bundle.checking import checked
from cata.services.bundle.columns import Row, read_rows
from cata.services.bundle.links import TABLES
from cata.services.bundle.packing import DESCRIPTOR, FORMAT
from cata.store.vault import Vault

MOST_TABLE = 256 << 20
MOST_ROWS = 200_000


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
            descriptor = _descriptor(archive)
            rows = {table: _rows(archive, table) for table in TABLES}
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
    if found["cata"] != FORMAT:
        raise Refused(
            f"this bundle was written by a newer Cata ({str(found['cata'])[:40]}): update Cata", "other_format"
        )
    return found


def _content(archive: zipfile.ZipFile, name: str) -> bytes:
    if name not in archive.NameToInfo:
        raise Refused("this is no bundle of Cata: it has no datapackage.json that says so", "other_format")
    if archive.getinfo(name).file_size > MOST_TABLE:
        raise Refused(f"{name} in the bundle is far too large", "too_large")
    with archive.open(name) as file:
        # The size in the list is not believed either.
        found = file.read(MOST_TABLE + 1)
    if len(found) > MOST_TABLE:
        raise Refused(f"{name} in the bundle is far too large", "too_large")
    return found


def _rows(archive: zipfile.ZipFile, table: str) -> list[Row]:
    name = f"data/{table}.csv"
    if name not in archive.NameToInfo:
        return []
    found = read_rows(TABLES[table], _content(archive, name))
    if len(found) > MOST_ROWS:
        raise Refused(f"the table {table} of the bundle has more than {MOST_ROWS} rows", "too_large")
    rows = [checked(table, row, number) for number, row in enumerate(found, start=2)]
    if len({row["id"] for row in rows}) < len(rows):
        raise Refused(f"two rows of the table {table} of the bundle have one number", "bad_row")
    return rows


def _audio(archive: zipfile.ZipFile) -> dict[str, zipfile.ZipInfo]:
    """Recordings by their digest, which is all of their name that is read."""
    size = len(hashlib.sha256().hexdigest())
    return {
        info.filename.removeprefix("audio/")[:size]: info
        for info in archive.infolist()
        if info.filename.startswith("audio/")
    }
