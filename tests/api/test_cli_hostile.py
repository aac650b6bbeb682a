"""The command line with hostile hands: every mistake gets a sentence and the exit status 2, and touches nothing."""

from __future__ import annotations

import os
import socket
import sqlite3
import subprocess
import sys
import threading
from collections.abc import Callable
from pathlib import Path

import pytest
from typer.testing import CliRunner

from cata.cli import app
from cata.services.workspace import open_workspace
from cata.settings import Settings
from tests.conftest import Server, write_take

runner = CliRunner()


def told(*arguments: str, env: dict[str, str] | None = None) -> str:
    """What the command line says of a mistake."""
    done = runner.invoke(app, list(arguments), env=env)
    assert done.exit_code == 2, done.output
    assert done.exception is None or isinstance(done.exception, SystemExit), done.exception
    assert "Traceback" not in done.output
    return done.output


def newer(path: Path) -> None:
    open_workspace(path).close()
    with sqlite3.connect(path / "cata.db") as database:
        database.execute("UPDATE alembic_version SET version_num = '9999'")
    database.close()


def foreign(path: Path) -> None:
    path.mkdir()
    with sqlite3.connect(path / "cata.db") as database:
        database.execute("CREATE TABLE thing (a)")
    database.close()


def corrupt(path: Path) -> None:
    path.mkdir()
    (path / "cata.db").write_bytes(b"words, no pages" * 900)


def folder(path: Path) -> None:
    (path / "cata.db").mkdir(parents=True)


DATA: dict[str, Callable[[Path], object]] = {
    "of a newer Cata": newer, "of another program": foreign, "that is damaged": corrupt, "that is a folder": folder,
    "in a file": lambda path: path.write_text("x"),
}  # fmt: skip


@pytest.mark.parametrize("kind", DATA)
def test_a_start_on_data_that_cannot_be_used_says_why_and_leaves_it(tmp_path: Path, kind: str) -> None:
    DATA[kind](tmp_path / "data")
    before = (tmp_path / "data/cata.db").read_bytes() if (tmp_path / "data/cata.db").is_file() else b""
    assert "data" in told("serve", "--data-dir", str(tmp_path / "data"))
    if before:
        assert (tmp_path / "data/cata.db").read_bytes() == before


def test_a_port_that_is_taken_is_told_before_any_address_is(tmp_path: Path) -> None:
    with socket.socket() as other:
        other.bind(("127.0.0.1", 0))
        other.listen()
        port = str(other.getsockname()[1])
        assert "http://" not in told("serve", "--port", port, "--data-dir", str(tmp_path / "data"))


@pytest.mark.parametrize(
    ("name", "value"), [("PORT", "abc"), ("PORT", "0"), ("MAX_MINUTES", "-1"), ("MAX_UPLOAD_MB", "")]
)
def test_a_bad_setting_is_named(name: str, value: str, tmp_path: Path) -> None:
    said = told("serve", "--data-dir", str(tmp_path / "data"), env={f"CATA_{name}": value})
    assert f"CATA_{name}" in said


@pytest.mark.grid(1)
@pytest.mark.parametrize("ending", [".wav", ".raw", ".csv"])
def test_a_pipe_is_not_waited_for(tmp_path: Path, ending: str) -> None:
    pipe = tmp_path / f"pipe{ending}"
    os.mkfifo(pipe)
    command = ["gear", "import", str(pipe)] if ending == ".csv" else ["measure", str(pipe)]
    outcome: list[int] = []
    run = threading.Thread(
        target=lambda: outcome.append(
            subprocess.run(
                [sys.executable, "-m", "cata.cli", *command], check=False, capture_output=True, timeout=60
            ).returncode
        )
    )
    run.start()
    run.join(70)
    assert outcome == [2]


def test_files_that_are_none_and_folders_that_are_not_there_are_told(tmp_path: Path) -> None:
    data, here = ["--data-dir", str(tmp_path / "data")], write_take(tmp_path / "a.wav")
    (tmp_path / "a.raw").write_bytes(here.read_bytes()[44:])
    gone = tmp_path / "no/such"
    for arguments in (
        ["measure", str(tmp_path / "a.raw")],
        ["measure", str(tmp_path)],
        ["backup", str(gone / "b.zip"), *data],
        ["export", str(gone / "b.json"), *data],
        ["gear", "export", str(gone / "b.csv"), *data],
        ["gear", "import", str(tmp_path), *data],
        ["gear", "import", str(gone), *data],
        ["restore", str(gone), "--data-dir", str(tmp_path / "fresh")],
        ["restore", str(here), "--data-dir", str(tmp_path / "fresh")],
        ["slate", str(gone / "s.wav"), "--take", "1"],
        ["testfile", str(gone / "t.wav"), "--part", "bursts"],
        ["cut", str(gone), "--takes", "1"],
        ["import", str(gone), *data],
        ["flight", "order", "99", *data],
    ):
        told(*arguments)
    assert not (tmp_path / "fresh").exists()


def test_a_shelf_with_old_line_ends_is_read_and_formulas_stay_text(tmp_path: Path) -> None:
    data = ["--data-dir", str(tmp_path / "data")]
    (tmp_path / "mac.csv").write_bytes(b"kind,name,about\rpedal,Alder,\t=1+1\rpedal,Birk, @x\r")
    assert runner.invoke(app, ["gear", "import", str(tmp_path / "mac.csv"), *data]).output.startswith("2 new")
    assert runner.invoke(app, ["gear", "export", str(tmp_path / "out.csv"), *data]).exit_code == 0
    cells = (tmp_path / "out.csv").read_text(encoding="utf-8-sig").split(",")
    assert not [cell for cell in cells if cell.lstrip('"').lstrip()[:1] in ("=", "+", "@")]


def test_the_demo_keeps_to_a_folder_of_its_own(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("CATA_DATA_DIR", str(tmp_path / "own"))
    open_workspace(tmp_path / "own").close()
    before = {path: path.read_bytes() for path in (tmp_path / "own").rglob("*") if path.is_file()}
    assert Settings().demo_dir == tmp_path / "own-demo"
    told("demo", "--data-dir", str(tmp_path / "own"))
    assert {path: path.read_bytes() for path in (tmp_path / "own").rglob("*") if path.is_file()} == before


def test_a_server_that_is_asked_to_stop_is_gone_in_five_seconds_whatever_runs(tmp_path: Path) -> None:
    import time

    from tests.tasks.test_runner import filled

    ws = open_workspace(tmp_path / "data", workers=1)
    filled(ws, tmp_path, 12)
    ws.close()
    server = Server("serve", tmp_path / "data")
    server.wait()
    time.sleep(1)
    begun = time.monotonic()
    assert server.stop() == 0
    assert time.monotonic() - begun < 5
