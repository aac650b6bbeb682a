"""The whole program stays under 1 GB, whatever it is given: bombs, hours of silence, eight reels at once."""

from __future__ import annotations

import base64
import io
import subprocess
import zipfile
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import httpx
import numpy as np
import pytest
import soundfile

from cata.services.background import runner_for
from cata.services.bundle.packing import FORMAT
from cata.services.takes.importing import run_import
from cata.services.workspace import open_workspace
from tests.conftest import running, until
from tests.memory import peak

MOST_MB = 1000
HEADS = "id,uid,kind,name,about,structure,controls,specs,created_at\n"


def bundle(**files: bytes) -> bytes:
    told = files.pop("resources", b"[]").decode()
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("datapackage.json", f'{{"cata": "{FORMAT}", "title": "Bomb", "resources": {told}}}')
        for name, content in files.items():
            archive.writestr(f"data/{name}.csv", content)
    return out.getvalue()


def cell(content: str) -> bytes:
    return f'id,uid,name,need\n1,{"a" * 32},n,"{content}"\n'.encode()


def shelf(count: int) -> bytes:
    return (HEADS + "".join(f"{n},{n:032x},pedal,P{n},,,[],{{}},\n" for n in range(1, count + 1))).encode()


BOMBS: dict[str, dict[str, bytes]] = {
    "five million rows": {"gear": b"id\n" + b"1\n" * 5_000_000},
    "as many empty lines": {"gear": b"id\n" + b"\n" * 30_000_000},
    "a line without an end": {"gear": b"id\n" + b" " * 100_000_000},
    "a quote without an end": {"gear": b'id\n"' + b"x\n" * 20_000_000},
    "half a million columns": {"gear": b",".join(b"c%d" % n for n in range(500_000)) + b"\n"},
    "a deep cell": {"brief": cell("[" * 2_000_000)},
    "a wide cell": {"brief": cell('{""sounds"":[' + ",".join(["{}"] * 1_000_000) + "]}")},
    "a long number": {"brief": cell('{""budget_minor"":' + "9" * 3_000_000 + "}")},
    "a list of millions": {"resources": b"[" + b"{}," * 5_000_000 + b"{}]"},
    "too many of all": {"gear": shelf(150_000), "price": b"id\n" + b"1\n" * 60_000},
}

SHELF_BOMBS = [
    (b"name\n" + b"a\n" * (15 << 20), "too_many"),
    (b"[" + b"{}," * 8_000_000 + b"{}]", "too_many"),
    (b"[{" + b",".join(b'"k%d":1' % n for n in range(2_300_000)) + b"}]", "too_many"),
    (b'[{"price":' + b"9" * (30 << 20) + b"}]", "damaged"),
]


@pytest.mark.certify
def test_bombs_are_refused_and_cost_little(tmp_path: Path) -> None:
    with running("serve", tmp_path / "data") as server, peak(server.process.pid) as held:
        for name, files in BOMBS.items():
            answer = httpx.post(f"{server.url}/api/bundle", content=bundle(**files), timeout=60)
            assert answer.status_code in (200, 422), (name, answer.text)
            if answer.status_code == 200:
                assert answer.json()["added"] == {}, name
        for content, why in SHELF_BOMBS:
            asked = {"content": base64.b64encode(content).decode()}
            answer = httpx.post(f"{server.url}/api/gear/import", json=asked, timeout=60)
            assert (answer.status_code, answer.json()["code"]) == (422, why), answer.text
        # What is no bomb comes in.
        added = httpx.post(f"{server.url}/api/bundle", content=bundle(gear=shelf(20_000)), timeout=120).json()["added"]
        assert added == {"gear": 20_000}
    assert held.mb < MOST_MB


@pytest.mark.whole
def test_hours_of_silence_are_heard_in_little(tmp_path: Path) -> None:
    silence = tmp_path / "silence.flac"
    subprocess.run(["sox", "-n", "-r", "48000", "-c", "2", str(silence), "trim", "0", "7200"], check=True)
    data = silence.read_bytes()
    with running("serve", tmp_path / "data") as server, peak(server.process.pid) as held:
        for address in ("latency", "tone-level?name=a.flac", "own-level?name=a.flac"):
            answer = httpx.post(f"{server.url}/api/{address}", content=data, timeout=60)
            assert answer.status_code in (200, 422), answer.text
        flight = httpx.post(f"{server.url}/api/flights", json={"name": "F"}).json()["id"]
        at = f"{server.url}/api/flights/{flight}/recordings"
        for slates in ("true", "false"):
            asked = {"name": f"{slates}.flac", "takes": "5", "slates": slates}
            assert httpx.post(at, params=asked, content=data, timeout=60).status_code == 201
        until(lambda: {one["state"] for one in httpx.get(at).json()}, lambda states: "looking" not in states,
              seconds=300)  # fmt: skip
    assert held.mb < MOST_MB


@pytest.fixture
def long_takes(tmp_path: Path) -> Path:
    """A flight of eight takes of two minutes in two channels."""
    (takes := tmp_path / "Long").mkdir()
    noise = np.random.default_rng(1).normal(0, 0.05, (120 * 48_000, 2)).astype(np.float32)
    for number in range(8):
        soundfile.write(str(takes / f"P{number} - riff.flac"), noise * (1 + number / 10), 48_000, subtype="PCM_16")
    ws = open_workspace(tmp_path / "data", workers=2)
    run_import(ws, takes)
    runner_for(ws).run_until_idle(lasting=False)
    ws.close()
    return tmp_path / "data"


@pytest.mark.whole
def test_eight_reels_at_once_wait_for_each_other(long_takes: Path) -> None:
    with running("serve", long_takes) as server, peak(server.process.pid) as held, ThreadPoolExecutor(8) as pool:
        # What else is to be done of these takes has memory of its own.
        httpx.post(f"{server.url}/api/flights/1/work/cancel")
        url = f"{server.url}/api/out/flights/1/reel.zip"
        asked = [pool.submit(httpx.get, url, timeout=300) for _ in range(8)]
        sizes = {len(one.result().content) for one in asked}
        assert all(one.result().status_code == 200 for one in asked)
        assert len(sizes) == 1
        assert list((long_takes / "vault" / "incoming").iterdir()) == []
    assert held.mb < MOST_MB
