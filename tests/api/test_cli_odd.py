"""Every file verb of the command line on odd takes: JSON that any program can read, or a sentence and status 2."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from typer.testing import CliRunner

from cata.cli import app
from tests.corpus.odd import odd_takes

runner = CliRunner()


def _refuse(constant: str) -> float:
    raise ValueError(f"{constant} is no JSON")


def _well_answered(*arguments: str) -> bool:
    """Whether a command gave JSON (without NaN), or said why not and left with 2."""
    done = runner.invoke(app, [*arguments, "--json"])
    assert done.exception is None or isinstance(done.exception, SystemExit), (arguments, done.exception)
    if done.stdout.strip():
        json.loads(done.stdout, parse_constant=_refuse)
    return done.exit_code == 0 or (done.exit_code == 2 and bool(done.output.strip()))


def _all_verbs(tmp_path: Path, count: int) -> None:
    files = [str(path) for path in odd_takes(tmp_path / "odd", count)]
    played = files[0]
    for file in files:
        for arguments in (
            ("measure", file), ("match", played, file), ("match", file, played), ("device", file),
            ("blend", played, file), ("remains", file, played), ("cut-through", file, played),
            ("cut", file, "--takes", "2"),
        ):  # fmt: skip
            assert _well_answered(*arguments), arguments


def test_file_verbs_answer_odd_takes(tmp_path: Path) -> None:
    _all_verbs(tmp_path, 8)


@pytest.mark.certify
def test_file_verbs_answer_thirty_odd_takes(tmp_path: Path) -> None:
    _all_verbs(tmp_path, 30)


def test_a_flight_of_odd_takes_is_answered_by_every_verb_of_flights(tmp_path: Path) -> None:
    folder = tmp_path / "Odd"
    for at, path in enumerate(odd_takes(folder, 16)):
        if path.suffix == ".wav" and "broken" not in path.name:
            path.rename(folder / f"{['Alder', 'Birk', 'Cedar'][at % 3]} - {['riff', 'lead'][at % 2]} {at}.wav")
    data = ("--data-dir", str(tmp_path / "data"))
    assert runner.invoke(app, ["import", str(folder), *data]).exit_code in (0, 2)
    for verb in (("flight", "verdict", "1"), ("flight", "audit", "1"), ("flight", "order", "1"), ("choose",), ("rig",)):
        assert _well_answered(*verb, *data), verb
