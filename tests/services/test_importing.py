"""Importing folders, settings from outside, and measuring without a data directory."""

from __future__ import annotations

from pathlib import Path

import pytest
from pydantic import ValidationError
from typer.testing import CliRunner

from cata.cli import app
from cata.errors import BadAudio, Refused
from cata.services.evidence.files import as_text, match_as_text, match_files, measure_file
from cata.services.standing import flight as standing_of
from cata.services.standing.flight import get_flight
from cata.services.takes import receiving
from cata.services.takes.importing import plan_import, run_import
from cata.services.workspace import Workspace
from cata.settings import Settings
from tests.conftest import declines, noise_file, write_take


def test_folders_name_contenders_and_files_name_tests(tmp_path: Path) -> None:
    for contender in ("Alder", "Birk"):
        (tmp_path / contender).mkdir()
        for test in ("riff", "lead"):
            (tmp_path / contender / f"{test}.wav").touch()
    plan = plan_import(tmp_path)
    assert plan.contenders == ("Alder", "Birk")
    assert set(plan.tests) == {"Riff", "Lead"}
    assert len(plan.cells) == 4


@pytest.mark.parametrize("what", ["missing", "a file", "empty"])
def test_a_folder_without_recordings_is_refused(tmp_path: Path, what: str) -> None:
    target = tmp_path / "x"
    if what == "a file":
        target.touch()
    elif what == "empty":
        target.mkdir()
        (target / "picture.png").touch()
    with declines(Refused, "no_folder", "no_sound_files"):
        plan_import(target)


def test_a_bypass_is_known_by_its_name_and_what_is_refused_is_told(ws: Workspace, tmp_path: Path) -> None:
    folder = tmp_path / "takes"
    folder.mkdir()
    noise_file(folder / "bypass - riff.wav")
    noise_file(folder / "Alder - riff.wav")
    (folder / "Birk - riff.wav").touch()
    told: list[tuple[str, str]] = []
    result = run_import(ws, folder, lambda path, text: told.append((path.name, text)))
    assert dict(told)["Birk - riff.wav"].startswith("refused")
    assert result.taken == 2
    view = standing_of.get_flight(ws, result.flight_id)
    assert {c.name: c.is_bypass for c in view.contenders} == {"Alder": False, "Bypass": True}


@pytest.mark.parametrize(
    ("given", "kept"),
    [("a\\b/c.wav", "a/b/c.wav"), ("\x00\x1b[31m.wav", "[31m.wav"), ("///", "unnamed"), ("x" * 500, "x" * 240)],
)
def test_names_are_cleaned_for_showing(given: str, kept: str) -> None:
    assert receiving.clean_name(given) == kept


def test_settings_come_from_the_environment_and_are_checked(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    monkeypatch.setenv("CATA_PORT", "9000")
    monkeypatch.setenv("CATA_DATA_DIR", str(tmp_path))
    assert Settings().port == 9000
    assert Settings().data_dir == tmp_path
    assert Settings(port=1234).port == 1234
    monkeypatch.setenv("CATA_PORT", "0")
    with pytest.raises(ValidationError):
        Settings()
    assert all(field.description for field in Settings.model_fields.values())


def test_a_measured_file_can_be_read_as_text(tmp_path: Path) -> None:
    found = measure_file(write_take(tmp_path / "a.wav"), 0.3)
    text = as_text(found)
    assert "3.20 s, 48000 Hz, mono" in text
    assert "Loudness" in text
    assert f"String balance     refused: {found['results']['string_balance_db']['refusal']['words']}" in text
    missing = measure_file(tmp_path / "none.wav")
    assert as_text(missing).endswith(f"refused: {missing['refused']}")


def test_an_mp3_named_wav_is_flagged_on_the_command_line(tmp_path: Path) -> None:
    path = write_take(tmp_path / "a.mp3", subtype="MPEG_LAYER_III")
    path.rename(tmp_path / "a.wav")
    measured = measure_file(tmp_path / "a.wav")
    assert measured["notes"]
    assert measured["results"]["loudness_lufs"]["flag"]["code"] == "lossy"


def test_a_matched_pair_can_be_read_as_text(tmp_path: Path) -> None:
    a, b = write_take(tmp_path / "a.wav"), write_take(tmp_path / "b.wav", level=0.1)
    (tmp_path / "bad.wav").touch()
    good, bad = match_files([a, b, tmp_path / "bad.wav"])
    assert "loudness_difference_lu   -20" in match_as_text(good)
    assert "20.0 LU softer" in match_as_text(good)
    assert match_as_text(bad).endswith(f"refused: {bad['refused']}")
    with pytest.raises(BadAudio):
        match_files([tmp_path / "bad.wav", a])


def test_what_is_made_is_what_the_dry_run_showed_and_what_is_in_no_cell_is_named(ws: Workspace, tmp_path: Path) -> None:
    folder = tmp_path / "shop"
    folder.mkdir()
    names = [f"{row} - {column}.wav" for row in ("Mark II", "Mark III", "Tweed", "Tweeds", "Bridge", "Bridges")
             for column in ("riff", "lead")]  # fmt: skip
    for at, name in enumerate([*names, "IMG_0007.wav"]):
        write_take(folder / name, hz=200 + 10 * at)
    plan = plan_import(folder)
    result = run_import(ws, folder)
    assert (result.taken, [path.name for path in result.unplaced]) == (13, ["IMG_0007.wav"])
    flight = get_flight(ws, result.flight_id)
    rows = {one.id: one.name for one in flight.contenders}
    columns = {one.id: one.name for one in flight.tests}
    made = {
        one.filename: (rows.get(one.contender_id or 0, ""), columns.get(one.test_id or 0, "")) for one in flight.takes
    }
    assert made == {path.name: (contender, test) for path, contender, test in plan.cells}
    assert len(rows) == 6
    told = CliRunner().invoke(app, ["import", str(folder), "--data-dir", str(tmp_path / "other")])
    assert told.exit_code == 2
    assert "13 taken, 0 refused, 1 in no cell" in told.output
