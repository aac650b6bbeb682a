"""Beds of several stems: each at its level and place, heard as one, taken back, and at home in a bundle."""

from __future__ import annotations

import io
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import soundfile
from fastapi.testclient import TestClient

from cata.core.clip import Clip
from cata.core.together.stems import Stem, mixed
from cata.services.bundle.merging import import_bundle
from cata.services.bundle.packing import export_bundle
from cata.services.upkeep.sweeping import tidy, wanted_digests
from cata.services.workspace import Workspace
from tests.tones import pink, sine

RATE_HZ = 48_000


def wav(samples: np.ndarray) -> bytes:
    out = io.BytesIO()
    soundfile.write(out, samples.T, RATE_HZ, format="WAV", subtype="PCM_24")
    return out.getvalue()


@pytest.fixture
def bed(client: TestClient) -> dict[str, Any]:
    """A bed of two stems: a low tone in one channel, and two seconds of noise in two."""
    low, noise = sine(100.0, -13.9794, 3.0), np.stack([pink(-30, 2.0, seed=1), pink(-30, 2.0, seed=2)])
    made = client.post("/api/beds", params={"name": "Bass.wav"}, content=wav(low)).json()
    return dict(client.post(f"/api/beds/{made['id']}/stems", params={"name": "Drums.wav"}, content=wav(noise)).json())


def heard(client: TestClient, bed: dict[str, Any]) -> np.ndarray:
    return np.asarray(soundfile.read(io.BytesIO(client.get(bed["url"]).content), always_2d=True)[0].T)


def low_in(samples: np.ndarray) -> float:
    """How strong the low tone is, linear."""
    at = np.arange(len(samples)) / RATE_HZ
    return float(2 * abs(np.mean(samples * np.exp(-2j * np.pi * 100.0 * at))))


def test_stems_are_laid_at_their_level_and_place() -> None:
    tone = Clip.of(np.array([0.5, 0.5, 0.5], dtype=np.float32), RATE_HZ)
    pair = Clip.of(np.array([[0.1], [0.2]], dtype=np.float32), RATE_HZ)
    whole = mixed([Stem(tone, -20.0, -1.0), Stem(pair, 0.0, 0.5)]).samples
    assert whole[0] == pytest.approx([0.05 + 0.05, 0.05, 0.05], abs=1e-6)
    assert whole[1] == pytest.approx([0.2, 0.0, 0.0], abs=1e-6)


def test_a_bed_of_stems_is_heard_as_it_is_laid_and_its_address_changes_with_it(
    client: TestClient, bed: dict[str, Any]
) -> None:
    stems = client.get(f"/api/beds/{bed['id']}/stems").json()
    assert [(one["name"], one["gain_db"], one["side"]) for one in stems] == [("Bass", 0.0, 0.0), ("Drums", 0.0, 0.0)]
    as_recorded = heard(client, bed)
    assert as_recorded.shape == (2, 3 * RATE_HZ)
    assert low_in(as_recorded[0]) == pytest.approx(0.2, abs=0.005)
    softer = client.patch(f"/api/stems/{stems[0]['id']}", json={"gain_db": -6.0206, "side": 1.0}).json()
    assert softer["url"] != bed["url"]
    assert softer["loudness_lufs"] < bed["loudness_lufs"] - 1
    moved = heard(client, softer)
    assert (low_in(moved[0]), low_in(moved[1])) == (pytest.approx(0.0, abs=0.005), pytest.approx(0.1, abs=0.005))
    client.post("/api/undo")
    (again,) = client.get("/api/beds").json()
    assert again == bed
    assert heard(client, again) == pytest.approx(as_recorded)
    alone = client.delete(f"/api/stems/{stems[1]['id']}").json()
    assert np.abs(heard(client, alone)[0] - sine(100.0, -13.9794, 3.0)).max() < 1e-4
    assert client.delete(f"/api/stems/{stems[0]['id']}").status_code == 409
    assert client.patch("/api/stems/99", json={"side": 0}).status_code == 404
    assert client.patch(f"/api/stems/{stems[0]['id']}", json={"side": 2}).status_code == 422


def test_stems_outlive_house_keeping_and_travel_in_a_bundle(
    client: TestClient, ws: Workspace, bed: dict[str, Any], tmp_path: Path
) -> None:
    assert len(wanted_digests(ws)) == 3
    tidy(ws)
    assert heard(client, bed).shape == (2, 3 * RATE_HZ)
    export_bundle(ws, tmp_path / "b.zip")
    assert import_bundle(ws, tmp_path / "b.zip", dry_run=True).added == {}
    client.delete(f"/api/beds/{bed['id']}")
    assert import_bundle(ws, tmp_path / "b.zip").added == {"bed": 1, "stem": 2}
    (back,) = client.get("/api/beds").json()
    assert heard(client, back).shape == (2, 3 * RATE_HZ)
