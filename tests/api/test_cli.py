"""The command line as scripts use it."""

from __future__ import annotations

import json
import signal
from pathlib import Path

import pytest
from typer.testing import CliRunner

from cata.cli import app
from cata.core.measure.registry import BY_KEY
from tests.conftest import running, write_take

runner = CliRunner()


def test_measure_prints_exactly_the_documented_keys(tmp_path: Path) -> None:
    result = runner.invoke(app, ["measure", str(write_take(tmp_path / "a.wav")), "--json"])
    assert result.exit_code == 0
    found = json.loads(result.stdout)
    assert list(found) == ["file", "rate_hz", "channels", "duration_s", "refused", "readings", "flags", "refusals"]
    assert set(found["readings"]) | set(found["refusals"]) == set(BY_KEY)
    assert set(found["readings"]) & set(found["refusals"]) == set()


def test_a_refused_file_gives_exit_status_2_and_the_others_are_measured(tmp_path: Path) -> None:
    (tmp_path / "empty.wav").touch()
    good = write_take(tmp_path / "a.wav")
    result = runner.invoke(app, ["measure", str(good), str(tmp_path / "empty.wav"), "--json"])
    assert result.exit_code == 2
    first, second = json.loads(result.stdout)
    assert first["refused"] is None
    assert second["refused"] == "the file is empty (0 bytes)"
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
