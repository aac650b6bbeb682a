"""The decision card as data: all that is said on it, as it was when it was made."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, Field

State = Literal["met", "near", "missed", "not known"]


class Fact(BaseModel):
    """A line of the need: what is asked, in words."""

    name: str
    text: str


class CardKnob(BaseModel):
    """A knob where it starts from; ``position`` 0 to 1, ``text`` in its own scale; one of labels is not drawn."""

    name: str
    text: str
    position: float
    drawn: bool = True


class CardSetting(BaseModel):
    """The knobs of a part for one sound."""

    sound: str
    knobs: list[CardKnob]
    known: str = ""


class CardPart(BaseModel):
    """What is chosen in one place of the chain."""

    gear_id: int | None = None
    place: str = ""
    name: str
    price_minor: int | None = None
    price_text: str = ""
    price_about: str = ""
    price_old: bool = False
    owned: bool = False
    serves: list[str] = []
    settings: list[CardSetting] = []
    cautions: list[str] = []


class Evidence(BaseModel):
    """One range of the need and what is known of a part on it.

    ``low``, ``value``, ``high``: in the unit of the reading, 19 of 20 within; ``wanted_low`` to ``wanted_high`` is the
    range, an end that is None open; ``least`` to ``most`` is what the others show, for the axis.
    """

    part: str
    sound: str
    reading: str
    wanted: str
    shown: str
    state: State
    value: float | None = None
    low: float | None = None
    high: float | None = None
    wanted_low: float | None = None
    wanted_high: float | None = None
    least: float = 0.0
    most: float = 1.0


class Point(BaseModel):
    """One of those that could be chosen: fit (0 to 1) against price."""

    name: str
    price_minor: int
    fit: float
    low: float | None = None
    high: float | None = None
    chosen: bool = False


class Other(BaseModel):
    """The runner-up, and how it differs."""

    name: str
    price_text: str
    fit: float
    differs: list[str] = []


class Card(BaseModel):
    """A decision: need, choice, runner-up, evidence, settings, chain, prices, what was not tested, cautions, data.

    ``fit`` is (low, middle, high), 0 to 1; ``chance`` in which share of tries it comes first, None where nobody tried.
    ``left_minor`` is what is left to spend. ``rests_on`` says from what data it was made.
    """

    title: str = ""
    made_on: str = ""
    brief: str = ""
    need: list[Fact] = []
    sentence: str = ""
    certainty: str = ""
    chance: float | None = None
    fit: tuple[float, float, float] = (0.0, 0.0, 0.0)
    by_sound: dict[str, float] = Field(default_factory=dict)
    currency: str = "EUR"
    decimals: int = 2
    price_minor: int | None = None
    price_text: str = ""
    left_minor: int | None = None
    left_text: str = ""
    spendable_minor: int | None = None
    parts: list[CardPart] = []
    runner_up: Other | None = None
    evidence: list[Evidence] = []
    points: list[Point] = []
    chain: list[str] = []
    not_tested: list[str] = []
    cautions: list[str] = []
    next_step: str = ""
    rests_on: list[str] = []
