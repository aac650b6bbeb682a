"""A brief: which sounds are needed, what is to be spent, and what counts how much.

A sound is a set of target ranges on the readings. Those that come with Cata ask for drive as it is, and for tone,
dynamics and decay as the difference from the reference of the same test, which the phrase changes least.
Every one can be changed. Imports no numpy.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import BaseModel, Field, model_validator

from cata.core.gear import PRICE_NAMES, PriceKind
from cata.core.measure.reading import Reading
from cata.core.measure.registry import BY_KEY

Against = Literal["", "reference"]
AmpRole = Literal["platform", "edge", "driven", "direct"]
AMP_ROLES: Mapping[AmpRole, str] = {
    "platform": "clean platform: pedals make the sound",
    "edge": "at the edge of breakup",
    "driven": "driven: the amp makes the sound",
    "direct": "no amp: direct into a desk",
}
MAX_STYLE = 200
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


class Need(BaseModel):
    """The whole need. Money is in minor units of ``currency``; ``reserve_minor`` is kept back for cable and strings.

    ``fit_weight`` and ``price_weight`` (0 to 10) say how much each counts in the ranking. ``buys`` are the kinds of
    price that come into question: the least of them counts. ``own_items`` are items of the shelf that are there
    already: they cost nothing. ``most_pedals``: how many may stand in a rig. ``pairing``: how much each rule of pairing
    counts, 0 (off) to 2; 1 where none is given.
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
    pairing: dict[Annotated[str, Field(max_length=40)], Annotated[float, Field(ge=0, le=2)]] = Field(
        default_factory=dict, max_length=60
    )
    own_rig: str = Field(default="", max_length=2000)
    must_haves: str = Field(default="", max_length=2000)
    loudness_limit_dba: float | None = Field(default=None, ge=LOUDNESS_LIMITS_DBA[0], le=LOUDNESS_LIMITS_DBA[1])
    carry_limit_kg: float | None = Field(default=None, ge=CARRY_LIMITS_KG[0], le=CARRY_LIMITS_KG[1])

    @property
    def spendable_minor(self) -> int | None:
        """Budget less reserve, never below zero; None where no budget was given."""
        return None if self.budget_minor is None else max(0, self.budget_minor - self.reserve_minor)


@dataclass(frozen=True)
class SoundKind:
    """A ready sound: its plain description and its targets."""

    key: str
    name: str
    about: str
    targets: tuple[Target, ...]

    def as_sound(self, weight: float = 1.0) -> Sound:
        """A copy for a brief, free to be changed."""
        return Sound(key=self.key, name=self.name, weight=weight, targets=list(self.targets))


def _change(reading: str, low: float | None, high: float | None, weight: float = 1.0, part: str = "") -> Target:
    """A range on the difference from the reference: what depends on the phrase cannot be asked for by itself."""
    return Target(reading=reading, part=part, low=low, high=high, weight=weight, against="reference")


def _drive(low: float | None, high: float | None) -> Target:
    return Target(reading="equivalent_drive", part="percent", low=low, high=high, weight=3)


SOUNDS: tuple[SoundKind, ...] = (
    SoundKind(
        "clean-rhythm",
        "Clean rhythm",
        "Even, clear chords that leave room: no drive, the pick's dynamics kept, no boom.",
        (
            _drive(None, 3),
            _change("level_spread_db", -4, None),
            _change("harshness_db", -5, 4),
            _change("regions_db", None, 3, 1, "lows"),
        ),
    ),
    SoundKind(
        "edge-of-breakup",
        "Edge of breakup",
        "Clean when played softly, grit when dug into: the pick decides.",
        (
            _drive(3, 12),
            _change("level_spread_db", -6, None),
            _change("harshness_db", -5, 5),
            _change("regions_db", -2, None, 1, "upper_mids"),
        ),
    ),
    SoundKind(
        "crunch",
        "Crunch",
        "Driven chords that still have edges.",
        (
            _drive(8, 24),
            _change("level_spread_db", -9, None),
            _change("low_tightness_ms", None, 25),
            _change("harshness_db", -7, 6),
        ),
    ),
    SoundKind(
        "singing-lead",
        "Singing lead",
        "A held note that stays: driven, slow decay, not shrill.",
        (
            _drive(10, 45),
            _change("sustain", None, -2, 2, "db_per_s"),
            _change("harshness_db", -10, 4),
            _change("regions_db", None, 3, 1, "lows"),
        ),
    ),
    SoundKind(
        "fuzz",
        "Fuzz",
        "Filled and flat on top: the note becomes a texture.",
        (
            _drive(30, None),
            _change("level_spread_db", None, -2),
            _change("sustain", None, -4, 1, "db_per_s"),
        ),
    ),
    SoundKind(
        "tight-riff",
        "Tight riff",
        "Muted low notes that stop when the hand does, with drive behind them.",
        (
            _change("low_tightness_ms", None, 10, 3),
            _change("regions_db", -6, 4, 1, "lows"),
            _drive(5, None),
        ),
    ),
)
SOUND_BY_KEY = {sound.key: sound for sound in SOUNDS}
