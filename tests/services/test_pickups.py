"""Pickups heard by their strings: taken in, played by the bench, held against each other; cable and pots."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import soundfile
from fastapi.testclient import TestClient

from tests.bench import rehearse_strings
from tests.conftest import ORIGIN
from tests.services.test_probing import settle

SINGLE = {"coils": 1, "inductance_h": 2.5, "dc_resistance_kohm": 6.5, "capacitance_pf": 120}


def pickup(client: TestClient, name: str, **specs: object) -> int:
    made = client.post("/api/gear", json={"kind": "pickup", "name": name, "specs": SINGLE | specs}, headers=ORIGIN)
    assert made.status_code == 201, made.text
    return int(made.json()["id"])


def drop(client: TestClient, gear: int, path: Path, **stood: object) -> int:
    answer = client.post(
        f"/api/gear/{gear}/strings", params={"name": path.name, **stood}, content=path.read_bytes(), headers=ORIGIN
    )
    assert answer.status_code == 201, answer.text
    return int(answer.json()["probe_id"])


@pytest.mark.certify
def test_a_pickup_is_raised_calibrated_and_held_against_another(client: TestClient, tmp_path: Path) -> None:
    alder, birk = pickup(client, "Alder Single"), pickup(client, "Birk Single", position="neck")
    for number, height in enumerate((3.2, 2.2, 1.4)):
        path = tmp_path / f"{number}.wav"
        rehearse_strings(SINGLE, {"bass_mm": height, "treble_mm": height}, path, number + 1)
        drop(client, alder, path, position="bridge", bass_mm=height, treble_mm=height, tone_mv=100, tone_dbfs=-14)
    bench = client.post(f"/api/gear/{birk}/strings/bench", json={"bass_mm": 4.5, "treble_mm": 4.5}, headers=ORIGIN)
    assert bench.status_code == 201
    settle(client)
    found = client.get(f"/api/gear/{alder}/strings").json()
    assert [row["state"] for row in found["rows"]] == ["read"] * 4
    assert [row["gear"] for row in found["rows"]] == ["Alder Single"] * 3 + ["Birk Single"]
    first, _, near, neck = found["rows"]
    assert found["reference_id"] == first["id"]
    assert first["output_db"] is None  # it is what the others are held against
    assert first["output_mv"] == pytest.approx(near["output_mv"] / 10 ** (near["output_db"] / 20), rel=0.01)
    assert near["basis"]["code"] == "in_mv"
    assert neck["basis"]["code"] == "as_recorded"
    assert near["waver"].startswith("string")
    (raised,) = found["heights"]
    assert raised["db_per_mm"] > 3
    assert [one["code"] for one in raised["told"]] == ["gains", "waver_near"]
    assert found["bridge_to_neck"]["code"] in ("louder", "quieter")
    assert len(near["balance_db"]) == 6
    assert client.get(near["url"]).content[:4] == b"fLaC"
    tray = client.get(f"/api/gear/{alder}/proof/strings").json()
    assert tray["takes"][0]["name"] == "Alder Single, bridge, 1.4/1.4 mm"
    assert len({round(take["lag_s"], 1) for take in tray["takes"]}) == 1
    # Against another of them, and with a nonsense reference.
    other = client.get(f"/api/gear/{alder}/strings", params={"reference": near["id"]}).json()
    assert other["rows"][0]["output_db"] == pytest.approx(-near["output_db"], abs=0.01)
    assert client.get(f"/api/gear/{alder}/strings", params={"reference": 999}).json()["reference_id"] == first["id"]
    # The test file's page does not mistake strings for measurements of it.
    assert client.get(f"/api/gear/{alder}/evidence").json()["probes"] == []
    assert client.delete(f"/api/probes/{near['id']}", headers=ORIGIN).status_code == 204
    assert len(client.get(f"/api/gear/{alder}/strings").json()["rows"]) == 3
    assert client.post("/api/undo", headers=ORIGIN).status_code == 200
    assert len(client.get(f"/api/gear/{alder}/strings").json()["rows"]) == 4


@pytest.mark.certify
def test_resonance_by_playing_needs_a_flat_or_known_reference(client: TestClient, tmp_path: Path) -> None:
    flat, wide = pickup(client, "Clear"), pickup(client, "Corm Single")
    path = tmp_path / "strings.wav"
    rehearse_strings(SINGLE, {}, path, 1)
    reference = drop(client, flat, path, position="bridge")
    rehearse_strings(SINGLE, {}, path, 2)
    drop(client, wide, path, position="bridge")
    settle(client)
    row = client.get(f"/api/gear/{wide}/strings").json()["rows"][0]
    assert row["resonance_missing"]["code"] == "reference_unknown"
    changed = client.patch(f"/api/strings/{reference}", json={"flat": True}, headers=ORIGIN)
    assert changed.status_code == 204
    row = client.get(f"/api/gear/{wide}/strings").json()["rows"][0]
    assert row["resonance"] == ""  # the same coil twice: nothing falls
    assert row["resonance_missing"]
    client.patch(f"/api/strings/{reference}", json={"position": "neck"}, headers=ORIGIN)
    row = client.get(f"/api/gear/{wide}/strings").json()["rows"][0]
    assert row["resonance_missing"]["code"] == "reference_elsewhere"


@pytest.mark.certify
def test_what_is_no_pickup_or_no_strings_is_told(client: TestClient, tmp_path: Path) -> None:
    pedal = client.post("/api/gear", json={"kind": "pedal", "name": "Dapp"}, headers=ORIGIN).json()["id"]
    path = tmp_path / "noise.wav"
    soundfile.write(path, np.random.default_rng(1).standard_normal(96_000) * 0.1, 48_000)
    body = path.read_bytes()
    wrong = client.post(f"/api/gear/{pedal}/strings", params={"name": "a.wav"}, content=body, headers=ORIGIN)
    assert wrong.status_code == 422
    assert wrong.json()["code"] == "no_pickup"
    half = {"name": "a.wav", "tone_mv": 100}
    single = pickup(client, "Elm Single")
    lacking = client.post(f"/api/gear/{single}/strings", params=half, content=body, headers=ORIGIN)
    assert lacking.json()["code"] == "half_calibrated"
    drop(client, single, path)
    settle(client)
    row = client.get(f"/api/gear/{single}/strings").json()["rows"][0]
    assert row["state"] == "refused"
    assert row["code"] == "not_six_strings"
    bare = client.post("/api/gear", json={"kind": "pickup", "name": "Fern"}, headers=ORIGIN).json()["id"]
    unknown = client.post(f"/api/gear/{bare}/strings/bench", json={}, headers=ORIGIN)
    assert unknown.status_code == 409
    tone = client.post("/api/tone-level", params={"name": "tone.wav"}, content=body, headers=ORIGIN)
    assert tone.status_code == 422


def test_a_calibrating_tone_gives_its_level(client: TestClient, tmp_path: Path) -> None:
    path = tmp_path / "tone.wav"
    soundfile.write(path, 0.1 * np.sqrt(2) * np.sin(2 * np.pi * 440 * np.arange(96_000) / 48_000), 48_000)
    found = client.post("/api/tone-level", params={"name": "t.wav"}, content=path.read_bytes(), headers=ORIGIN)
    assert found.json()["rms_dbfs"] == pytest.approx(-20.0, abs=0.01)
