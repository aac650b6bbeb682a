"""Hostile hands at plans and capture: bad bodies, double clicks, two tabs, names that are no names."""

from __future__ import annotations

from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest
import soundfile
from fastapi.testclient import TestClient

from tests.conftest import until, write_take
from tests.recordings import found, make_takes
from tests.sessions import session

NASTY = ["../../etc/passwd", "<img src=x onerror=alert(1)>", "a'; DROP TABLE take;--", "\u202etxt.wav", "x" * 900]


@pytest.fixture
def flight(client: TestClient) -> Iterator[int]:
    """Two contenders in two tests, ordered."""
    ident = client.post("/api/flights", json={"name": "Drives", "link": "pedal"}).json()["id"]
    for name in ("Alder", "Birk"):
        client.post(f"/api/flights/{ident}/contenders", json={"name": name})
    for name in ("Riff", "Lead"):
        client.post(f"/api/flights/{ident}/tests", json={"name": name})
    assert client.post(f"/api/flights/{ident}/order", json={"anchors": False}).status_code == 200
    return ident


def steps(client: TestClient, flight: int) -> list[dict]:  # type: ignore[type-arg]
    return client.get(f"/api/flights/{flight}/order").json()["steps"]


@pytest.mark.grid(2)
@pytest.mark.parametrize("name", NASTY)
def test_a_recording_keeps_its_name_and_nothing_else_of_it(
    client: TestClient, flight: int, tmp_path: Path, name: str
) -> None:
    made = session(takes=2, seconds=50, rate_hz=8_000, slates=True, seed=3)
    soundfile.write(str(tmp_path / "day.flac"), made.samples, 8_000)
    url = f"/api/flights/{flight}/recordings"
    body = (tmp_path / "day.flac").read_bytes()
    answer = client.post(url, params={"name": name, "slates": True}, content=body)
    assert answer.status_code == 201
    make_takes(client, answer.json()["id"], 2)
    files = [path for path in (tmp_path / "data" / "vault").rglob("*") if path.is_file()]
    assert all(len(path.name) == 64 for path in files)


@pytest.mark.grid(2)
@pytest.mark.parametrize(
    "pieces",
    [
        [{"take": 0, "start_s": 0, "end_s": 1, "confidence": 1}],
        [{"take": 1, "start_s": -1, "end_s": 1, "confidence": 1}],
        [{"take": 1, "start_s": 3, "end_s": 1, "confidence": 1}],
        [{"take": 1, "start_s": 0, "end_s": 1e9, "confidence": 1}],
        [{"take": 1, "start_s": 0, "end_s": 1, "confidence": 7}],
        "words",
    ],
)
def test_cuts_that_cannot_be_are_refused_and_change_nothing(
    client: TestClient, flight: int, tmp_path: Path, pieces: object
) -> None:
    write_take(tmp_path / "a.wav")
    url = f"/api/flights/{flight}/recordings"
    body = (tmp_path / "a.wav").read_bytes()
    recording = client.post(url, params={"name": "a.wav", "takes": 1}, content=body).json()
    found(client, recording["id"])
    before = client.get(f"/api/recordings/{recording['id']}").json()
    assert client.put(f"/api/recordings/{recording['id']}/pieces", json={"pieces": pieces}).status_code == 422
    assert client.get(f"/api/recordings/{recording['id']}").json() == before


@pytest.mark.certify
def test_a_double_click_on_make_makes_each_take_once(client: TestClient, flight: int, tmp_path: Path) -> None:
    made = session(takes=2, seconds=50, rate_hz=8_000, slates=True, seed=3)
    soundfile.write(str(tmp_path / "day.flac"), made.samples, 8_000)
    answer = client.post(
        f"/api/flights/{flight}/recordings",
        params={"name": "day.flac", "slates": True},
        content=(tmp_path / "day.flac").read_bytes(),
    )
    found(client, answer.json()["id"])
    url = f"/api/recordings/{answer.json()['id']}/takes"
    with ThreadPoolExecutor(2) as pool:
        codes = [future.result().status_code for future in [pool.submit(client.post, url) for _ in range(2)]]
    assert codes == [202, 202]
    until(lambda: client.get(f"/api/flights/{flight}").json(), lambda view: view["making"] is None)
    view = client.get(f"/api/flights/{flight}").json()
    assert len(view["takes"]) == 2
    assert all(take["test_id"] for take in view["takes"])


def test_two_tabs_that_record_the_same_take_lose_neither(client: TestClient, flight: int, tmp_path: Path) -> None:
    step = steps(client, flight)[0]
    for index in range(2):
        body = write_take(tmp_path / f"{index}.wav", hz=200 + index).read_bytes()
        params = {"name": f"{index}.wav", "planned_id": step["planned_id"]}
        assert client.post(f"/api/flights/{flight}/takes", params=params, content=body).status_code == 201
    takes = client.get(f"/api/flights/{flight}").json()["takes"]
    assert sorted(bool(take["test_id"]) for take in takes) == [False, True]
    assert next(take for take in takes if take["test_id"])["filename"] == "1.wav"


def test_marks_and_conditions_out_of_range_are_refused(client: TestClient, flight: int) -> None:
    step = steps(client, flight)[0]
    for body in ({"state": "perhaps"}, {"used": {"a": 5}}, {"used": {str(i): "x" for i in range(99)}}):
        assert client.patch(f"/api/planned/{step['planned_id']}", json=body).status_code == 422
    for body in ({"bpm": 0}, {"knobs": {"nose": 1}}, {"guitar_volume": 2}, {"pickup": "tail"}):
        assert client.put(f"/api/tests/{step['test_id']}/condition", json=body).status_code == 422
    for body in ({"links": [{"key": "a b", "kind": "pedal"}]}, {"links": [{"key": "a", "kind": "ship"}]}):
        assert client.put(f"/api/flights/{flight}/chain", json=body).status_code == 422
    for body in ({"session_limit_min": 1}, {"costs": {"nose": 1}}, {"anchor_contender_id": -1}):
        assert client.post(f"/api/flights/{flight}/order", json=body).status_code == 422
    assert client.patch("/api/planned/999", json={"state": "done"}).status_code == 404


def test_a_planned_take_of_another_flight_is_refused(client: TestClient, flight: int, tmp_path: Path) -> None:
    other = client.post("/api/flights", json={"name": "Other"}).json()["id"]
    params = {"name": "a.wav", "planned_id": steps(client, flight)[0]["planned_id"]}
    body = write_take(tmp_path / "a.wav").read_bytes()
    assert client.post(f"/api/flights/{other}/takes", params=params, content=body).status_code == 422
    # The recording itself is not lost for it: it waits unplaced.
    assert len(client.get(f"/api/flights/{other}").json()["takes"]) == 1
