"""Backups bring everything back, and whatever is wrong with one is said before anything is touched."""

from __future__ import annotations

import random
import shutil
import sqlite3
import zipfile
from collections import namedtuple
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest

from cata.errors import CataError, Conflict, Refused
from cata.services.flights.table import FlightIn, add_flight
from cata.services.takes.receiving import add_take
from cata.services.upkeep.backup import backup, restore
from cata.services.upkeep.export import export_all
from cata.services.workspace import Workspace, open_workspace
from tests.conftest import SOME_FACTS, write_take


@pytest.fixture
def saved(ws: Workspace, tmp_path: Path) -> Path:
    flight = add_flight(ws, FlightIn(name="F"))
    kept = ws.vault.add(write_take(tmp_path / "a.wav"))
    add_take(ws, flight, "Alder - Riff.wav", kept, SOME_FACTS)
    assert len(backup(ws, tmp_path / "b.zip").files) == 2
    return tmp_path / "b.zip"


def test_a_backup_brings_everything_back(ws: Workspace, saved: Path, tmp_path: Path) -> None:
    restore(saved, tmp_path / "other")
    other = open_workspace(tmp_path / "other", workers=1)
    assert export_all(other) == export_all(ws)
    assert len(list((tmp_path / "other/vault").glob("??/*"))) == 1
    other.close()


def test_two_backups_at_once_are_both_whole(ws: Workspace, saved: Path, tmp_path: Path) -> None:
    with ThreadPoolExecutor(2) as pool:
        list(pool.map(lambda n: backup(ws, tmp_path / f"{n}.zip"), range(2)))
    for number in range(2):
        restore(tmp_path / f"{number}.zip", tmp_path / f"at-{number}")
    assert {path.name for path in tmp_path.iterdir() if path.name.startswith(".")} == set()


def test_restoring_over_data_needs_a_word_and_nobody_who_uses_it(ws: Workspace, saved: Path, tmp_path: Path) -> None:
    with pytest.raises(Conflict) as occupied:
        restore(saved, ws.data_dir)
    assert occupied.value.code == "holds_data"
    with pytest.raises(Conflict) as used:
        restore(saved, ws.data_dir, replace=True)
    assert used.value.code == "in_use"
    ws.close()
    restore(saved, ws.data_dir, replace=True)
    assert [p for p in tmp_path.iterdir() if ".before-" in p.name]


def _rewritten(path: Path, change: Callable[[dict[str, bytes]], None]) -> None:
    with zipfile.ZipFile(path) as archive:
        files = {name: archive.read(name) for name in archive.namelist()}
    change(files)
    with zipfile.ZipFile(path, "w") as archive:
        for name, data in files.items():
            archive.writestr(name, data)


def _manifest(old: bytes, new: bytes) -> Callable[[Path], None]:
    return lambda path: _rewritten(path, lambda f: f.update({"manifest.json": f["manifest.json"].replace(old, new)}))


def _database(change: str) -> Callable[[Path], None]:
    """The database in the backup, changed, with the digest it then has."""

    def damage(path: Path) -> None:
        import hashlib

        def put(files: dict[str, bytes]) -> None:
            at = path.with_suffix(".db")
            at.write_bytes(files["cata.db"])
            old = hashlib.sha256(files["cata.db"]).hexdigest()
            if change == "words":
                at.write_bytes(b"these are words" * 100)
            else:
                with sqlite3.connect(at) as database:
                    database.execute(change)
                database.close()
            files["cata.db"] = at.read_bytes()
            new = hashlib.sha256(files["cata.db"]).hexdigest()
            files["manifest.json"] = files["manifest.json"].replace(old.encode(), new.encode())

        _rewritten(path, put)

    return damage


def _encrypted(path: Path) -> None:
    data = bytearray(path.read_bytes())
    for mark, offset in ((b"PK\x03\x04", 6), (b"PK\x01\x02", 8)):
        at = data.find(mark)
        data[at + offset] |= 1
    path.write_bytes(bytes(data))


DAMAGES: dict[str, tuple[str, Callable[[Path], object]]] = {
    "words": ("damaged", lambda path: path.write_text("hello")),
    "nothing": ("damaged", lambda path: path.write_bytes(b"")),
    "another zip": ("damaged", lambda path: _rewritten(path, dict.clear)),
    "no list": ("damaged", lambda path: _rewritten(path, lambda files: files.pop("manifest.json"))),
    "a list of words": ("damaged", _manifest(b"{", b"words")),
    "a way out": ("damaged", _manifest(b'"cata.db"', b'"vault/../../evil"')),
    "an absolute way out": ("damaged", _manifest(b'"cata.db"', b'"/tmp/evil"')),
    "another format": ("other_format", _manifest(b"cata-backup-1", b"cata-backup-9")),
    "no database": ("no_database", _manifest(b'"cata.db"', b'"vault/aa/' + b"a" * 64 + b'"')),
    "a recording is missing": ("damaged", lambda path: _rewritten(path, lambda f: f.pop(sorted(f)[-1]))),
    "another digest": ("damaged", lambda path: _rewritten(path, lambda f: f.update({"cata.db": b"x" * 5000}))),
    "a database of words": ("not_a_database", _database("words")),
    "of a newer one": ("newer_database", _database("UPDATE alembic_version SET version_num = '9999'")),
    "of another program": ("foreign_database", _database("DROP TABLE alembic_version")),
    "encrypted": ("encrypted", _encrypted),
}


def refused(saved: Path, tmp_path: Path) -> CataError | None:
    """What a restore is refused with; nothing may be left of it."""
    before = {path.name for path in tmp_path.iterdir()}
    try:
        restore(saved, tmp_path / "target")
    except CataError as error:
        assert {path.name for path in tmp_path.iterdir()} == before
        return error
    shutil.rmtree(tmp_path / "target")
    return None


@pytest.mark.parametrize("damage", DAMAGES)
def test_a_bad_backup_is_refused_and_touches_nothing(saved: Path, tmp_path: Path, damage: str) -> None:
    code, make = DAMAGES[damage]
    make(saved)
    error = refused(saved, tmp_path)
    assert isinstance(error, Refused)
    assert error.code == code


def test_a_backup_larger_than_the_disk_is_refused_before_it_is_unpacked(
    saved: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(shutil, "disk_usage", lambda _path: namedtuple("usage", "total used free")(0, 0, 1 << 20))
    error = refused(saved, tmp_path)
    assert error is not None
    assert error.code == "no_room"
    assert error.numbers["free"] == 1 << 20


def test_a_backup_that_was_cut_off_or_flipped_anywhere_is_whole_or_refused(saved: Path, tmp_path: Path) -> None:
    whole, rng = saved.read_bytes(), random.Random(3)
    told = 0
    for number in range(45):
        at = rng.randrange(len(whole))
        damaged = whole[:at] if number % 3 == 0 else whole[:at] + bytes([whole[at] ^ 0x5A]) + whole[at + 1 :]
        saved.write_bytes(damaged)
        told += refused(saved, tmp_path) is not None
    assert told >= 40  # a byte of a time or of a comment harms nothing


def test_a_folder_that_is_not_there_is_told(ws: Workspace, tmp_path: Path) -> None:
    with pytest.raises(Refused) as missing:
        backup(ws, tmp_path / "no/such/b.zip")
    assert missing.value.code == "no_folder"
