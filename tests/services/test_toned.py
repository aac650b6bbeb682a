"""Takes in one tone, and beside a sound that somebody is after: what the tray plays of them, and what is said."""

from __future__ import annotations

import io
from pathlib import Path

import numpy as np
import pytest
import soundfile
from fastapi.testclient import TestClient
from scipy import signal

from cata.core.clip import Clip
from cata.core.measure.level import loudness_lufs
from cata.core.measure.material import Material
from cata.core.together.bands import in_db, power_of
from cata.core.together.same_tone import EDGES_HZ
from cata.services.background import runner_for
from cata.services.standing.flight import get_flight, list_flights
from cata.services.takes.importing import run_import
from cata.services.workspace import Workspace
from tests.tones import pink, plucks

RATE_HZ = 48_000


@pytest.fixture
def flight(ws: Workspace, tmp_path: Path) -> tuple[int, int, dict[str, int]]:
    """Three takes of one noise: as it is, through two filters, and through others at a quarter of the level."""
    folder = tmp_path / "Three"
    folder.mkdir()
    plain = pink(-20, 3.0)
    dark = signal.lfilter(*signal.butter(1, 3_000, fs=RATE_HZ), plain)
    thin = signal.lfilter(*signal.butter(1, 250, "high", fs=RATE_HZ), plain) / 4
    for name, samples in (("Alder", plain), ("Birk", dark), ("Corm", np.stack([thin, 0.8 * thin]))):
        soundfile.write(str(folder / f"{name} - riff.wav"), samples.T, RATE_HZ, subtype="PCM_24")
    run_import(ws, folder)
    runner_for(ws).run_until_idle()
    found = get_flight(ws, list_flights(ws)[0].id)
    return found.id, found.tests[0].id, {one.name: one.id for one in found.contenders}


def heard(client: TestClient, url: str, gain_db: float) -> np.ndarray:
    samples, rate = soundfile.read(io.BytesIO(client.get(url).content), always_2d=True)
    assert rate == RATE_HZ
    return np.asarray(samples.T * 10 ** (gain_db / 20))


def test_all_are_heard_in_the_tone_of_one_equally_loud(
    client: TestClient, flight: tuple[int, int, dict[str, int]]
) -> None:
    ident, test, rows = flight
    base = f"/api/flights/{ident}/together/{test}"
    tray = client.get(f"{base}/tray", params={"reference": rows["Birk"]}).json()
    assert (tray["tone_of"], tray["school"]) == (rows["Birk"], "equal")
    takes = {one["name"]: heard(client, one["url"], one["gain_db"]) for one in tray["takes"]}
    assert [one.shape[0] for one in takes.values()] == [1, 1, 2]
    both = [np.repeat(one, 2, axis=0) if len(one) == 1 else one for one in takes.values()]
    levels = [loudness_lufs(Material(Clip.of(one, RATE_HZ))).value for one in both]
    assert max(levels) - min(levels) < 0.2  # type: ignore[type-var, operator]
    assert max(float(np.abs(one).max()) for one in takes.values()) <= 1.0
    wanted = in_db(power_of(takes["Birk"].mean(axis=0), EDGES_HZ))
    for name in ("Alder", "Corm"):
        off = in_db(power_of(takes[name].mean(axis=0), EDGES_HZ)) - wanted
        assert np.abs(off - off.mean()).max() < 1.0, name
    as_recorded = client.get(f"/api/flights/{ident}/tray/{test}").json()
    assert as_recorded["tone_of"] is None
    assert {one["url"] for one in as_recorded["takes"]}.isdisjoint({one["url"] for one in tray["takes"]})


def test_a_tone_of_nobody_is_not_there(client: TestClient, flight: tuple[int, int, dict[str, int]]) -> None:
    ident, test, rows = flight
    base = f"/api/flights/{ident}/together/{test}"
    assert client.get(f"{base}/tray", params={"reference": 999}).status_code == 404
    sound = f"{base}/toned/{rows['Alder']}.wav"
    assert client.get(sound, params={"reference": 999}).status_code == 404
    assert client.get(sound, params={"reference": rows["Corm"]}).headers["content-type"] == "audio/wav"


def melody(seed: int, notes: tuple[float, ...]) -> np.ndarray:
    """A melody of plucked notes, played anew: a little early or late, a little softer or harder."""
    chance = np.random.default_rng(seed)
    whole = 1e-4 * chance.standard_normal(round(0.45 * RATE_HZ) * len(notes) + 2 * RATE_HZ)
    for at, hz in enumerate(notes):
        start = round((0.5 + 0.45 * at + 0.006 * chance.standard_normal()) * RATE_HZ)
        note = 10 ** (0.5 * chance.standard_normal() / 20) * plucks([0.0], hz, 12.0, 1.0)
        whole[start : start + len(note)] += note
    return 0.3 * whole / np.abs(whole).max()


TUNE, OTHER = (196.0, 246.9, 293.7, 246.9, 220.0, 261.6, 329.6, 196.0), (110.0, 110.0, 165.0, 130.8, 110.0, 98.0)


def test_takes_of_one_signal_are_layered_and_their_sum_shows_its_comb(
    client: TestClient, flight: tuple[int, int, dict[str, int]]
) -> None:
    ident, test, rows = flight
    base = f"/api/flights/{ident}/together/{test}"
    wish = {"first": rows["Alder"], "second": rows["Birk"]}
    flat = client.get(f"{base}/comb", params=wish).json()
    turned = client.get(f"{base}/comb", params=wish | {"inverted": True}).json()
    at = min(range(len(flat["hz"])), key=lambda n: abs(flat["hz"][n] - 500))
    # Below its corner the second is the first: together 3 dB more than both side by side, inverted nearly nothing.
    assert flat["gained_db"][at] == pytest.approx(3.0, abs=0.1)
    assert turned["gained_db"][at] < -8
    quiet = client.get(f"{base}/comb", params=wish | {"gain_db": -40}).json()
    assert abs(quiet["gained_db"][at]) < 0.2
    layers = client.get(f"{base}/layers", params={"of": list(rows.values())}).json()
    assert layers["built_db"].keys() == {"lows", "low_mids", "mids", "upper_mids", "presence", "air"}
    for wrong in ([rows["Alder"]], [rows["Alder"], rows["Alder"]], [rows["Alder"], rows["Birk"], rows["Corm"], 7, 8]):
        assert client.get(f"{base}/layers", params={"of": wrong}).status_code in (400, 422)
    assert client.get(f"{base}/layers", params={"of": [rows["Alder"], 999]}).status_code == 404


@pytest.mark.certify
def test_who_is_nearest_to_a_sound_is_told_where_it_plays_the_same_and_not_where_it_does_not(
    client: TestClient, ws: Workspace, tmp_path: Path
) -> None:
    folder = tmp_path / "Aim"
    folder.mkdir()
    filters = {"Alder": signal.butter(1, 8_000, fs=RATE_HZ), "Birk": signal.butter(1, 900, fs=RATE_HZ),
               "Corm": signal.butter(1, 700, "high", fs=RATE_HZ)}  # fmt: skip
    for seed, (name, coefficients) in enumerate(filters.items()):
        samples = signal.lfilter(*coefficients, melody(seed, TUNE))
        soundfile.write(str(folder / f"{name} - tune.wav"), samples, RATE_HZ, subtype="PCM_24")
    run_import(ws, folder)
    runner_for(ws).run_until_idle()
    flight = get_flight(ws, list_flights(ws)[0].id)
    base, rows = (
        f"/api/flights/{flight.id}/together/{flight.tests[0].id}",
        {one.name: one.id for one in flight.contenders},
    )
    targets = []
    for name, notes in (("after", TUNE), ("other", OTHER)):
        late = np.pad(signal.lfilter(*filters["Birk"], melody(9, notes)), (RATE_HZ // 2, 0))
        out = io.BytesIO()
        soundfile.write(out, 0.5 * late, RATE_HZ, format="WAV", subtype="PCM_24")
        query = {"name": f"{name}.wav", "kind": "target"}
        targets.append(client.post("/api/beds", params=query, content=out.getvalue()).json()["id"])
    assert client.get("/api/beds").json() == []
    assert [one["name"] for one in client.get("/api/beds", params={"kind": "target"}).json()] == ["after", "other"]
    found = client.get(f"{base}/target/{targets[0]}").json()
    assert (found["said"]["code"], found["contenders"][0]["name"]) == ("nearest", "Birk")
    assert found["contenders"][0]["regions_db"].keys() >= {"low_mids", "mids", "upper_mids"}
    corm = next(one for one in found["contenders"] if one["name"] == "Corm")
    assert corm["regions_db"]["low_mids"] < -3 < 3 < corm["regions_db"]["upper_mids"]
    tray = client.get(f"{base}/target/{targets[0]}/tray").json()
    voice = tray["takes"][-1]
    assert (voice["name"], voice["contender_id"], voice["number"], tray["target"]) == ("after", None, 4, targets[0])
    assert voice["lag_s"] - tray["takes"][0]["lag_s"] == pytest.approx(0.5, abs=0.03)
    levels = [loudness_lufs(Material(Clip.of(heard(client, one["url"], one["gain_db"]), RATE_HZ))).value
              for one in tray["takes"]]  # fmt: skip
    assert max(levels) - min(levels) < 0.2  # type: ignore[type-var, operator]
    other = client.get(f"{base}/target/{targets[1]}").json()
    assert (other["said"]["code"], other["contenders"]) == ("other_phrase", [])
    assert client.get(f"{base}/target/{rows['Alder'] + 99}").status_code == 404
