"""A brief: which sounds are needed, what is to be spent, and what counts how much.

A sound is a set of target ranges on the readings; ready ones stand in :mod:`cata.core.sounds`. Imports no numpy.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import BaseModel, Field, model_validator

from cata.core.effects import Effect
from cata.core.gear import PRICE_NAMES, GearKind, PriceKind
from cata.core.measure.reading import Reading
from cata.core.measure.registry import BY_KEY
from cata.core.schools import QUESTION

Against = Literal["", "reference"]
AmpRole = Literal["platform", "edge", "driven", "direct"]
AMP_ROLES: Mapping[AmpRole, str] = {
    "platform": "clean platform: pedals make the sound",
    "edge": "at the edge of breakup",
    "driven": "driven: the amp makes the sound",
    "direct": "no amp: direct into a desk",
}
PickupType = Literal["", "one coil", "two coils"]
RoomKey = Literal["", "home", "lounge", "club", "miked"]
MAX_STYLE = 200
BOARD_LIMITS_MM = (50.0, 3000.0)
LOUDNESS_LIMITS_DBA, CARRY_LIMITS_KG = (40.0, 130.0), (0.0, 200.0)


def targets_of(reading: Reading) -> tuple[tuple[str, str], ...]:
    """What of a reading a brief may ask for: parts with their names, ("", name) for the whole, nothing of words."""
    if not reading.asked:
        return ()
    parts = tuple((key, name) for key, name in reading.parts if key not in reading.words)
    return parts or (("", reading.name),)


class Target(BaseModel):
    """A range on one reading (``part`` for one of its parts); an end that is None is open. ``weight`` 0 to 5.

    ``against`` "reference": the range is on the difference from the reference take of the same test. ``soft_low`` and
    ``soft_high``: how far outside each end, in the unit of the reading, it is still half as good; None: as far as three
    just-noticeable differences.
    """

    reading: str
    part: str = ""
    low: float | None = None
    high: float | None = None
    weight: float = Field(default=1.0, ge=0, le=5)
    against: Against = ""
    soft_low: float | None = Field(default=None, gt=0)
    soft_high: float | None = Field(default=None, gt=0)

    @model_validator(mode="after")
    def _known_and_ordered(self) -> Target:
        if self.reading not in BY_KEY:
            raise ValueError(f"there is no reading {self.reading!r}")
        parts = [key for key, _ in BY_KEY[self.reading].parts]
        if (self.part or parts) and self.part not in parts:
            raise ValueError(f"{self.reading} needs one of its parts: {', '.join(parts) or 'it has none'}")
        if self.low is not None and self.high is not None and self.low > self.high:
            raise ValueError(f"the range of {self.reading} ends ({self.high:g}) before it begins ({self.low:g})")
        return self


class Sound(BaseModel):
    """A sound that the brief needs: its name, how much it counts (0 to 5), and its targets.

    ``must``: it must be there in each of its tests, so the worst of them counts.
    """

    key: str = Field(min_length=1, max_length=40)
    name: str = Field(min_length=1, max_length=80)
    weight: float = Field(default=1.0, ge=0, le=5)
    must: bool = False
    targets: list[Target] = Field(default_factory=list, max_length=40)

    @property
    def asks_for_clean(self) -> bool:
        """True where drive has a limit and is not asked for."""
        drive = [one for one in self.targets if one.reading == "equivalent_drive" and one.weight > 0]
        return any(one.high is not None for one in drive) and all(one.low is None for one in drive)


class Feel(BaseModel):
    """A person's own score of how an item plays, 0 to 10 each; None where nothing was said."""

    neck: float | None = Field(default=None, ge=0, le=10)
    weight: float | None = Field(default=None, ge=0, le=10)
    balance: float | None = Field(default=None, ge=0, le=10)
    controls: float | None = Field(default=None, ge=0, le=10)

    @property
    def score(self) -> float | None:
        """The mean of what was said, 0 to 1; None where nothing was."""
        said = [one for one in (self.neck, self.weight, self.balance, self.controls) if one is not None]
        return sum(said) / len(said) / 10 if said else None


@dataclass(frozen=True)
class Room:
    """Where it is played: how far away the listeners are, and how loud it has to be there; None: a desk carries it."""

    name: str
    distance_m: float
    needed_dba: float | None


ROOMS: Mapping[RoomKey, Room] = {
    "home": Room("at home", 2.0, 70.0),
    "lounge": Room("a lounge, with drums played softly", 5.0, 85.0),
    "club": Room("a club without a desk, with drums", 8.0, 95.0),
    "miked": Room("a stage with microphone and desk", 2.0, None),
}
"""Conventions: what is usual beside drums of that kind, not a measurement of anybody's room."""


class Need(BaseModel):
    """The whole need. Money is in minor units of ``currency``; ``reserve_minor`` is kept back for cable and strings.

    ``fit_weight`` and ``price_weight`` (0 to 10) say how much each counts in the ranking. ``buys`` are the kinds of
    price that come into question: the least of them counts. ``own_items`` are items of the shelf that are there
    already: they cost nothing. ``most_pedals``: how many may stand in a rig, side by side on ``board_mm``. ``pairing``:
    how much each rule of pairing counts, 0 (off) to 2; 1 where none is given. ``must_haves`` and ``nice_to_haves`` are
    demands, one a line or between semicolons: the first decide whether something comes into question, the second count
    ``nice_weight`` in the ranking.
    ``wants``: the kind of gear that is looked for; ``effects``: a pedal has to do one of these.
    ``shows``: which sounds a test shows, by its number, where that is said for this brief alone.
    ``feel`` holds the person's own scores by item, which count ``feel_weight``; ``schools`` (core.schools) the answers
    to questions on which good people differ.
    """

    style: str = Field(default="", max_length=MAX_STYLE)
    role: AmpRole = "platform"
    sounds: list[Sound] = Field(default_factory=list, max_length=12)
    budget_minor: int | None = Field(default=None, ge=0, le=10**12)
    reserve_minor: int = Field(default=0, ge=0, le=10**12)
    currency: str = Field(default="EUR", pattern="^[A-Z]{3}$")
    fit_weight: float = Field(default=7.0, ge=0, le=10)
    price_weight: float = Field(default=3.0, ge=0, le=10)
    buys: list[PriceKind] = Field(default_factory=lambda: list(PRICE_NAMES), min_length=1, max_length=3)
    own_items: list[int] = Field(default_factory=list, max_length=60)
    most_pedals: int = Field(default=6, ge=0, le=12)
    board_mm: float | None = Field(default=None, ge=BOARD_LIMITS_MM[0], le=BOARD_LIMITS_MM[1])
    pairing: dict[Annotated[str, Field(max_length=40)], Annotated[float, Field(ge=0, le=2)]] = Field(
        default_factory=dict, max_length=60
    )
    wants: GearKind | None = None
    effects: list[Effect] = Field(default_factory=list, max_length=9)
    own_rig: str = Field(default="", max_length=2000)
    must_haves: str = Field(default="", max_length=2000)
    nice_to_haves: str = Field(default="", max_length=2000)
    nice_weight: float = Field(default=1.0, ge=0, le=10)
    pickup: PickupType = ""
    tuning: str = Field(default="", max_length=80)
    gauge: str = Field(default="", max_length=40)
    room: RoomKey = ""
    shows: dict[int, list[Annotated[str, Field(max_length=40)]]] = Field(default_factory=dict, max_length=5000)
    feel: dict[int, Feel] = Field(default_factory=dict, max_length=200)
    feel_weight: float = Field(default=2.0, ge=0, le=10)
    schools: dict[Annotated[str, Field(max_length=40)], Annotated[str, Field(max_length=40)]] = Field(
        default_factory=dict, max_length=20
    )
    loudness_limit_dba: float | None = Field(default=None, ge=LOUDNESS_LIMITS_DBA[0], le=LOUDNESS_LIMITS_DBA[1])
    carry_limit_kg: float | None = Field(default=None, ge=CARRY_LIMITS_KG[0], le=CARRY_LIMITS_KG[1])

    @model_validator(mode="after")
    def _known_schools(self) -> Need:
        for question, school in self.schools.items():
            if question not in QUESTION or school not in {one.key for one in QUESTION[question].schools}:
                raise ValueError(f"there is no school {school!r} in the question {question!r}")
        return self

    @property
    def spendable_minor(self) -> int | None:
        """Budget less reserve, never below zero; None where no budget was given."""
        return None if self.budget_minor is None else max(0, self.budget_minor - self.reserve_minor)
