"""The command line as scripts use it."""

from __future__ import annotations

import json
import signal
from pathlib import Path

import numpy as np
import pytest
import soundfile
from typer.testing import CliRunner

from cata.cli import app
from cata.core.measure.device.readings import BY_KEY as DEVICE_KEYS
from cata.core.measure.registry import READINGS
from cata.core.measure.results import from_kept
from tests.conftest import running, write_take

runner = CliRunner()


def test_measure_prints_exactly_the_documented_keys(tmp_path: Path) -> None:
    result = runner.invoke(app, ["measure", str(write_take(tmp_path / "a.wav")), "--json"])
    assert result.exit_code == 0
    found = json.loads(result.stdout)
    assert list(found) == ["file", "rate_hz", "channels", "duration_s", "refused", "code", "results", "notes"]
    assert set(found["results"]) == {reading.key for reading in READINGS}
    assert all(("value" in one) != ("refusal" in one) for one in found["results"].values())


def test_a_refused_file_gives_exit_status_2_and_the_others_are_measured(tmp_path: Path) -> None:
    (tmp_path / "empty.wav").touch()
    good = write_take(tmp_path / "a.wav")
    result = runner.invoke(app, ["measure", str(good), str(tmp_path / "empty.wav"), "--json"])
    assert result.exit_code == 2
    first, second = json.loads(result.stdout)
    assert first["refused"] is None
    assert second["code"] == "empty"
    assert "LUFS" in runner.invoke(app, ["measure", str(good)]).stdout


def test_match_compares_each_with_the_first(tmp_path: Path) -> None:
    a, b = write_take(tmp_path / "a.wav"), write_take(tmp_path / "b.wav", level=0.5)
    result = runner.invoke(app, ["match", str(a), str(b), "--json"])
    assert result.exit_code == 0
    found = json.loads(result.stdout)
    assert found["lag_ms"] == pytest.approx(0.0, abs=0.03)
    assert found["polarity"] == "same"
    assert found["loudness_difference_lu"] == pytest.approx(-6.02, abs=0.05)
    assert {f["rule"] for f in found["findings"]} >= {"loudness_gap"}
    assert set(found) == {
        "a", "b", "lag_ms", "polarity", "tempo_ratio", "tuning_difference_cents", "same_phrase",
        "loudness_difference_lu", "findings", "refusals",
    }  # fmt: skip
    assert runner.invoke(app, ["match", str(a)]).exit_code == 2
    assert runner.invoke(app, ["match", str(tmp_path / "none.wav"), str(a)]).exit_code == 2


def test_import_shows_first_and_makes_then(tmp_path: Path) -> None:
    folder = tmp_path / "takes"
    folder.mkdir()
    for name in ("Alder - riff", "Birk - riff"):
        write_take(folder / f"{name}.wav")
    data = ["--data-dir", str(tmp_path / "data")]
    shown = runner.invoke(app, ["import", str(folder), "--dry-run", *data])
    assert "Contenders: Alder, Birk" in shown.stdout
    assert not (tmp_path / "data").exists()
    made = runner.invoke(app, ["import", str(folder), *data])
    assert made.exit_code == 0, made.output
    assert "2 taken, 0 refused" in made.stdout
    assert runner.invoke(app, ["import", str(tmp_path / "nowhere"), *data]).exit_code == 2
    backed = runner.invoke(app, ["backup", str(tmp_path / "b.zip"), *data])
    assert backed.exit_code == 0
    assert runner.invoke(app, ["restore", str(tmp_path / "b.zip"), *data]).exit_code == 2
    assert runner.invoke(app, ["restore", str(tmp_path / "b.zip"), "--data-dir", str(tmp_path / "new")]).exit_code == 0


def test_serving_stops_cleanly_on_a_term_signal(tmp_path: Path) -> None:
    with running("serve", tmp_path / "data") as server:
        assert server.stop(signal.SIGTERM) == 0


def test_what_is_no_answer_of_a_device_is_refused(tmp_path: Path) -> None:
    sent = tmp_path / "sent.wav"
    made = runner.invoke(app, ["testfile", str(sent), "--part", "bursts", "--rate", "44100"])
    assert made.exit_code == 0
    assert "bursts" in made.stdout
    assert soundfile.info(str(sent)).samplerate == 44100
    wrong = runner.invoke(app, ["device", "--sent", str(sent), "--returned", str(write_take(tmp_path / "t.wav"))])
    assert wrong.exit_code == 2
    assert runner.invoke(app, ["testfile", str(tmp_path / "no" / "dir.wav")]).exit_code == 2
    assert runner.invoke(app, ["testfile", str(sent), "--rate", "22050"]).exit_code == 2


@pytest.mark.certify
def test_a_test_file_is_written_and_a_device_read_from_its_return(tmp_path: Path) -> None:
    sent, returned, loop = tmp_path / "sent.wav", tmp_path / "back.wav", tmp_path / "loop.wav"
    made = runner.invoke(app, ["testfile", str(sent), "--part", "tones", "--rate", "44100"])
    assert made.exit_code == 0
    assert "tones" in made.stdout
    samples, rate = soundfile.read(str(sent))
    assert rate == 44100
    noise = np.random.default_rng(1).standard_normal(len(samples) + 9000) * 2e-4
    driven = np.pad(np.tanh(samples * 4) * 0.2, (3000, 6000)) + noise
    soundfile.write(str(returned), driven, rate, subtype="PCM_24")
    soundfile.write(str(loop), np.pad(samples * 0.2, (3000, 6000)) + noise, rate, subtype="PCM_24")
    arguments = ["device", "--sent", str(sent), "--returned", str(returned), "--json"]
    found = json.loads(runner.invoke(app, [*arguments, "--nominal-dbfs", "-18"]).stdout)
    assert list(found)[:5] == ["file", "rate_hz", "channels", "duration_s", "refused"]
    known = from_kept(found["results"])
    readings = known.readings
    assert known.number("gain_db") == pytest.approx(-1.94, abs=0.1)
    assert known.number("breakup_dbfs.3") == pytest.approx(-12.04 - 4.03, abs=0.15)
    assert known.number("headroom_db") == pytest.approx(known.parts("breakup_dbfs")["3"] + 18, abs=1e-3)
    assert readings["delay_ms"] == pytest.approx(3000 / 44.1, abs=0.05)
    assert set(readings) <= set(DEVICE_KEYS)
    with_loop = json.loads(runner.invoke(app, [*arguments, "--loopback", str(loop)]).stdout)
    assert with_loop["results"]["gain_db"]["value"] == pytest.approx(12.04, abs=0.1)
    assert with_loop["results"]["delay_ms"]["value"] == pytest.approx(0.0, abs=0.05)
    text = runner.invoke(app, arguments[:-1]).stdout
    assert "Headroom" in text


def test_a_flight_tells_its_verdict_and_its_audit(tmp_path: Path) -> None:
    folder, data = tmp_path / "Two of a kind", ["--data-dir", str(tmp_path / "data")]
    folder.mkdir()
    for name, hz in (("Alder", 220.0), ("Birk", 220.0 * 2 ** (40 / 1200)), ("Corm", 220.0)):
        write_take(folder / f"{name} - riff.wav", hz=hz)
        write_take(folder / f"{name} - lead.wav", hz=440.0)
    assert runner.invoke(app, ["import", str(folder), *data]).exit_code == 0
    found = json.loads(runner.invoke(app, ["flight", "audit", "1", "--json", *data]).stdout)
    keys = ("rule", "severity", "contender", "test", "sure")
    grave = [[one[key] for key in keys] for one in found if one["sure"] != "note"]
    assert grave == [["other_tuning", "fault", "Birk", "Riff", "sure"]]
    assert all(one["text"] for one in found)
    verdict = json.loads(runner.invoke(app, ["flight", "verdict", "1", "--json", *data]).stdout)
    words = [one["said"]["words"] for one in verdict["sentences"]]
    assert "Alder and Corm differ by nothing you can trust in 2 of 2 tests." in words
    assert "Alder and Birk differ by nothing you can trust in the one test they share." in words
    told = runner.invoke(app, ["flight", "verdict", "1", *data]).stdout
    assert all(one in told for one in words)
    assert "fault  Birk / Riff" in runner.invoke(app, ["flight", "audit", "1", *data]).stdout
    assert runner.invoke(app, ["flight", "verdict", "7", *data]).exit_code == 2
