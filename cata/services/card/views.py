"""What services take and answer about decision cards."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field

from cata.core.card.card import Card
from cata.core.gear import GearKind
from cata.said import Said

MAX_NAME = 120


class CardIn(BaseModel):
    """What a card is made of: from the whole shelf, from a flight, or a rig.

    ``chosen``: the item (shelf), contender (flight) that is chosen; none: the first. ``place``: which of the rigs, the
    best is 1. ``budget_minor`` and ``locked`` as they were when the rig was looked for. Number 0 names what was gone
    when the card came here in a bundle.
    """

    name: str = Field(default="", max_length=MAX_NAME)
    source: Literal["shelf", "flight", "rig"]
    brief_id: int | None = Field(default=None, ge=0, le=2**31 - 1)
    kind: GearKind | None = None
    flight_id: int | None = Field(default=None, ge=0, le=2**31 - 1)
    chosen: int | None = Field(default=None, ge=0, le=2**31 - 1)
    place: int = Field(default=1, ge=1, le=10)
    budget_minor: int | None = Field(default=None, ge=0, le=10**12)
    locked: list[Annotated[int, Field(ge=0, le=2**53)]] = Field(default_factory=list, max_length=40)


class CardPatch(BaseModel):
    """A changed name."""

    name: str = Field(min_length=1, max_length=MAX_NAME)


class CardLine(BaseModel):
    """A kept card in a list."""

    id: int
    name: str
    made_at: str
    sentence: str


class CardView(BaseModel):
    """A kept card; ``article`` is its document as HTML, shown with the style that the API gives."""

    id: int
    name: str
    made_at: str
    asked: CardIn
    card: Card
    article: str


class CardChanges(BaseModel):
    """What would be said otherwise today; ``gone``: why it cannot be made again."""

    changes: list[Said]
    gone: Said | None = None
