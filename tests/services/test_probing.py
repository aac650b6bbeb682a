"""Measuring an item: the file handed out, its answer dropped, read in the background, the four questions answered."""

from __future__ import annotations

import json
import time
from pathlib import Path

import numpy as np
import pytest
import soundfile
from fastapi.testclient import TestClient

from cata.core.measure.device.readings import BY_KEY
from cata.services.evidence.measuring import due_bench, due_plucked, due_readings, due_strings
from cata.services.workspace import Workspace
from cata.tasks import devices
from cata.tasks.desk import Desk
from tests.bench import rehearse_device
from tests.conftest import ORIGIN

KNOBS = [
    {"key": "drive", "name": "Drive", "default": 0.5},
    {"key": "tone", "name": "Tone", "default": 0.5},
    {"key": "level", "name": "Level", "default": 0.5},
]
SETTINGS = (
    {"drive": "0", "tone": "5", "level": "6"},
    {"drive": "10", "tone": "5", "level": "6"},
    {"drive": "0", "tone": "0", "level": "6"},
    {"drive": "0", "tone": "10", "level": "6"},
    {"drive": "10", "tone": "0", "level": "6"},
    {"drive": "10", "tone": "10", "level": "6"},
)


def item(client: TestClient, name: str = "Alder", about: str = "mid-hump drive") -> int:
    made = client.post(
        "/api/gear", json={"kind": "pedal", "name": name, "about": about, "controls": KNOBS}, headers=ORIGIN
    )
    assert made.status_code == 201, made.text
    return int(made.json()["id"])


def settle(client: TestClient) -> None:
    ws: Workspace = client.app.state.workspace  # type: ignore[attr-defined]
    for _ in range(600):
        with ws.reading() as session:
            if not any(due(session) for due in (due_readings, due_strings, due_bench, due_plucked)):
                return
        time.sleep(0.1)
    raise AssertionError("the measurements were not read")


def drop(client: TestClient, gear: int, path: Path, settings: dict[str, str]) -> int:
    answer = client.post(
        f"/api/gear/{gear}/probes",
        params={"name": path.name, "settings": [f"{k}={v}" for k, v in settings.items()]},
        content=path.read_bytes(),
        headers=ORIGIN,
    )
    assert answer.status_code == 201, answer.text
    return int(answer.json()["probe_id"])


@pytest.mark.certify
def test_the_file_is_handed_out_and_its_answer_read_into_four_answers(client: TestClient, tmp_path: Path) -> None:
    sent = client.get("/api/testfile.wav", params={"part": "all", "rate": 48000})
    assert sent.status_code == 200
    (tmp_path / "sent.wav").write_bytes(sent.content)
    info = soundfile.info(str(tmp_path / "sent.wav"))
    assert (info.samplerate, info.subtype) == (48000, "PCM_24")
    assert info.duration < 90
    gear = item(client)
    for number, settings in enumerate(SETTINGS):
        path = tmp_path / f"{number}.wav"
        positions = {key: float(value) / 10 for key, value in settings.items()}
        rehearse_device("mid-hump", positions, "all", path, number)
        drop(client, gear, path, settings)
    settle(client)
    found = client.get(f"/api/gear/{gear}/evidence").json()
    assert [probe["state"] for probe in found["probes"]] == ["read"] * 6
    most, pleasant, clean, controls = found["questions"]
    assert "Drive 10" in most["told"][0]["numbers"]["setting"]
    assert len(most["proof"]) == 2
    assert most["picture"]["curves"]
    assert {one["key"] for one in pleasant["figures"]} >= {"knee_db", "chord_clarity_db", "touch_db_per_db"}
    assert "Drive 0" in clean["told"][0]["numbers"]["setting"]
    told = {one["code"]: one["numbers"] for one in controls["told"]}
    assert told["lifts"]["knob"] == "Tone"
    assert {"kept_with_drive", "lost_with_drive"} & told.keys()
    knob = next(one for one in found["knobs"] if one["key"] == "drive")
    assert knob["moves"] == "breakup"
    assert knob["span"] > 20
    assert knob["stands"]["code"] == "stands_before"
    assert [ray["place"] is not None for ray in found["fingerprint"]] == [True] * 5
    (shown,) = client.get("/api/fingerprints").json()
    assert shown["rays"] == found["fingerprint"]
    between = client.get(f"/api/gear/{gear}/knobs/tone", params={"at": "2:30"}).json()
    assert between["position"] == pytest.approx(0.75)
    assert between["text"] == "7.5"
    assert {one["measured"] for one in between["readings"]} == {False}
    here = client.get(f"/api/gear/{gear}/knobs/tone", params={"at": "10"}).json()
    assert {one["measured"] for one in here["readings"]} == {True}
    assert client.get(f"/api/gear/{gear}/knobs/tone", params={"at": "12"}).status_code == 422
    assert client.get(f"/api/gear/{gear}/knobs/presence", params={"at": "5"}).status_code == 404
    tone = next(one for one in found["knobs"] if one["key"] == "tone")
    assert len(tone["map"]["points"]) == 6
    assert {one["grade"] for one in found["probes"][0]["figures"]} == {"test signal", "re-amped"}
    tray = client.get(f"/api/gear/{gear}/proof/most").json()
    assert tray["of"] == "gear"
    assert [take["name"] for take in tray["takes"]] != []
    audio = client.get(tray["takes"][0]["url"])
    assert audio.content[:4] == b"fLaC"
    as_set = client.get(f"/api/gear/{gear}/proof/most", params={"school": "as_set"}).json()
    assert as_set["takes"][0]["gain_db"] != tray["takes"][0]["gain_db"]
    other = item(client, "Birk", "transparent drive")
    assert client.post(f"/api/gear/{other}/probes/bench", json={"settings": {}}, headers=ORIGIN).status_code == 201
    settle(client)
    against = client.get(f"/api/gear/{gear}/against/{other}").json()
    steps = [(d["sure"] and d["audible"], d["steps"]) for d in against["differences"]]
    assert steps == sorted(steps, reverse=True)
    assert len(client.get("/api/fingerprints").json()) == 2


def test_wrong_answers_are_refused_with_their_reason_and_undo_brings_back(client: TestClient, tmp_path: Path) -> None:
    gear = item(client)
    noise = tmp_path / "noise.wav"
    soundfile.write(str(noise), np.random.default_rng(1).standard_normal(96000) * 0.1, 48000)
    probe = drop(client, gear, noise, {})
    settle(client)
    view = client.get(f"/api/gear/{gear}/evidence").json()["probes"][0]
    assert view["state"] == "refused"
    assert view["code"] == "no_slate"
    assert client.get(f"/api/probes/{probe}/playing").status_code == 409
    bad = client.post(
        f"/api/gear/{gear}/probes", params={"name": "a.wav", "settings": ["drive=11"]}, content=b"x", headers=ORIGIN
    )
    assert bad.status_code == 422
    text = client.post(f"/api/gear/{gear}/probes", params={"name": "a.wav"}, content=b"hello", headers=ORIGIN)
    assert text.status_code in (400, 415, 422)
    changed = client.patch(f"/api/probes/{probe}", json={"settings": {"drive": "7"}}, headers=ORIGIN)
    assert changed.status_code == 204
    assert client.get(f"/api/gear/{gear}/evidence").json()["probes"][0]["texts"]["drive"] == "7"
    assert client.delete(f"/api/probes/{probe}", headers=ORIGIN).status_code == 204
    assert client.get(f"/api/gear/{gear}/evidence").json()["probes"] == []
    client.post("/api/undo", headers=ORIGIN)
    assert len(client.get(f"/api/gear/{gear}/evidence").json()["probes"]) == 1
    empty = client.get(f"/api/gear/{gear}/evidence").json()["questions"]
    assert all(question["missing"] for question in empty)
    assert client.get(f"/api/gear/{gear}/proof/nothing").status_code == 404


@pytest.mark.certify
def test_a_loopback_is_used_for_what_comes_after_it(client: TestClient, tmp_path: Path) -> None:
    gear = item(client)
    cable, through = tmp_path / "cable.wav", tmp_path / "through.wav"
    rehearse_device("bypass", {}, "sweep", cable, 1)
    rehearse_device("transparent", {"drive": 0.0}, "sweep", through, 2)
    answer = client.post("/api/loopbacks", params={"name": "cable.wav"}, content=cable.read_bytes(), headers=ORIGIN)
    assert answer.status_code == 201
    settle(client)
    drop(client, gear, through, {})
    settle(client)
    view = client.get(f"/api/gear/{gear}/evidence").json()
    assert view["probes"][0]["loop_id"] == answer.json()["probe_id"]
    assert view["loops"][0]["state"] == "read"
    colour = next(one for one in view["probes"][0]["figures"] if one["key"] == "transparency_db")
    assert colour["doubt"] == ""
    wrong = client.patch(
        f"/api/probes/{view['probes'][0]['id']}", json={"loop_id": view["probes"][0]["id"]}, headers=ORIGIN
    )
    assert wrong.status_code == 422


@pytest.mark.certify
def test_every_question_about_a_compressor_can_be_heard_at_every_level(client: TestClient) -> None:
    gear = item(client, "Colm", "compressor")
    for squeeze in ("2", "9"):
        body = {"settings": {"drive": squeeze}}
        assert client.post(f"/api/gear/{gear}/probes/bench", json=body, headers=ORIGIN).status_code == 201
    settle(client)
    questions = client.get(f"/api/gear/{gear}/evidence").json()["questions"]
    heard = [one["key"] for one in questions if one["proof"]]
    assert "squeeze" in heard
    for key in heard:
        for school in ("equal", "as_set"):
            tray = client.get(f"/api/gear/{gear}/proof/{key}", params={"school": school}).json()
            assert tray["poured"]["key"] == key
            assert tray["school"] == school
            assert [one["key"] for one in tray["others"]] == [one["key"] for one in questions]
            assert len({take["key"] for take in tray["takes"]}) == len(tray["takes"]) > 0


def headroom(client: TestClient, gear: int) -> float:
    figures = client.get(f"/api/gear/{gear}/evidence").json()["probes"][0]["figures"]
    text = next(one["text"] for one in figures if one["key"] == "headroom_db")
    return float(text.replace("−", "-").split()[0])


@pytest.mark.certify
def test_own_level_comes_from_strumming_and_from_nothing_else(client: TestClient, tmp_path: Path) -> None:
    from cata.core.bench.chain import ChainSettings, record

    strum = record(ChainSettings(phrase="offbeat", amplifier="clean"))
    soundfile.write(str(tmp_path / "di.wav"), strum.samples.T, 48000)
    answer = client.post(
        "/api/own-level", params={"name": "di.wav"}, content=(tmp_path / "di.wav").read_bytes(), headers=ORIGIN
    )
    own = answer.json()["nominal_dbfs"]
    assert -45 < own < -5
    gear = item(client)
    rehearse_device("mid-hump", {"drive": 0.5}, "tones", tmp_path / "t.wav", 1)
    probe = drop(client, gear, tmp_path / "t.wav", {})
    settle(client)
    before = headroom(client, gear)
    assert client.patch(f"/api/probes/{probe}", json={"nominal_dbfs": own}, headers=ORIGIN).status_code == 204
    # What the interface sends, as people write it; what is no level changes nothing.
    for text, code in (("+18 dBu", 204), ("loud", 422)):
        assert client.patch(f"/api/probes/{probe}", json={"full_scale": text}, headers=ORIGIN).status_code == code
    settle(client)
    assert before - headroom(client, gear) == pytest.approx(own + 20, abs=0.11)
    soundfile.write(str(tmp_path / "tone.wav"), 0.1 * np.sin(np.arange(200_000) / 20), 48000)
    tone = client.post(
        "/api/own-level", params={"name": "tone.wav"}, content=(tmp_path / "tone.wav").read_bytes(), headers=ORIGIN
    )
    assert tone.status_code == 422
    assert tone.json()["code"] == "even"


@pytest.mark.grid(1)
@pytest.mark.parametrize("part", ["bursts", "tones"])
def test_progress_is_told_while_a_recording_is_read(part: str, tmp_path: Path) -> None:
    rehearse_device("compressor", {}, part, tmp_path / "a.wav", 3)
    seen: list[float] = []
    told = tmp_path / "progress" / "probe-1.json"

    class Listening(Desk):
        def tell(self, share: float, what: str = "") -> None:
            super().tell(share, what)
            seen.append(json.loads(told.read_text())["share"])

    result = devices.read(devices.ProbeToRead("a.wav", "p.flac"), Listening(str(tmp_path), "probe-1"))
    assert result["refused"] is None
    assert seen == sorted(seen)
    assert len(seen) >= 6
    assert part == "tones" or result["results"]["compressor.attack_ms"]["unit"] == "ms"
    # Where a method changed, what the same part of the file tells is read again, and nothing else is replaced.
    known = json.loads(json.dumps(result))
    changed = "gain_db" if part == "tones" else "compressor"
    for key in known["results"]:
        known["results"][key] = {"value": 99.0, "version": 0 if key == changed else BY_KEY[key.split(".")[0]].version}
    again = devices.read(devices.ProbeToRead("a.wav", "p.flac", known=known), Desk(str(tmp_path)))
    renewed = {key for key, one in again["results"].items() if one.get("value") != 99.0}
    assert {key.partition(".")[0] for key in renewed} == {changed}
    assert again["results"][changed] == result["results"][changed]
    assert again["playing"] == result["playing"] if "playing" in result else "playing" not in again
