"""What services answer about ranges: the shelf on them, and what pointing says."""

from __future__ import annotations

from pydantic import BaseModel

from cata.core.brief import Target
from cata.said import Said


class PlayedView(BaseModel):
    """Where an item or a contender stands on a range, at the setting that serves the sound best; ``fit`` 0 to 1."""

    name: str
    value: float
    fit: float


class TargetScale(BaseModel):
    """A range in words, and what the shelf shows on it.

    ``half_below`` and ``half_above``: how far outside each end something is still half as good; ``step`` is what is
    just noticed there.
    """

    words: str
    half_below: float
    half_above: float
    step: float
    unit: str
    decimals: int
    played: list[PlayedView] = []


class SoundScale(BaseModel):
    """The ranges of a sound, in the order of its targets."""

    key: str
    targets: list[TargetScale]


class PointedRange(BaseModel):
    """A range that takes point to: how surely it counts (0 to 1), in words, and between what its ends lie.

    ``proposed``: it is among those that make the sound.
    """

    target: Target
    name: str
    words: str
    chance: float
    sure: Said
    ends: str
    proposed: bool


class PointedTake(BaseModel):
    """A take nobody pointed at: how likely it would be liked (0 to 1)."""

    take_id: int
    contender: str
    test: str
    flight_id: int
    chance: float


class PointedView(BaseModel):
    """What takes that were pointed at say: ranges, the most surely counting first, and the take to point at next.

    ``lacking``: why nothing is said.
    """

    ranges: list[PointedRange] = []
    ask: PointedTake | None = None
    others: list[PointedTake] = []
    lacking: Said | None = None
