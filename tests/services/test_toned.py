"""The school of one tone: what the tray plays is each take in the tone of one, equally loud."""

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
from tests.tones import pink

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
