"""Recordings of the simulated bench, as somebody would bring them."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import Any

from cata.core.signals.testfile.layout import PartName
from cata.tasks.bench import ToMeasure, ToPluck, measure, pluck
from cata.tasks.desk import Desk

ROOT = Desk("/")
"""Files named from the root of the file system."""


def rehearse_device(device: str, settings: Mapping[str, float], part: PartName, path: Path, seed: int) -> None:
    measure(ToMeasure(device, settings, part, str(path), seed), ROOT)


def rehearse_strings(specs: Mapping[str, Any], made: Mapping[str, Any], path: Path, seed: int) -> None:
    pluck(ToPluck(specs, made, str(path), seed), ROOT)
