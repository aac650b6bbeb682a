"""What services answer about gear."""

from __future__ import annotations

from pydantic import BaseModel

from cata.core.gear import Control


class PriceView(BaseModel):
    """A price with its text."""

    id: int
    kind: str
    price_minor: int
    currency: str
    text: str
    on_date: str
    source: str


class FlightRef(BaseModel):
    """A flight by name."""

    id: int
    name: str


class GearName(BaseModel):
    """An item by name."""

    id: int
    kind: str
    name: str


class SpecView(BaseModel):
    """A field of a specification: its type and unit, and what is known (None and empty where nothing is)."""

    key: str
    name: str
    type: str
    unit: str
    choices: list[str]
    value: float | bool | str | None
    text: str


class GearView(BaseModel):
    """An item of the shelf; ``best_price`` is the lowest known."""

    id: int
    kind: str
    name: str
    about: str
    structure: str
    controls: list[Control]
    control_texts: list[str]
    specs: list[SpecView]
    prices: list[PriceView]
    best_price: PriceView | None
    flights: list[FlightRef] = []
