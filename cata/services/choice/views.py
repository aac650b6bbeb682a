"""What services answer about briefs and choices."""

from __future__ import annotations

from pydantic import BaseModel

from cata.core.brief import Need
from cata.said import Said


class RankedView(BaseModel):
    """A contender's place."""

    place: int
    contender_id: int
    name: str
    letter: str
    colour: int
    score: float | None
    fit: float | None
    coverage: float
    price_score: float | None
    price_text: str
    price_minor: int | None
    over_minor: int
    left_text: str
    strengths: list[Said]
    shortfalls: list[Said]
    best_share: float


class ChoiceView(BaseModel):
    """The ranking of a flight for a need.

    ``code``: ranked, or why not; ``certainty_code``: only, clear, likely, open, empty where nothing is ranked.
    """

    flight_id: int
    flight_name: str
    ranked: list[RankedView]
    sentence: str
    code: str
    certainty: str
    certainty_code: str
    spendable_text: str


class BriefView(BaseModel):
    """A brief; ``line`` says it in one line, ``decimals`` are those of its currency, ``caution`` what it risks."""

    id: int
    name: str
    need: Need
    decimals: int
    line: str
    spendable_text: str
    caution: str
