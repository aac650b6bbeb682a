"""What goes wrong by nobody's fault: odd files, odd names, a full disk, Ctrl+C twice. All is told, nothing stays."""

from __future__ import annotations

import errno
import json
import os
import random
import shutil
import signal
import subprocess
import sys
import time
from pathlib import Path

import numpy as np
import pytest
import soundfile
from fastapi.testclient import TestClient
from typer.testing import CliRunner

from cata.cli import app
from cata.core.signals.slate import SlateMark, slate
from cata.services.flights.table import FlightIn, add_flight
from cata.services.shown.reel import Chapter, table
from cata.services.standing.flight import list_flights
from cata.services.upkeep.backup import backup
from cata.services.workspace import Workspace, open_workspace
from tests.conftest import Server, until, write_take
from tests.tones import plucks


def test_flagged_files_and_odd_names_are_measured_as_json(tmp_path: Path) -> None:
    samples = plucks([0.4, 0.9, 1.3, 1.9, 2.4], 196.0, 12.0, 3.2)
    soundfile.write(str(tmp_path / "a.mp3"), samples, 48_000, format="MP3")
    (tmp_path / "a.mp3").rename(tmp_path / "a.wav")
    odd = tmp_path / os.fsdecode(b"caf\xe9.wav")
    shutil.copy(write_take(tmp_path / "plain.wav"), odd)
    (tmp_path / "text.wav").write_text("no sound")
    files = [str(tmp_path / "a.wav"), str(odd), str(tmp_path / "text.wav")]
    done = subprocess.run(
        [sys.executable, "-m", "cata.cli", "measure", *files, "--json"], capture_output=True, check=False, timeout=120
    )
    assert done.returncode == 2, done.stderr
    flagged, named, refused = json.loads(done.stdout)
    assert len(flagged["notes"]) == 1
    assert named["refused"] is None
    assert refused["code"] == "not_audio"
    plainly = subprocess.run(
        [sys.executable, "-m", "cata.cli", "measure", *files[:2]], capture_output=True, check=False, timeout=120
    )
    assert plainly.returncode == 0, plainly.stderr


def damaged(folder: Path, ending: str, chance: random.Random) -> bytes:
    """A short recording with one bit turned, or cut off."""
    path = folder / f"whole.{ending}"
    if not path.exists():
        sound = slate(SlateMark(1), 48_000).samples.T
        soundfile.write(str(path), np.concatenate([np.zeros((24_000, 1), np.float32), sound]), 48_000)
    data = bytearray(path.read_bytes())
    if chance.random() < 0.3:
        return bytes(data[: chance.randrange(1, 400)])
    data[chance.randrange(len(data) if chance.random() < 0.5 else 120)] ^= 1 << chance.randrange(8)
    return bytes(data)


@pytest.mark.parametrize("ending", ["wav", "flac", "w64", "aiff", "ogg"])
def test_a_bit_that_is_turned_is_told_or_does_no_harm(client: TestClient, tmp_path: Path, ending: str) -> None:
    chance = random.Random(ending)
    for _ in range(12):
        data = damaged(tmp_path, ending, chance)
        for address in ("latency", f"tone-level?name=a.{ending}", f"own-level?name=a.{ending}"):
            answer = client.post(f"/api/{address}", content=data)
            assert answer.status_code in (200, 422), (address, answer.text)
            assert answer.json().get("detail") != ""
    left = client.app.state.workspace.vault.root / "incoming"  # type: ignore[attr-defined]
    assert list(left.iterdir()) == []


def test_a_damaged_long_recording_says_why(client: TestClient, tmp_path: Path) -> None:
    flight = client.post("/api/flights", json={"name": "F"}).json()["id"]
    samples = np.concatenate([plucks([0.4, 0.9, 1.3], 196.0, 12.0, 3.2), np.zeros(48_000)] * 4)
    soundfile.write(str(tmp_path / "long.flac"), samples, 48_000)
    data = bytearray((tmp_path / "long.flac").read_bytes())
    for at in range(len(data) // 2, len(data) // 2 + 4000):
        data[at] ^= 0x5A
    answer = client.post(
        f"/api/flights/{flight}/recordings", params={"name": "long.flac", "takes": 4}, content=bytes(data)
    )
    if answer.status_code == 422:
        assert answer.json()["code"] == "damaged"
        return
    at = f"/api/recordings/{answer.json()['id']}"
    told = until(lambda: client.get(at).json(), lambda one: one["state"] != "looking", seconds=30)
    assert told["state"] in ("refused", "found"), told
    assert "inside Cata" not in told["refusal"]


def test_a_loop_back_of_nothing_is_refused(client: TestClient, tmp_path: Path) -> None:
    soundfile.write(str(tmp_path / "silent.wav"), np.zeros(96_000), 48_000)
    answer = client.post("/api/loopbacks?name=silent.wav", content=(tmp_path / "silent.wav").read_bytes())
    assert (answer.status_code, answer.json()["code"]) == (422, "silent")


def test_numbers_that_cannot_be_are_refused(client: TestClient) -> None:
    for items in ([1, 2**63], [1, -1], [0, 1], ["a", "b"], [1.5, 2]):
        assert client.post("/api/deals", json={"items": items, "text": "5"}).status_code == 422


def test_a_part_that_a_file_has_not_leaves_nothing_behind(client: TestClient) -> None:
    client.post("/api/flights", json={"name": "F"})
    left = client.app.state.workspace.vault.root / "incoming"  # type: ignore[attr-defined]
    for wanted in ("bytes=999999999-", "bytes=0-10", "bytes=x"):
        assert client.get("/api/bundle", headers={"range": wanted}).status_code in (200, 206, 400, 416)
        assert list(left.iterdir()) == []


def test_no_table_that_is_taken_out_is_a_formula() -> None:
    text = table([Chapter(0.0, 1.0, '=HYPERLINK("http://evil")', "@riff")]).decode("utf-8-sig")
    assert text.splitlines()[1].startswith("0.000,1.000,\"'=HYPERLINK")
    assert "'@riff" in text


def test_what_does_not_fit_on_the_disk_is_told_and_what_was_there_stays(
    ws: Workspace, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    add_flight(ws, FlightIn(name="F"))
    run, here = CliRunner(), ["--data-dir", str(ws.data_dir)]
    out = tmp_path / "all.json"
    out.write_text("before")

    def full(_descriptor: int) -> None:
        raise OSError(errno.ENOSPC, "No space left on device")

    with monkeypatch.context() as patch:
        patch.setattr(os, "fsync", full)
        told = run.invoke(app, ["export", str(out), *here])
        assert told.exit_code == 2
        assert "the disk is full" in told.output
        told = run.invoke(app, ["gear", "export", str(tmp_path / "shelf.csv"), *here])
        assert told.exit_code == 2
    assert out.read_text() == "before"
    # SQLite says it in its own way.
    with monkeypatch.context() as patch:
        patch.setenv("SQLITE_TMPDIR", "/nowhere")
        told = run.invoke(app, ["backup", "/proc/backup.zip", *here])
        assert told.exit_code == 2, told.output
        assert "Traceback" not in told.output
    assert sorted(one.name for one in tmp_path.iterdir() if one.is_file()) == ["all.json"]


def killed_restores(folder: Path, empty: Path, times: int, seed: int) -> set[str]:
    """A restore that is killed at any moment; which library was found each time."""
    chance, found = random.Random(seed), set()
    data = Path(shutil.copytree(empty, folder / "data"))
    for name in ("old", "new"):
        ws = open_workspace(data, workers=1)
        add_flight(ws, FlightIn(name=name))
        backup(ws, folder / f"{name}.zip")
        ws.close()
    for number in range(times):
        which = chance.choice(["old", "new"])
        command = [sys.executable, "-m", "cata.cli", "restore", str(folder / f"{which}.zip"), "--data-dir", str(data)]
        restoring = subprocess.Popen([*command, "--replace"], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        # As soon as it has begun to write, or some time after that.
        until(lambda process=restoring: (folder / ".data-restoring").exists() or process.poll() is not None, bool)  # type: ignore[misc]
        time.sleep(chance.choice([0.0, chance.uniform(0.0, 0.05), chance.uniform(0.0, 0.4)]))
        restoring.kill()
        restoring.wait()
        ws = open_workspace(data, workers=1)
        names = sorted(one.name for one in list_flights(ws))
        ws.close()
        assert names in (["old"], ["new", "old"]), (number, names)
        assert not (folder / ".data-restoring").exists(), number
        found.add(" and ".join(names))
    return found


@pytest.mark.parametrize("times", [4, pytest.param(12, marks=pytest.mark.whole)])
def test_a_restore_that_is_killed_is_finished_or_undone_at_the_next_start(
    tmp_path: Path, empty: Path, times: int
) -> None:
    killed_restores(tmp_path, empty, times, seed=times)


@pytest.mark.certify
def test_a_server_that_is_told_twice_to_stop_says_nothing_of_it(tmp_path: Path) -> None:
    for number in range(8):
        server = Server("serve", tmp_path / "data")
        server.wait()
        for signals in ((signal.SIGINT, signal.SIGTERM), (signal.SIGINT, signal.SIGINT))[number % 2]:
            os.killpg(server.process.pid, signals)
            time.sleep(0.01 * number)
        server.process.wait(timeout=30)
        assert server.process.stderr is not None
        said = server.process.stderr.read().decode()
        server.process.stderr.close()
        assert "Traceback" not in said, said
