"""The documents say what the program does."""

from __future__ import annotations

import json
import re
import tomllib
from pathlib import Path

import pytest

from cata.core.measure.analysis import function_of
from cata.core.measure.registry import READINGS
from cata.settings import Settings

ROOT = Path(__file__).parents[2]


@pytest.mark.parametrize("reading", READINGS, ids=lambda reading: reading.key)
def test_every_reading_is_described_and_computed(reading: object) -> None:
    key = getattr(reading, "key")  # noqa: B009
    assert f"| `{key}` |" in (ROOT / "docs" / "measures.md").read_text()
    assert callable(function_of(getattr(reading, "compute")))  # noqa: B009


def test_every_setting_is_in_the_readme() -> None:
    readme = (ROOT / "README.md").read_text()
    for name in Settings.model_fields:
        assert f"| `{name}` | `CATA_{name.upper()}` |" in readme


def test_everything_that_ships_is_listed_with_its_licence() -> None:
    listed = (ROOT / "docs" / "third-party.md").read_text()
    python = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]["dependencies"]
    for requirement in python:
        assert re.split(r"[>=<\[]", requirement)[0] in listed
    web = json.loads((ROOT / "web" / "package.json").read_text())["devDependencies"]
    shipped = [
        name for name in web if re.match(r"@tanstack|openapi-fetch|@lucide|d3-|@fontsource|daisyui|swagger", name)
    ]
    for name in shipped:
        assert name in listed


def test_the_readme_links_every_picture() -> None:
    readme = (ROOT / "README.md").read_text()
    pictures = list((ROOT / "docs" / "screenshots").glob("*.png"))
    assert 0 < len(pictures) < 20
    assert all(f"docs/screenshots/{picture.name}" in readme for picture in pictures)
