"""Every file verb of the command line on odd takes: JSON that any program can read, or a sentence and status 2."""

from __future__ import annotations

import json
from functools import cache
from pathlib import Path
from typing import Any

import jsonschema
import pytest
from typer.testing import CliRunner

from cata.cli import app
from cata.cli.published import PUBLISHED
from tests.corpus.odd import odd_takes

runner = CliRunner()
SCHEMAS = Path(__file__).parents[2] / "docs" / "schemas"


def _refuse(constant: str) -> float:
    raise ValueError(f"{constant} is no JSON")


def _well_answered(*arguments: str) -> bool:
    """Whether a command gave JSON (without NaN) of its published shape, or said why not and left with 2."""
    done = runner.invoke(app, [*arguments, "--json"])
    assert done.exception is None or isinstance(done.exception, SystemExit), (arguments, done.exception)
    if done.stdout.strip():
        verb = " ".join(arguments[:2]) if arguments[0] == "flight" else arguments[0]
        jsonschema.validate(json.loads(done.stdout, parse_constant=_refuse), _schema(verb))
    return done.exit_code == 0 or (done.exit_code == 2 and bool(done.output.strip()))


@cache
def _schema(verb: str) -> dict[str, Any]:
    found: dict[str, Any] = json.loads((SCHEMAS / f"{verb.replace(' ', '-')}.json").read_text())
    return found


@pytest.mark.parametrize("verb", PUBLISHED)
def test_what_is_published_is_what_is_written_down(verb: str) -> None:
    """A key that changes here needs a new version: then write the schema anew, by `cata schema`."""
    done = runner.invoke(app, ["schema", *verb.split()])
    assert json.loads(done.stdout) == _schema(verb)
    jsonschema.Draft202012Validator.check_schema(_schema(verb))


def test_a_command_without_a_schema_says_so() -> None:
    assert runner.invoke(app, ["schema", "serve"]).exit_code == 2


def test_a_device_that_came_back_is_of_its_published_shape(tmp_path: Path) -> None:
    sent = str(tmp_path / "sent.wav")
    assert runner.invoke(app, ["testfile", sent, "--part", "tones"]).exit_code == 0
    assert _well_answered("device", "--sent", sent, "--returned", sent)


def _all_verbs(tmp_path: Path, count: int) -> None:
    files = [str(path) for path in odd_takes(tmp_path / "odd", count)]
    played, sent = files[0], str(tmp_path / "sent.wav")
    assert runner.invoke(app, ["testfile", sent]).exit_code == 0
    for file in files:
        for arguments in (
            ("measure", file), ("match", played, file), ("match", file, played),
            ("device", "--sent", sent, "--returned", file),
            ("blend", played, file), ("remains", file, played), ("cut-through", file, played),
            ("cut", file, "--takes", "2"),
        ):  # fmt: skip
            assert _well_answered(*arguments), arguments


def test_file_verbs_answer_odd_takes(tmp_path: Path) -> None:
    _all_verbs(tmp_path, 8)


@pytest.mark.whole
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
