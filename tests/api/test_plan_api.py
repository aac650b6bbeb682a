"""Plans, orders, shelf files and capture over HTTP, and on the command line."""

from __future__ import annotations

import base64
import json
import re
from pathlib import Path

import numpy as np
import pytest
import soundfile
from fastapi.testclient import TestClient
from typer.testing import CliRunner

from cata.cli import app
from tests.conftest import noise_file, write_take
from tests.recordings import found, make_takes
from tests.sessions import session

SHELF = "kind,name,controls\npedal,Alder,Drive; Tone\npedal,Birk,Gain\n"


def shelf(client: TestClient, text: str = SHELF, **options: object) -> dict:  # type: ignore[type-arg]
    body = {"content": base64.b64encode(text.encode()).decode(), "dry_run": False} | options
    answer = client.post("/api/gear/import", json=body)
    return answer.json() | {"status": answer.status_code}


@pytest.fixture
def flight(client: TestClient) -> int:
    shelf(client)
    ident = client.post("/api/flights", json={"name": "Drives", "link": "pedal"}).json()["id"]
    for gear_id in (1, 2):
        client.post(f"/api/flights/{ident}/contenders", json={"gear_id": gear_id})
    client.post(f"/api/flights/{ident}/blocks", json={"block": "phrases"})
    return int(ident)


def test_a_shelf_file_is_previewed_mapped_and_read(client: TestClient) -> None:
    assert shelf(client, dry_run=True)["new"] == 2
    assert client.get("/api/gear").json() == []
    assert shelf(client, mapping=["kind", "name", "leave out"])["new"] == 2
    answer = client.get("/api/gear", params={"sort": "newest", "limit": 1})
    assert answer.headers["x-total-count"] == "2"
    assert answer.json()[0]["name"] == "Birk"
    assert [item["name"] for item in client.get("/api/gear-names").json()] == ["Alder", "Birk"]
    assert shelf(client, mapping=["kind"])["status"] == 422


def test_the_shelf_is_downloaded_as_csv_and_json(client: TestClient) -> None:
    shelf(client)
    csv_file = client.get("/api/gear/export.csv")
    assert "attachment" in csv_file.headers["content-disposition"]
    assert csv_file.text.count("\n") == 3
    assert len(client.get("/api/gear/export.json").json()["items"]) == 2
    assert client.get("/api/gear/export.exe").status_code == 422


def test_a_knob_starts_where_a_person_writes_it(client: TestClient) -> None:
    shelf(client)
    knob = client.put("/api/gear/1/controls/drive", json={"text": "7:00"}).json()
    assert knob["control_texts"][0] == "0"
    assert client.put("/api/gear/1/controls/drive", json={"text": "eleven"}).status_code == 422
    assert client.put("/api/gear/1/controls/nose", json={"text": "1"}).status_code == 422


def test_prices_are_written_in_any_currency(client: TestClient) -> None:
    shelf(client)
    item = client.post("/api/gear/1/prices", json={"text": "12,500 JPY", "kind": "used", "source": "a shop"}).json()
    assert item["prices"][0]["text"] == "12,500 JPY"
    assert client.post("/api/gear/1/prices", json={"text": "9 XQX"}).status_code == 422
    assert client.post("/api/gear/1/prices", json={}).status_code == 422
    assert client.post("/api/gear/1/prices", json={"price_minor": 5, "currency": "XQX"}).status_code == 422


def test_a_plan_is_ordered_and_its_takes_marked(client: TestClient, flight: int) -> None:
    plan = client.get(f"/api/flights/{flight}/plan").json()
    assert plan["compared_key"] == "pedal"
    order = client.post(f"/api/flights/{flight}/order", json={}).json()
    assert order["ordered"]
    assert len(order["steps"]) == 8
    step = order["steps"][0]
    marked = client.patch(f"/api/planned/{step['planned_id']}", json={"state": "done"}).json()
    assert marked["done"] == 1
    client.post("/api/undo")
    assert client.get(f"/api/flights/{flight}/order").json()["done"] == 0


def test_a_take_goes_straight_into_its_planned_place(client: TestClient, flight: int, tmp_path: Path) -> None:
    step = client.post(f"/api/flights/{flight}/order", json={}).json()["steps"][0]
    body = write_take(tmp_path / "a.wav").read_bytes()
    url = f"/api/flights/{flight}/takes"
    assert client.post(url, params={"name": "a.wav", "planned_id": 999}, content=body).status_code == 404
    taken = client.post(url, params={"name": "a.wav", "planned_id": step["planned_id"]}, content=body)
    assert taken.status_code == 201
    assert client.get(f"/api/flights/{flight}/order").json()["steps"][0]["take_id"] == taken.json()["take_id"]
    view = client.get(f"/api/flights/{flight}").json()
    assert sum(take["contender_id"] == step["contender_id"] for take in view["takes"]) == 1


def test_slates_come_as_sound_and_their_numbers_are_bounded(client: TestClient, tmp_path: Path) -> None:
    answer = client.get("/api/slates/7")
    (tmp_path / "s.wav").write_bytes(answer.content)
    assert soundfile.info(str(tmp_path / "s.wav")).duration == pytest.approx(0.83)
    assert client.get("/api/slates/1000").status_code == 422


@pytest.mark.certify
def test_a_long_recording_is_cut_over_http(client: TestClient, flight: int, tmp_path: Path) -> None:
    client.post(f"/api/flights/{flight}/order", json={"anchors": False})
    made = session(takes=6, seconds=150, rate_hz=16_000, slates=True, seed=5)
    path = tmp_path / "day.flac"
    soundfile.write(str(path), made.samples, 16_000)
    url = f"/api/flights/{flight}/recordings"
    answer = client.post(url, params={"name": "day.flac", "slates": True}, content=path.read_bytes())
    assert answer.status_code == 201
    recording = found(client, answer.json()["id"])
    assert [piece["take"] for piece in recording["pieces"]] == [1, 2, 3, 4, 5, 6]
    assert len(recording["outline"]) == 150 * 20
    make_takes(client, recording["id"], 6)
    assert client.post(url, params={"name": "x.wav", "takes": 2}, content=b"words").status_code == 422
    assert client.delete(f"/api/recordings/{recording['id']}").status_code == 204
    assert client.get(url).json() == []


def test_latency_without_a_tone_says_what_to_do(client: TestClient, tmp_path: Path) -> None:
    answer = client.post("/api/latency", content=noise_file(tmp_path / "n.wav").read_bytes()).json()
    assert answer["latency_ms"] is None
    assert answer["code"] == "tone_not_heard"


runner = CliRunner()


def test_gear_goes_in_and_out_on_the_command_line(tmp_path: Path) -> None:
    data = ["--data-dir", str(tmp_path / "data")]
    (tmp_path / "in.csv").write_text(SHELF + "ship,Odd,\n")
    done = runner.invoke(app, ["gear", "import", str(tmp_path / "in.csv"), *data])
    assert done.exit_code == 2
    assert re.findall(r"(\d+) ", done.output)[:4] == ["2", "0", "0", "1"]
    for name in ("out.csv", "out.json"):
        assert runner.invoke(app, ["gear", "export", str(tmp_path / name), *data]).exit_code == 0
        again = runner.invoke(app, ["gear", "import", str(tmp_path / name), *data])
        assert re.findall(r"(\d+) ", again.output)[:3] == ["0", "0", "2"]
    assert runner.invoke(app, ["gear", "import", str(tmp_path / "none.csv"), *data]).exit_code == 2
    wrong = runner.invoke(app, ["gear", "import", str(tmp_path / "in.csv"), "--kind", "ship", *data])
    assert wrong.exit_code == 2


def test_a_flight_is_ordered_on_the_command_line(client: TestClient, flight: int, tmp_path: Path) -> None:
    data = ["--data-dir", str(tmp_path / "data")]
    done = runner.invoke(app, ["flight", "order", str(flight), "--json", "--no-anchors", *data])
    assert done.exit_code == 0
    assert len(json.loads(done.output)["steps"]) == 6
    spoken = runner.invoke(app, ["flight", "order", str(flight), *data])
    assert "Change-overs" in spoken.output
    assert runner.invoke(app, ["flight", "order", "99", *data]).exit_code == 2


@pytest.mark.certify
def test_slate_and_cut_agree_on_the_command_line(tmp_path: Path) -> None:
    made = session(takes=3, seconds=90, rate_hz=44_100, slates=False, seed=9)
    samples = made.samples.copy()
    for number, (start, _) in enumerate(made.takes, start=1):
        path = tmp_path / "slate.wav"
        assert runner.invoke(app, ["slate", str(path), "--take", str(number), "--rate", "44100"]).exit_code == 0
        tone, _ = soundfile.read(str(path), dtype="float32")
        at = round(start * 44_100) - len(tone)
        samples[at : at + len(tone)] += tone
    soundfile.write(str(tmp_path / "day.wav"), np.stack([samples, samples]).T, 44_100, subtype="PCM_24")
    out = tmp_path / "pieces"
    done = runner.invoke(
        app, ["cut", str(tmp_path / "day.wav"), "--takes", "3", "--slates", "--json", "--out", str(out)]
    )
    pieces = json.loads(done.output)
    assert [piece["start_s"] for piece in pieces] == [pytest.approx(start, abs=0.001) for start, _ in made.takes]
    assert sorted(path.name for path in out.iterdir()) == [f"day - take 00{n}.flac" for n in (1, 2, 3)]
    likely = json.loads(runner.invoke(app, ["cut", str(tmp_path / "day.wav"), "--takes", "3", "--json"]).output)
    assert set(likely[0]) == {"take", "start_s", "end_s", "confidence", "flag"}
    assert runner.invoke(app, ["slate", str(tmp_path / "s.wav"), "--take", "0"]).exit_code == 2
    assert runner.invoke(app, ["cut", str(tmp_path / "no.wav"), "--takes", "3"]).exit_code == 2
