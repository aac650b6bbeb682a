"""The nouns as tables. Audio never goes in here: takes point into the vault by SHA-256.

Two kinds of tables: what a person entered (tracked by the undo log) and what was derived from it
(readings, alignments, findings), which can always be computed again.
"""

from __future__ import annotations

from typing import Any

from sqlalchemy import JSON, Column, ForeignKey, Index, Integer, UniqueConstraint, text
from sqlmodel import Field, SQLModel


def _owner(target: str, *, index: bool = True, nullable: bool = False, on_delete: str = "CASCADE") -> Any:
    """A foreign key column; owned rows go with their owner."""
    return Field(
        default=None,
        sa_column=Column(Integer, ForeignKey(target, ondelete=on_delete), index=index, nullable=nullable),
    )


def _json(default: Any) -> Any:
    return Field(default_factory=default, sa_column=Column(JSON, nullable=False))


class Gear(SQLModel, table=True):
    """One item on the shelf; ``controls`` is a list of core.gear.Control, ``specs`` what core.specs reads."""

    id: int | None = Field(default=None, primary_key=True)
    kind: str
    name: str
    about: str = ""
    structure: str = ""
    controls: list[dict[str, Any]] = _json(list)
    specs: dict[str, Any] = _json(dict)
    created_at: str = ""


class Price(SQLModel, table=True):
    """What an item costs: integer minor units and ISO 4217 code; ``kind`` new, used or offer."""

    id: int | None = Field(default=None, primary_key=True)
    gear_id: int = _owner("gear.id")
    kind: str = "new"
    price_minor: int
    currency: str = "EUR"
    on_date: str = ""
    source: str = ""


class Brief(SQLModel, table=True):
    """A need: ``need`` is core.brief.Need as JSON."""

    id: int | None = Field(default=None, primary_key=True)
    name: str
    need: dict[str, Any] = _json(dict)
    created_at: str = ""


class Flight(SQLModel, table=True):
    """A comparison: contenders are rows, tests are columns, each cell is a take.

    ``chain`` is core.chain.Chain, the same for all contenders but for the compared link; ``rules`` a school by
    question; ``order`` how takes are ordered and what came of it (services.plan.ordering.OrderKept).
    """

    id: int | None = Field(default=None, primary_key=True)
    name: str
    question: str = ""
    link: str = "pedal"
    held: str = ""
    school: str = "equal"
    brief_id: int | None = _owner("brief.id", nullable=True, on_delete="SET NULL")
    created_at: str = ""
    chain: dict[str, Any] = _json(dict)
    rules: dict[str, str] = _json(dict)
    order: dict[str, Any] = _json(dict)


class Contender(SQLModel, table=True):
    """A row of a flight. ``colour`` 0 to 7 is its place in the colour set; ``settings`` control key to position.

    ``changes`` is what differs from the base chain besides the compared link (services.plan.setups.Changes); ``wanted``
    are the keys of those differences that are meant.
    """

    __table_args__ = (Index("ix_contender_position", "flight_id", "position", unique=True),)

    id: int | None = Field(default=None, primary_key=True)
    flight_id: int = _owner("flight.id")
    gear_id: int | None = _owner("gear.id", nullable=True, on_delete="SET NULL")
    name: str
    position: int = 0
    colour: int = 0
    is_bypass: bool = False
    price_minor: int | None = None
    currency: str = "EUR"
    settings: dict[str, float] = _json(dict)
    changes: dict[str, Any] = _json(dict)
    wanted: list[str] = _json(list)


class Test(SQLModel, table=True):
    """A column of a flight. ``sound`` names the sound of a brief it stands for, empty for all.

    ``condition`` is core.plan.condition.Condition; None where nothing was said.
    """

    __table_args__ = (Index("ix_test_position", "flight_id", "position", unique=True),)

    id: int | None = Field(default=None, primary_key=True)
    flight_id: int = _owner("flight.id")
    name: str
    position: int = 0
    sound: str = ""
    about: str = ""
    condition: dict[str, Any] | None = Field(default=None, sa_column=Column(JSON))


class Take(SQLModel, table=True):
    """A recording; unplaced while it has no contender or test.

    ``repeat`` 0 is the take that counts for its cell, others are the same cell played again (anchors); ``used`` are
    settings that were really used where they differ from the plan, part key to text.
    """

    __table_args__ = (
        Index(
            "ix_take_cell", "contender_id", "test_id", "repeat", unique=True, sqlite_where=text("test_id IS NOT NULL")
        ),
    )

    id: int | None = Field(default=None, primary_key=True)
    flight_id: int = _owner("flight.id")
    contender_id: int | None = _owner("contender.id", nullable=True, on_delete="SET NULL")
    test_id: int | None = _owner("test.id", nullable=True, on_delete="SET NULL")
    digest: str = Field(index=True)
    filename: str
    size_bytes: int
    container: str = ""
    codec: str = ""
    lossy: bool = False
    rate_hz: int = 0
    channels: int = 0
    duration_s: float = 0.0
    notes: list[str] = _json(list)
    lead_in_s: float = 0.0
    evidence: str = "played"
    added_at: str = ""
    repeat: int = 0
    used: dict[str, str] = _json(dict)


class Planned(SQLModel, table=True):
    """A take to record, in its place in the order.

    ``number`` is its slate's, given once and kept when the order changes; ``anchor`` 0 or the how-many-th time the
    anchor is played; ``state`` todo, done or redo.
    """

    __table_args__ = (
        UniqueConstraint("flight_id", "number"),
        Index("ix_planned_position", "flight_id", "position", unique=True),
    )

    id: int | None = Field(default=None, primary_key=True)
    flight_id: int = _owner("flight.id")
    number: int
    contender_id: int = _owner("contender.id")
    test_id: int = _owner("test.id")
    anchor: int = 0
    position: int = 0
    session: int = 0
    state: str = "todo"


class Recording(SQLModel, table=True):
    """One long recording of several takes; ``pieces`` are its cuts (core.capture.pieces.Piece), edited by hand.

    ``takes`` is how many it was said to hold; ``found`` whether they were looked for, ``refusal`` why they cannot be.
    """

    id: int | None = Field(default=None, primary_key=True)
    flight_id: int = _owner("flight.id")
    digest: str = Field(index=True)
    filename: str
    size_bytes: int
    duration_s: float = 0.0
    rate_hz: int = 0
    by_slates: bool = False
    evidence: str = "played"
    pieces: list[dict[str, Any]] = _json(list)
    slates: int = 0
    added_at: str = ""
    takes: int = 0
    found: bool = True
    refusal: str = ""


class Waveform(SQLModel, table=True):
    """The picture of a long recording: greatest level of every 50 ms."""

    recording_id: int = Field(
        sa_column=Column(Integer, ForeignKey("recording.id", ondelete="CASCADE"), primary_key=True, autoincrement=False)
    )
    outline: list[float] = _json(list)


class Analysed(SQLModel, table=True):
    """That the readings of a take are current: of which method, and what a chart and a lane need."""

    take_id: int = Field(
        sa_column=Column(Integer, ForeignKey("take.id", ondelete="CASCADE"), primary_key=True, autoincrement=False)
    )
    method: str
    lead_in_s: float = 0.0
    refusal: str = ""
    copy_gain_db: float = 0.0
    outline: list[float] = _json(list)
    spectrum: list[float | None] = _json(list)


class Reading(SQLModel, table=True):
    """One reading of a take: a value or a refusal."""

    __table_args__ = (UniqueConstraint("take_id", "key"),)

    id: int | None = Field(default=None, primary_key=True)
    take_id: int = _owner("take.id")
    key: str
    value: Any = Field(default=None, sa_column=Column(JSON))
    flag: str = ""
    refusal: str = ""
    version: int = 1


class Alignment(SQLModel, table=True):
    """A take against the reference of its test; lag_s is None where it could not be told."""

    take_id: int = Field(
        sa_column=Column(Integer, ForeignKey("take.id", ondelete="CASCADE"), primary_key=True, autoincrement=False)
    )
    reference_id: int
    lag_s: float | None = None
    exact: bool = False
    polarity: str = "cannot tell"
    tempo_ratio: float | None = None
    tuning_cents: float | None = None
    same_phrase: str = "unsure"


class Finding(SQLModel, table=True):
    """What the audit found; ``picture`` is core.match.finding.Picture as JSON."""

    id: int | None = Field(default=None, primary_key=True)
    flight_id: int = _owner("flight.id")
    test_id: int | None = Field(default=None, index=True)
    take_id: int = _owner("take.id")
    rule: str
    severity: str
    text: str
    advice: str
    picture: dict[str, Any] | None = Field(default=None, sa_column=Column(JSON))


class Audited(SQLModel, table=True):
    """What state an audit stands for; another state makes it due. ``scope`` is "test:5" or "flight:3"."""

    scope: str = Field(primary_key=True)
    flight_id: int = _owner("flight.id")
    state: str


class Accepted(SQLModel, table=True):
    """That a person looked at a finding and keeps the take as it is."""

    __table_args__ = (UniqueConstraint("take_id", "rule"),)

    id: int | None = Field(default=None, primary_key=True)
    take_id: int = _owner("take.id")
    rule: str


class Change(SQLModel, table=True):
    """One action of a person, as the rows before and after: what Ctrl+Z takes back."""

    id: int | None = Field(default=None, primary_key=True)
    at: str
    label: str
    undone: bool = False
    rows: list[dict[str, Any]] = _json(list)


class Setting(SQLModel, table=True):
    """A setting of the application or a mark such as "the demo was seeded"."""

    key: str = Field(primary_key=True)
    value: str


class Probe(SQLModel, table=True):
    """One recording of the test file through an item at knob positions; without an item it is a loop-back.

    Of kind "strings" it holds six open strings through a pickup instead, and ``made`` says how the pickup stood.
    ``settings`` positions (0 to 1) by control; ``nominal_dbfs`` the player's own level, None for the default;
    ``channel`` which one carries the device, None where it can be told; ``bench`` what stood in for the outside world:
    then ``digest`` is empty until its recording is made.
    """

    id: int | None = Field(default=None, primary_key=True)
    gear_id: int | None = _owner("gear.id", nullable=True)
    loop_id: int | None = _owner("probe.id", nullable=True, on_delete="SET NULL")
    digest: str = Field(index=True)
    filename: str
    size_bytes: int
    settings: dict[str, float] = _json(dict)
    nominal_dbfs: float | None = None
    channel: int | None = None
    bench: str = ""
    added_at: str = ""
    kind: str = "testfile"
    made: dict[str, Any] = _json(dict)


class Probed(SQLModel, table=True):
    """What was read from a probe: ``state`` says from what, ``result`` is what cata.tasks answered."""

    probe_id: int = Field(
        sa_column=Column(Integer, ForeignKey("probe.id", ondelete="CASCADE"), primary_key=True, autoincrement=False)
    )
    state: str
    result: dict[str, Any] = _json(dict)


class Asked(SQLModel, table=True):
    """A piece of work that a person asked for and that is not done; taking the row away cancels it.

    ``total`` is how many were asked for at once.
    """

    id: int | None = Field(default=None, primary_key=True)
    duty: str = Field(index=True)
    flight_id: int = _owner("flight.id")
    wish: dict[str, Any] = _json(dict)
    total: int = 1


class Failure(SQLModel, table=True):
    """Background work that came to no result, by duty, row and the state of the data it was done from.

    While it stands the work is not due; another state, or taking the row away, makes it due again. ``free_bytes`` is
    what the disk had left where a full disk was the cause.
    """

    __table_args__ = (UniqueConstraint("duty", "ident"),)

    id: int | None = Field(default=None, primary_key=True)
    duty: str
    ident: int
    flight_id: int = Field(default=0, index=True)
    state: str = ""
    code: str
    text: str
    free_bytes: int | None = None
    at: str = ""
