"""What was derived from it: readings, alignments, findings. It can always be computed again."""

from __future__ import annotations

from typing import Any

from sqlalchemy import JSON, Column, ForeignKey, Integer, UniqueConstraint
from sqlmodel import Field, SQLModel

from cata.store.tables.columns import ONCE, Numbered, json_of, owner


class Waveform(SQLModel, table=True):
    """The picture of a long recording: greatest level of every 50 ms."""

    recording_id: int = Field(
        sa_column=Column(Integer, ForeignKey("recording.id", ondelete="CASCADE"), primary_key=True, autoincrement=False)
    )
    outline: list[float] = json_of(list)


class Analysed(SQLModel, table=True):
    """That the readings of a take are current: of which method, and what a chart and a lane need."""

    take_id: int = Field(
        sa_column=Column(Integer, ForeignKey("take.id", ondelete="CASCADE"), primary_key=True, autoincrement=False)
    )
    method: str
    lead_in_s: float = 0.0
    refusal: str = ""
    copy_gain_db: float = 0.0
    outline: list[float] = json_of(list)
    spectrum: list[float | None] = json_of(list)


class Reading(Numbered, table=True):
    """One reading of a take by the method of a ``version``; ``result`` is core.measure.results.Result as JSON."""

    __table_args__ = (UniqueConstraint("take_id", "key"), ONCE)

    take_id: int = owner("take.id")
    key: str
    version: int = 1
    result: dict[str, Any] = json_of(dict)


class Heard(SQLModel, table=True):
    """How loud a take is to the ear over time: sone every 20 ms at each level of core.hearing.by_ear."""

    take_id: int = Field(
        sa_column=Column(Integer, ForeignKey("take.id", ondelete="CASCADE"), primary_key=True, autoincrement=False)
    )
    version: int = 1
    sone: list[list[float]] = json_of(list)


class Alignment(SQLModel, table=True):
    """A take against the reference of its test; lag_s is None where it could not be told, doubt_s where it is exact."""

    take_id: int = Field(
        sa_column=Column(Integer, ForeignKey("take.id", ondelete="CASCADE"), primary_key=True, autoincrement=False)
    )
    reference_id: int
    lag_s: float | None = None
    exact: bool = False
    doubt_s: float | None = None
    polarity: str = "cannot tell"
    tempo_ratio: float | None = None
    tuning_cents: float | None = None
    same_phrase: str = "unsure"


class Finding(Numbered, table=True):
    """What the audit found; ``picture`` is core.match.finding.Picture as JSON, ``numbers`` those of the text."""

    flight_id: int = owner("flight.id")
    test_id: int | None = Field(default=None, index=True)
    take_id: int = owner("take.id")
    rule: str
    severity: str
    text: str
    advice: str
    picture: dict[str, Any] | None = Field(default=None, sa_column=Column(JSON))
    numbers: dict[str, Any] = json_of(dict)


class Audited(SQLModel, table=True):
    """What state an audit stands for; another state makes it due. ``scope`` is "test:5" or "flight:3"."""

    scope: str = Field(primary_key=True)
    flight_id: int = owner("flight.id")
    state: str


class Probed(SQLModel, table=True):
    """What was read from a probe: ``state`` says from what, ``result`` is what cata.tasks answered.

    Its "results" are core.measure.results.Results as JSON.
    """

    probe_id: int = Field(
        sa_column=Column(Integer, ForeignKey("probe.id", ondelete="CASCADE"), primary_key=True, autoincrement=False)
    )
    state: str
    result: dict[str, Any] = json_of(dict)


class ProbedPlaying(SQLModel, table=True):
    """What a probe's picking ladder says as a take: readings of the device's ``own`` answer and of what was ``sent``.

    Both are core.measure.results.Results as JSON.
    """

    __tablename__ = "probed_playing"

    probe_id: int = Field(
        sa_column=Column(Integer, ForeignKey("probe.id", ondelete="CASCADE"), primary_key=True, autoincrement=False)
    )
    own: dict[str, Any] = json_of(dict)
    sent: dict[str, Any] = json_of(dict)
