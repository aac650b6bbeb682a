"""Blind tastings: what was asked, who listened, what was answered. Until the reveal nobody sees what was in a glass."""

from __future__ import annotations

from typing import Any

from sqlalchemy import JSON, Column, UniqueConstraint
from sqlmodel import Field

from cata.store.actor import ACTOR
from cata.store.tables.columns import ONCE, Entered, json_of, owner


class Tasting(Entered, table=True):
    """A blind tasting of one test of a flight.

    ``rounds`` are core.taste.rounds.Round; ``seed`` is where all chance of it comes from; ``revealed_at`` is empty
    until the reveal; ``set_by`` the browser of the person who set the table; ``looked`` which others looked
    behind it while it ran, and when. ``test`` names what was played, also when
    the test is taken away.
    """

    flight_id: int = owner("flight.id")
    test_id: int | None = owner("test.id", nullable=True, on_delete="SET NULL")
    test: str = ""
    name: str
    rounds: list[dict[str, Any]] = json_of(list)
    school: str = "equal"
    seed: str
    set_by: str = Field(default_factory=ACTOR.get)
    looked: dict[str, str] = json_of(dict)
    created_at: str = ""
    revealed_at: str = ""


class Glass(Entered, table=True):
    """What is poured in a tasting, as it was when the table was set: answers count it by ``place``, from 0.

    A copy: name, price, recording and how it is lined up and levelled stay when the contender changes or goes.
    ``measured`` is how much of each word that tasters used its take has, kept at the reveal; None before.
    """

    __table_args__ = (UniqueConstraint("tasting_id", "place"), ONCE)

    tasting_id: int = owner("tasting.id")
    place: int
    contender_id: int | None = owner("contender.id", nullable=True, on_delete="SET NULL")
    gear_id: int | None = owner("gear.id", nullable=True, on_delete="SET NULL")
    name: str
    letter: str = ""
    colour: int = 0
    price_minor: int | None = None
    currency: str = "EUR"
    digest: str = Field(index=True)
    lag_s: float = 0.0
    gain_db: float = 0.0
    duration_s: float = 0.0
    measured: dict[str, float] | None = Field(default=None, sa_column=Column(JSON))


class Taster(Entered, table=True):
    """Somebody who listens; ``number`` counts those of a tasting from 0, in the order in which they came."""

    __table_args__ = (UniqueConstraint("tasting_id", "number"), ONCE)

    tasting_id: int = owner("tasting.id")
    number: int
    name: str
    created_at: str = ""


class Answer(Entered, table=True):
    """One answer: ``what`` as core.taste.rounds keeps it, contenders by their count in the tasting."""

    __table_args__ = (UniqueConstraint("taster_id", "round", "trial"), ONCE)

    taster_id: int = owner("taster.id")
    round: int
    trial: int
    what: dict[str, Any] = json_of(dict)
    at: str = ""
