"""Blind tastings: what was asked, who listened, what was answered. Until the reveal nobody sees what was in a glass."""

from __future__ import annotations

from typing import Any

from sqlalchemy import UniqueConstraint
from sqlmodel import Field, SQLModel

from cata.store.tables.columns import json_of, owner


class Tasting(SQLModel, table=True):
    """A blind tasting of one test of a flight.

    ``contenders`` in the order by which answers count them, ``digests`` the recordings that were poured; ``rounds`` are
    core.taste.rounds.Round; ``seed`` is where all chance of it comes from; ``revealed_at`` empty until the reveal.
    """

    id: int | None = Field(default=None, primary_key=True)
    flight_id: int = owner("flight.id")
    test_id: int = owner("test.id")
    name: str
    contenders: list[int] = json_of(list)
    digests: list[str] = json_of(list)
    rounds: list[dict[str, Any]] = json_of(list)
    school: str = "equal"
    seed: str
    created_at: str = ""
    revealed_at: str = ""


class Taster(SQLModel, table=True):
    """Somebody who listens; ``number`` counts those of a tasting from 0, in the order in which they came."""

    __table_args__ = (UniqueConstraint("tasting_id", "number"),)

    id: int | None = Field(default=None, primary_key=True)
    tasting_id: int = owner("tasting.id")
    number: int
    name: str
    created_at: str = ""


class Answer(SQLModel, table=True):
    """One answer: ``what`` as core.taste.rounds keeps it, contenders by their count in the tasting."""

    __table_args__ = (UniqueConstraint("taster_id", "round", "trial"),)

    id: int | None = Field(default=None, primary_key=True)
    taster_id: int = owner("taster.id")
    round: int
    trial: int
    what: dict[str, Any] = json_of(dict)
    at: str = ""
