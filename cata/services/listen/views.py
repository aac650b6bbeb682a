"""What the player needs."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel

from cata.services.flights.views import TestView


class PouredView(BaseModel):
    """A take as the player needs it: gain in dB (copy scaling included), lag in seconds, outline every 10 ms."""

    take_id: int
    contender_id: int
    letter: str
    name: str
    colour: int
    is_bypass: bool
    url: str
    gain_db: float
    lag_s: float
    lined_up: bool
    duration_s: float
    outline: list[float]
    problem: str
    gear_id: int | None = None


class TrayView(BaseModel):
    """The takes of one test, ready to be heard against each other; ``of`` a flight, or the measurements of an item."""

    of: Literal["flight", "gear"] = "flight"
    flight_id: int
    flight_name: str
    test: TestView
    tests: list[TestView]
    school: str
    school_text: str
    lowered_db: float
    takes: list[PouredView]
    waiting: int
