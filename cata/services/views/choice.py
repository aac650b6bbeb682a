"""What services answer about a choice, and what can be undone."""

from __future__ import annotations

from pydantic import BaseModel


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
    strengths: list[str]
    shortfalls: list[str]
    best_share: float


class ChoiceView(BaseModel):
    """The ranking of a flight for a need."""

    flight_id: int
    flight_name: str
    ranked: list[RankedView]
    sentence: str
    certainty: str
    spendable_text: str


class UndoView(BaseModel):
    """What can be undone and redone now."""

    undo: str | None
    redo: str | None
