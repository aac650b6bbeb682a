"""Backups: everything in one zip, and back. Nothing is put in place before all of it was checked."""

from __future__ import annotations

import hashlib
import shutil
import sqlite3
import tempfile
import zipfile
from contextlib import closing
from pathlib import Path
from typing import Annotated

from pydantic import BaseModel, Field, ValidationError

from cata import __version__
from cata.errors import Conflict, Refused
from cata.services.upkeep.sweeping import wanted_digests
from cata.services.workspace import Workspace, utc_now
from cata.store.database import DATABASE, schema_version, take_over
from cata.store.lock import DataLock
from cata.store.replacing import recover, replacing

MANIFEST = "manifest.json"
FORMAT = "cata-backup-1"
MOST_MANIFEST_BYTES = 64 << 20
SPARE_BYTES = 16 << 20
NAME = r"^(cata\.db|vault/[0-9a-f]{2}/[0-9a-f]{64})$"


class Manifest(BaseModel):
    """What a backup holds: files by name with their SHA-256, of which version, made when."""

    format: str
    version: str
    at: str
    files: dict[Annotated[str, Field(pattern=NAME)], Annotated[str, Field(pattern="^[0-9a-f]{64}$")]]


def backup(ws: Workspace, target: Path) -> Manifest:
    """Write everything into one zip: a consistent copy of the database, the recordings, and a manifest of digests.

    A running server may go on meanwhile, and so may another backup. The file appears whole or not at all.
    """
    if not target.parent.is_dir():
        raise Refused(f"there is no folder {target.parent}", "no_folder")
    with tempfile.TemporaryDirectory(dir=target.parent, prefix=f".{target.name}-") as folder:
        snapshot, partial = Path(folder) / DATABASE, Path(folder) / target.name
        with closing(sqlite3.connect(ws.data_dir / DATABASE)) as source:
            source.execute("VACUUM INTO ?", (str(snapshot),))
        files = {DATABASE: snapshot}
        files |= {f"vault/{digest[:2]}/{digest}": ws.vault.path(digest) for digest in sorted(wanted_digests(ws))}
        present = {name: path for name, path in files.items() if path.exists()}
        manifest = Manifest(
            format=FORMAT, version=__version__, at=ws.now(), files={n: _sha256(path) for n, path in present.items()}
        )
        with zipfile.ZipFile(partial, "w", allowZip64=True) as archive:
            archive.writestr(MANIFEST, manifest.model_dump_json(indent=1), zipfile.ZIP_DEFLATED)
            for name, path in present.items():
                archive.write(path, name, zipfile.ZIP_DEFLATED if name == DATABASE else zipfile.ZIP_STORED)
        partial.replace(target)
    return manifest


def _sha256(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def restore(archive_path: Path, data_dir: Path, *, replace: bool = False) -> Manifest:
    """Unpack a backup into a data directory.

    What was there is kept beside it under another name, and no number that was given out there is given out again.
    However this is interrupted, the next start finds the old data or the new. Refused for a file that is no backup, is
    damaged, encrypted, of a newer Cata, or larger than the disk; Conflict where the directory holds data and
    ``replace`` was not said, or while another program has it open.
    """
    recover(data_dir)
    if (data_dir / DATABASE).exists() and not replace:
        raise Conflict(f"{data_dir} already holds data; say --replace to put the backup in its place", "holds_data")
    lock = DataLock.share(data_dir) if data_dir.exists() else None
    try:
        if lock is not None and not lock.alone():
            raise Conflict(f"another program has {data_dir} open: stop it first", "in_use")
        with replacing(data_dir, utc_now().replace(":", "").replace("+0000", "Z")) as fresh:
            manifest = _unpack(archive_path, fresh)
            take_over(fresh / DATABASE, data_dir / DATABASE)
    finally:
        if lock is not None:
            lock.release()
    return manifest


def _unpack(archive_path: Path, fresh: Path) -> Manifest:
    """All files of a backup in a new folder, each checked."""
    if not archive_path.is_file():
        raise Refused(f"there is no file {archive_path}", "missing")
    try:
        with zipfile.ZipFile(archive_path) as archive:
            manifest = _manifest(archive)
            _room_for(archive, manifest, fresh)
            for name, digest in manifest.files.items():
                target = fresh / name
                target.parent.mkdir(parents=True, exist_ok=True)
                with archive.open(name) as source, target.open("wb") as out:
                    shutil.copyfileobj(source, out, 1 << 20)
                if _sha256(target) != digest:
                    raise Refused(f"{name} in the backup is damaged", "damaged")
    except (zipfile.BadZipFile, zipfile.LargeZipFile, KeyError, EOFError, NotImplementedError) as error:
        raise Refused(f"{archive_path} is not a backup, or is damaged", "damaged") from error
    except zipfile.zlib.error as error:  # type: ignore[attr-defined]
        raise Refused(f"{archive_path} is damaged", "damaged") from error
    schema_version(fresh / DATABASE)  # refuses what is no database of Cata, or of a newer one
    with closing(sqlite3.connect(fresh / DATABASE)) as database:
        if database.execute("PRAGMA quick_check").fetchone() != ("ok",):
            raise Refused("the database in the backup is damaged", "damaged")
    return manifest


def _manifest(archive: zipfile.ZipFile) -> Manifest:
    if any(info.flag_bits & 1 for info in archive.infolist()):
        raise Refused("the backup is encrypted: take the password off first", "encrypted")
    if archive.getinfo(MANIFEST).file_size > MOST_MANIFEST_BYTES:
        raise Refused("the list in the backup is far too long", "too_large")
    try:
        manifest = Manifest.model_validate_json(archive.read(MANIFEST))
    except ValidationError as error:
        raise Refused("the list in the backup is damaged, or names files outside its own folders", "damaged") from error
    if manifest.format != FORMAT:
        raise Refused(f"this is not a backup that this version reads ({manifest.format[:40]})", "other_format")
    if DATABASE not in manifest.files:
        raise Refused("there is no database in the backup", "no_database")
    return manifest


def _room_for(archive: zipfile.ZipFile, manifest: Manifest, fresh: Path) -> None:
    """Refuse what would not fit, before any of it is unpacked."""
    wanted = sum(archive.getinfo(name).file_size for name in manifest.files) + SPARE_BYTES
    free = shutil.disk_usage(fresh.parent).free
    if wanted > free:
        raise Refused(
            f"the backup needs {wanted >> 20} MB, the disk has {free >> 20} MB left",
            "no_room",
            wanted=wanted,
            free=free,
        )
