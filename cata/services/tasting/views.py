"""What services answer about tastings. Before the reveal nothing in it tells what is in a glass."""

from __future__ import annotations

from pydantic import BaseModel, Field

from cata.core.match.gains import School
from cata.core.taste.rounds import Kind, Round
from cata.said import Said


class TastingIn(BaseModel):
    """A tasting to set up: the contenders of one test, and rounds that count them from 0 in this order."""

    flight_id: int = Field(ge=1, le=2**53)
    test_id: int = Field(ge=1, le=2**53)
    contenders: list[int] = Field(min_length=1, max_length=8)
    rounds: list[Round] = Field(min_length=1, max_length=6)
    name: str = Field(default="", max_length=80)
    school: School | None = None


class TasterIn(BaseModel):
    """Somebody who sits down to listen."""

    name: str = Field(default="", max_length=60)


class AnswerIn(BaseModel):
    """What is answered to a trial: a glass ("" neither), points or notes by glass, or that it is enough of this round.

    ``round`` and ``number`` say which trial is meant: an answer to another one is refused.
    """

    round: int = Field(ge=1, le=20)
    number: int = Field(ge=1, le=200)
    glass: str | None = Field(default=None, max_length=4)
    points: dict[str, float] | None = None
    notes: dict[str, str] | None = None
    enough: bool = False


class TasterView(BaseModel):
    """Who listens, and how far: trials answered of so many at most."""

    id: int
    name: str
    answered: int
    of: int
    done: bool


class TastingView(BaseModel):
    """A tasting as it may be seen at any time. ``rounds`` say what is asked, not of what.

    ``looked``: how many browsers looked at the takes while it ran, besides who set the table.
    """

    id: int
    name: str
    flight_id: int
    test: str
    kinds: list[Kind]
    glasses: int
    created_at: str
    revealed_at: str
    looked: int
    tasters: list[TasterView]


class GlassView(BaseModel):
    """A glass as a taster sees it: its label and where its sound comes from, once."""

    label: str
    url: str


class TrialView(BaseModel):
    """What is asked now; ``round`` and ``number`` from 1. ``kind`` is empty where all is answered."""

    round: int = 0
    rounds: int = 0
    kind: Kind | str = ""
    number: int = 0
    of: int = 0
    glasses: list[GlassView] = []
    length_s: float = 0.0
    back: bool = False


class WordHeard(BaseModel):
    """A word of tasters' notes on a glass: how often it was said less how often denied, and what was measured."""

    word: str
    said: int
    measured: float | None


class GlassWas(BaseModel):
    """What stood in the glasses: a contender with its price, and what blind answers say of it.

    ``best`` to ``worst``: between which places it stands; ``points`` of 100 with how far ``below`` the reference.
    """

    contender_id: int
    gear_id: int | None
    name: str
    letter: str
    colour: int
    price_minor: int | None
    price_text: str
    first: float | None = None
    best: int | None = None
    worst: int | None = None
    points: float | None = None
    below: float | None = None
    band: float | None = None
    chosen: int = 0
    asked: int = 0
    notes: list[str] = []
    words: list[WordHeard] = []


class RoundWas(BaseModel):
    """What a round came to: its verdict, more that follows from it, and what each taster came to."""

    kind: Kind
    said: Said
    more: list[Said] = []
    by_taster: list[Said] = []
    glasses: list[GlassWas] = []


class Revealed(BaseModel):
    """A tasting after its reveal."""

    tasting: TastingView
    currency: str
    decimals: int
    rounds: list[RoundWas]


class Row(BaseModel):
    """One answer as a table has it."""

    taster: str
    round: int
    kind: Kind
    trial: int
    asked: str
    answer: str
    at: str
