"""What services answer about readings."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel

from cata.core.measure.outcome import Bound
from cata.said import Said

Trust = Literal["reference", "heard", "unsure", "unknown"]


class CellReading(BaseModel):
    """A reading of a take: value as number and text, its doubt or why it was refused; ``bound`` where the truth is at
    most or at least the value; and the difference from the chosen contender."""

    take_id: int
    contender_id: int
    value: float | None
    text: str
    bound: Bound | None
    flag: Said | None
    evidence: str
    refusal: Said | None
    version: int
    difference: float | None
    difference_text: str
    trust: Trust


class ReadingRow(BaseModel):
    """One reading over the takes of a test: ``spread`` between them, and from where a difference is ``noticed``."""

    key: str
    name: str
    part: str
    unit: str
    family: str
    about: str
    less: str
    more: str
    source: str
    jnd_text: str
    repeat_text: str
    spread: float | None
    noticed: float | None
    cells: list[CellReading]


class SpectrumView(BaseModel):
    """A take's spectrum at equal loudness, dB at the shared frequencies."""

    take_id: int
    contender_id: int
    levels_db: list[float | None]


class RegionShare(BaseModel):
    """The six regions of a take, dB re its whole."""

    take_id: int
    contender_id: int
    values_db: list[float | None]


class ReadingsView(BaseModel):
    """Readings of one test, differences against one contender or none."""

    test_id: int
    against: int | None
    hz: list[float]
    spectra: list[SpectrumView]
    region_names: list[str]
    region_edges_hz: list[float]
    regions: list[RegionShare]
    rows: list[ReadingRow]
    repeatability: Said
