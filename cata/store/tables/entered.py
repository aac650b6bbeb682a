"""What a person entered: tracked by the undo log, saved in exports."""

from __future__ import annotations

from typing import Any

from sqlalchemy import JSON, Column, Index, UniqueConstraint, text
from sqlmodel import Field, SQLModel

from cata.store.tables.beds import Bed, Stem
from cata.store.tables.columns import ONCE, Entered, json_of, owner
from cata.store.tables.pointed import Pointed
from cata.store.tables.tasted import Answer, Glass, Taster, Tasting


class Gear(Entered, table=True):
    """One item on the shelf; ``controls`` is a list of core.gear.Control, ``specs`` what core.specs reads."""

    kind: str
    name: str
    about: str = ""
    structure: str = ""
    controls: list[dict[str, Any]] = json_of(list)
    specs: dict[str, Any] = json_of(dict)
    created_at: str = ""


class Price(Entered, table=True):
    """What an item costs: integer minor units and ISO 4217 code; ``kind`` new, used or offer."""

    gear_id: int = owner("gear.id")
    kind: str = "new"
    price_minor: int
    currency: str = "EUR"
    on_date: str = ""
    source: str = ""


class Rate(Entered, table=True):
    """What one unit of ``base`` is worth in ``quote`` (ISO 4217), on a day; ``rate`` is a decimal number as text."""

    __table_args__ = (UniqueConstraint("base", "quote", "on_date"), ONCE)

    base: str
    quote: str
    rate: str
    on_date: str = ""
    source: str = ""


class Deal(Entered, table=True):
    """Items that somebody sells together for less; ``off_minor`` is what it takes off."""

    name: str
    off_minor: int
    currency: str = "EUR"
    on_date: str = ""
    source: str = ""


class DealItem(Entered, table=True):
    """An item of a deal; ``name`` stays when the item is taken off the shelf, and the deal holds no more."""

    __tablename__ = "deal_item"

    deal_id: int = owner("deal.id")
    gear_id: int | None = owner("gear.id", nullable=True, on_delete="SET NULL")
    name: str = ""


class Brief(Entered, table=True):
    """A need: ``need`` is core.brief.Need as JSON, but for what it says of items of the shelf (:class:`BriefItem`)."""

    name: str
    need: dict[str, Any] = json_of(dict)
    created_at: str = ""


class BriefItem(Entered, table=True):
    """What a brief says of an item: that it is ``own``ed, how it feels (core.brief.Feel as JSON).

    ``name`` stays when the item is taken off the shelf.
    """

    __tablename__ = "brief_item"

    brief_id: int = owner("brief.id")
    gear_id: int | None = owner("gear.id", nullable=True, on_delete="SET NULL")
    name: str = ""
    own: bool = False
    feel: dict[str, Any] | None = Field(default=None, sa_column=Column(JSON))


class Flight(Entered, table=True):
    """A comparison: contenders are rows, tests are columns, each cell is a take.

    ``chain`` is core.chain.Chain, the same for all contenders but for the compared link: a copy, that names its gear
    and its settings also when an item is taken off the shelf; ``rules`` a school by question; ``order`` how takes are
    ordered and what came of it (services.plan.ordering.OrderKept).
    """

    name: str
    question: str = ""
    link: str = "pedal"
    held: str = ""
    school: str = "equal"
    brief_id: int | None = owner("brief.id", nullable=True, on_delete="SET NULL")
    created_at: str = ""
    chain: dict[str, Any] = json_of(dict)
    rules: dict[str, str] = json_of(dict)
    order: dict[str, Any] = json_of(dict)


class BriefTest(Entered, table=True):
    """Which ``sounds`` of a brief a test shows, by their keys, or that it shows none. No row: as it is proposed."""

    __tablename__ = "brief_test"

    brief_id: int = owner("brief.id")
    test_id: int = owner("test.id")
    sounds: list[str] = json_of(list)


class Contender(Entered, table=True):
    """A row of a flight. ``colour`` 0 to 7 is its place in the colour set; ``settings`` control key to position.

    ``changes`` is what differs from the base chain besides the compared link (services.plan.setups.Changes); ``wanted``
    are the keys of those differences that are meant.
    """

    __table_args__ = (Index("ix_contender_position", "flight_id", "position", unique=True), ONCE)

    flight_id: int = owner("flight.id")
    gear_id: int | None = owner("gear.id", nullable=True, on_delete="SET NULL")
    name: str
    position: int = 0
    colour: int = 0
    is_bypass: bool = False
    price_minor: int | None = None
    currency: str = "EUR"
    settings: dict[str, float] = json_of(dict)
    changes: dict[str, Any] = json_of(dict)
    wanted: list[str] = json_of(list)


class Test(Entered, table=True):
    """A column of a flight. ``sound`` names the sound of a brief it stands for, empty for all.

    ``condition`` is core.plan.condition.Condition; None where nothing was said.
    """

    __table_args__ = (Index("ix_test_position", "flight_id", "position", unique=True), ONCE)

    flight_id: int = owner("flight.id")
    name: str
    position: int = 0
    sound: str = ""
    about: str = ""
    condition: dict[str, Any] | None = Field(default=None, sa_column=Column(JSON))


class Take(Entered, table=True):
    """A recording; unplaced while it has no contender or test.

    ``repeat`` 0 is the take that counts for its cell, others are the same cell played again (anchors); ``used`` are
    settings that were really used where they differ from the plan, part key to text; ``aside``: it has no cell and
    wants none (a better take has its place). ``hand_s``: by how much a person found it to begin later than the take
    with the digest ``hand_to``.
    """

    __table_args__ = (
        Index(
            "ix_take_cell", "contender_id", "test_id", "repeat", unique=True, sqlite_where=text("test_id IS NOT NULL")
        ),
        ONCE,
    )

    flight_id: int = owner("flight.id")
    contender_id: int | None = owner("contender.id", nullable=True, on_delete="SET NULL")
    test_id: int | None = owner("test.id", nullable=True, on_delete="SET NULL")
    digest: str = Field(index=True)
    filename: str
    size_bytes: int
    container: str = ""
    codec: str = ""
    lossy: bool = False
    rate_hz: int = 0
    channels: int = 0
    duration_s: float = 0.0
    notes: list[str] = json_of(list)
    lead_in_s: float = 0.0
    evidence: str = "played"
    added_at: str = ""
    repeat: int = 0
    used: dict[str, str] = json_of(dict)
    aside: bool = False
    hand_s: float | None = None
    hand_to: str = ""


class Planned(Entered, table=True):
    """A take to record, in its place in the order.

    ``number`` is its slate's, given once and kept when the order changes; ``anchor`` 0 or the how-many-th time the
    anchor is played; ``state`` todo, done or redo.
    """

    __table_args__ = (
        UniqueConstraint("flight_id", "number"),
        Index("ix_planned_position", "flight_id", "position", unique=True),
        ONCE,
    )

    flight_id: int = owner("flight.id")
    number: int
    contender_id: int = owner("contender.id")
    test_id: int = owner("test.id")
    anchor: int = 0
    position: int = 0
    session: int = 0
    state: str = "todo"


class Recording(Entered, table=True):
    """One long recording of several takes; ``pieces`` are its cuts (core.capture.pieces.Piece), edited by hand.

    ``takes`` is how many it was said to hold; ``found`` whether they were looked for, ``refusal`` why they cannot be.
    """

    flight_id: int = owner("flight.id")
    digest: str = Field(index=True)
    filename: str
    size_bytes: int
    duration_s: float = 0.0
    rate_hz: int = 0
    by_slates: bool = False
    evidence: str = "played"
    pieces: list[dict[str, Any]] = json_of(list)
    slates: int = 0
    added_at: str = ""
    takes: int = 0
    found: bool = True
    refusal: str = ""


class Accepted(Entered, table=True):
    """That a person looked at a finding and keeps the take as it is, and why."""

    __table_args__ = (UniqueConstraint("take_id", "rule"), ONCE)

    take_id: int = owner("take.id")
    rule: str
    reason: str = ""


class Habit(Entered, table=True):
    """That what a rule finds is what a contender does in any take: its own hiss, its own ring, an octave it adds."""

    __table_args__ = (UniqueConstraint("contender_id", "rule"), ONCE)

    contender_id: int = owner("contender.id")
    rule: str
    reason: str = ""


class Probe(Entered, table=True):
    """One recording of the test file through an item at knob positions; without an item it is a loop-back.

    Of kind "strings" it holds six open strings through a pickup instead, and ``made`` says how the pickup stood.
    ``settings`` positions (0 to 1) by control; ``nominal_dbfs`` the player's own level, None for the default;
    ``full_scale_dbu`` what the interface sends at 0 dBFS, None where nobody knows;
    ``channel`` which one carries the device, None where it can be told; ``bench`` what stood in for the outside world:
    then ``digest`` is empty until its recording is made.
    """

    gear_id: int | None = owner("gear.id", nullable=True)
    loop_id: int | None = owner("probe.id", nullable=True, on_delete="SET NULL")
    digest: str = Field(index=True)
    filename: str
    size_bytes: int
    settings: dict[str, float] = json_of(dict)
    nominal_dbfs: float | None = None
    full_scale_dbu: float | None = None
    channel: int | None = None
    bench: str = ""
    added_at: str = ""
    kind: str = "testfile"
    made: dict[str, Any] = json_of(dict)


class Choice(Entered, table=True):
    """A decision card: ``card`` is core.card.Card as it was made, of what was ``asked`` (services.card.views.CardIn).

    ``need`` is core.brief.Need as it was then, so that what changes later is held against the same wishes. All three
    are copies; a number in them names a row for good, or 0 what was gone when the card came here in a bundle.
    """

    name: str
    made_at: str = ""
    asked: dict[str, Any] = json_of(dict)
    need: dict[str, Any] = json_of(dict)
    card: dict[str, Any] = json_of(dict)


# Those that own others before what they own.
ENTERED: tuple[type[SQLModel], ...] = (
    Gear, Price, Rate, Deal, DealItem, Brief, BriefItem, Flight, Contender, Test, BriefTest, Take, Planned, Recording,
    Probe, Accepted, Habit, Choice, Tasting, Glass, Taster, Answer, Bed, Stem, Pointed,
)  # fmt: skip
