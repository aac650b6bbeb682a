"""Amplifiers of the shelf: loudness at each power, the reverb's tail; and what takes say where no file was played."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pytest
import scipy.signal
import soundfile
from fastapi.testclient import TestClient

from tests.conftest import ORIGIN
from tests.outside import RATE_HZ, Recorder, sent_samples
from tests.services.test_probing import drop, settle


def amplifier(client: TestClient, **specs: object) -> int:
    made = client.post("/api/gear", json={"kind": "amplifier", "name": "Ebb", "specs": specs}, headers=ORIGIN)
    assert made.status_code == 201, made.text
    return int(made.json()["id"])


def test_an_amplifier_says_how_loud_it_is_at_each_power(client: TestClient) -> None:
    assert [one["key"] for one in client.get("/api/workshop", params={"kind": "amplifier"}).json()] == [
        "loudness", "speakers",
    ]  # fmt: skip

    def worked(gear_id: int, **typed: str) -> dict[str, Any]:
        body = {"gear_ids": [gear_id], "typed": typed}
        return dict(client.post("/api/workshop/loudness", json=body, headers=ORIGIN).json())

    amp = amplifier(client, watts=22, power_positions="full, 5 W", speaker_sensitivity_db=100, speaker_count=2)
    found = worked(amp)
    assert [line["name"] for line in found["answer"]["lines"]] == ["full, 22 W", "5 W"]
    assert found["answer"]["lines"][0]["value"] == pytest.approx(110.4, abs=0.1)
    assert {one["key"]: one["source"] for one in found["used"]}["speaker_sensitivity_db"] == "Ebb"
    other = worked(amp, speaker_sensitivity_db="94 dB", speaker_count="1")
    assert found["answer"]["lines"][0]["value"] - other["answer"]["lines"][0]["value"] == pytest.approx(9.0, abs=0.1)
    bare = worked(amplifier(client))
    assert (bare["lacking"], bare["answer"]) == (["Power"], None)
    assert client.post("/api/workshop/none", json={}, headers=ORIGIN).status_code == 404


@pytest.mark.certify
def test_an_amplifier_with_its_reverb_on_gives_the_tail_only(client: TestClient, tmp_path: Path) -> None:
    amp = amplifier(client, watts=22)
    t = np.arange(2 * RATE_HZ) / RATE_HZ
    spring = np.random.default_rng(4).standard_normal(len(t)) * 10 ** (-3 * t / 1.8) * 0.008
    spring[0] = 1.0
    wet = Recorder(3, snr_db=60.0).record(scipy.signal.oaconvolve(sent_samples("sweep"), spring))
    soundfile.write(tmp_path / "wet.wav", wet.samples.T, RATE_HZ, subtype="PCM_24")
    drop(client, amp, tmp_path / "wet.wav", {})
    settle(client)
    view = client.get(f"/api/gear/{amp}/evidence").json()["probes"][0]
    assert view["state"] == "read"
    assert [one["name"] for one in view["figures"]] == ["Reverb's tail, to −60 dB", "Reverb against the direct sound"]
    assert view["figures"][0]["text"] in ("1.7 s", "1.8 s", "1.9 s")
    assert {"sounds_on", "level_wavers", "pitch_wavers"} & {one["why"]["code"] for one in view["refusals"]}
