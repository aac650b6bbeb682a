"""House-keeping of a data directory: the vault without left-overs, and backups."""

from __future__ import annotations

import hashlib
import json
import shutil
import sqlite3
import zipfile
from pathlib import Path
from typing import Any

from cata import __version__
from cata.errors import Conflict, Refused
from cata.services.upkeep.sweeping import wanted_digests
from cata.services.workspace import Workspace, utc_now

MANIFEST = "manifest.json"
FORMAT = "cata-backup-1"


def backup(ws: Workspace, target: Path) -> dict[str, Any]:
    """Write everything into one zip: a consistent copy of the database, the recordings, and a manifest of digests.

    A running server may go on meanwhile. The file appears whole or not at all.
    """
    partial = target.with_name(f".{target.name}.partial")
    snapshot = ws.data_dir / "backup-snapshot.db"
    snapshot.unlink(missing_ok=True)
    try:
        with sqlite3.connect(ws.data_dir / "cata.db") as source:
            source.execute("VACUUM INTO ?", (str(snapshot),))
        source.close()
        files = {"cata.db": snapshot}
        files |= {f"vault/{digest[:2]}/{digest}": ws.vault.path(digest) for digest in sorted(wanted_digests(ws))}
        present = {name: path for name, path in files.items() if path.exists()}
        manifest = {
            "format": FORMAT,
            "version": __version__,
            "at": ws.now(),
            "files": {name: _sha256(path) for name, path in present.items()},
        }
        with zipfile.ZipFile(partial, "w", allowZip64=True) as archive:
            archive.writestr(MANIFEST, json.dumps(manifest, indent=1), zipfile.ZIP_DEFLATED)
            for name, path in present.items():
                archive.write(path, name, zipfile.ZIP_DEFLATED if name == "cata.db" else zipfile.ZIP_STORED)
        partial.replace(target)
        return manifest
    finally:
        snapshot.unlink(missing_ok=True)
        partial.unlink(missing_ok=True)


def _sha256(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def restore(archive_path: Path, data_dir: Path, *, replace: bool = False) -> dict[str, Any]:
    """Unpack a backup into a data directory; every file is checked against its digest before anything is replaced.

    What was there is kept beside it under another name. Refused for a file that is no backup or is damaged;
    Conflict where the directory holds data and ``replace`` was not said.
    """
    occupied = (data_dir / "cata.db").exists()
    if occupied and not replace:
        raise Conflict(f"{data_dir} already holds data; say --replace to put the backup in its place")
    fresh = data_dir.with_name(f"{data_dir.name}.restoring")
    shutil.rmtree(fresh, ignore_errors=True)
    try:
        manifest = _unpack(archive_path, fresh)
    except Exception:
        shutil.rmtree(fresh, ignore_errors=True)
        raise
    if data_dir.exists():
        stamp = utc_now().replace(":", "").replace("+0000", "Z")
        data_dir.rename(data_dir.with_name(f"{data_dir.name}.before-{stamp}"))
    fresh.rename(data_dir)
    return manifest


def _unpack(archive_path: Path, fresh: Path) -> dict[str, Any]:
    try:
        with zipfile.ZipFile(archive_path) as archive:
            manifest: dict[str, Any] = json.loads(archive.read(MANIFEST))
            if manifest.get("format") != FORMAT:
                raise Refused(f"{archive_path.name} is not a backup that this version reads")
            for name, digest in manifest["files"].items():
                parts = Path(name).parts
                if name.startswith("/") or ".." in parts or not (name == "cata.db" or parts[0] == "vault"):
                    raise Refused(f"the backup names a file outside its own folders: {name}")
                target = fresh / name
                target.parent.mkdir(parents=True, exist_ok=True)
                with archive.open(name) as source, target.open("wb") as out:
                    shutil.copyfileobj(source, out)
                if _sha256(target) != digest:
                    raise Refused(f"{name} in the backup is damaged")
    except (zipfile.BadZipFile, KeyError, json.JSONDecodeError, FileNotFoundError) as error:
        raise Refused(f"{archive_path} is not a backup, or is damaged") from error
    return manifest
