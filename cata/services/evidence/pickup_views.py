"""What services answer about pickups heard by their strings."""

from __future__ import annotations

from pydantic import BaseModel

from cata.said import Said


class StringsView(BaseModel):
    """One recording of six open strings; ``state`` is waiting, refused or read; levels are against the reference."""

    id: int
    gear_id: int
    gear: str
    filename: str
    state: str
    refused: str
    code: str
    bench: str
    position: str
    bass_mm: float | None
    treble_mm: float | None
    output_db: float | None
    output: Said | None
    basis: Said | None
    band_db: float | None
    output_mv: float | None
    balance_db: list[float]
    balance_band_db: float | None
    strings_db: list[float]
    waver: str
    decay_db_per_s: list[float]
    rounds: int
    advice: list[Said]
    resonance: str
    resonance_missing: Said | None
    url: str
    added_at: str


class HeightPointView(BaseModel):
    """Output at one height."""

    ident: int
    height_mm: float
    output_db: float
    wavers: bool


class HeightsView(BaseModel):
    """What raising a pickup does in one position."""

    position: str
    points: list[HeightPointView]
    db_per_mm: float
    sentence: str
    told: list[Said]


class PickupView(BaseModel):
    """A pickup heard by its strings: its own recordings first, then those it can be held against."""

    reference_id: int | None
    rows: list[StringsView]
    heights: list[HeightsView]
    bridge_to_neck: Said | None
