"""What services answer about gear."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict

from cata.core.gear import Control
from cata.said import Said


class PriceView(BaseModel):
    """A price with its text."""

    id: int
    kind: str
    price_minor: int
    currency: str
    text: str
    on_date: str
    source: str


class DealView(BaseModel):
    """Items that cost less together, by number (None: off the shelf) and name; ``text``: what it takes off."""

    id: int
    items: list[int | None]
    names: list[str]
    off_minor: int
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
    """An item of the shelf; ``price`` is the one that counts where no kind is asked for."""

    id: int
    kind: str
    name: str
    about: str
    structure: str
    controls: list[Control]
    control_texts: list[str]
    specs: list[SpecView]
    prices: list[PriceView]
    price: PriceView | None
    flights: list[FlightRef] = []


class KnownIn(BaseModel):
    """What one flight knows of an item: as it was set, what was recorded, and the sentences about it."""

    flight_id: int
    flight: str
    letter: str
    colour: int
    setting: str
    takes: int
    cells: int
    to_redo: int
    said: list[Said] = []


Fate = Literal["new", "changed", "same"]


class ColumnView(BaseModel):
    """A column of a file: its heading, where it goes, and its first value."""

    header: str
    target: str
    sample: str


class RowView(BaseModel):
    """A row as it would be taken."""

    row: int
    kind: str
    name: str
    fate: Fate
    text: str


class ProblemView(BaseModel):
    """A doubt about a row; ``lost`` where something is left out."""

    model_config = ConfigDict(from_attributes=True)

    row: int
    column: str
    text: str
    said: Said
    lost: bool


class ShelfImport(BaseModel):
    """What an import would do, or did (``done``).

    ``undated`` counts prices of which the file says no day: they get ``undated_day``.
    """

    done: bool
    encoding: str
    separator: str
    columns: list[ColumnView]
    targets: list[str]
    old_encodings: list[str]
    new: int
    changed: int
    same: int
    left_out: int
    undated: int
    undated_day: str
    rows: list[RowView]
    problems: list[ProblemView]
    more_problems: int


class RateView(BaseModel):
    """What one unit of ``base`` is worth in ``quote``, on a day."""

    id: int
    base: str
    quote: str
    rate: str
    on_date: str
    source: str
    text: str
