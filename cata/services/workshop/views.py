"""What calculators ask and answer."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict

from cata.core.gear import GearKind
from cata.core.spec_fields import SpecType


class QuestionView(BaseModel):
    """One thing a calculator asks for; ``usual`` is taken where nobody says otherwise."""

    key: str
    name: str
    type: SpecType
    unit: str
    choices: list[str]
    low: float
    high: float
    usual: str
    optional: bool
    slide: float


class CalculatorView(BaseModel):
    """A calculator; ``kinds`` are the kinds of item that can answer some of its questions."""

    key: str
    name: str
    about: str
    kinds: list[GearKind]
    questions: list[QuestionView]


class UsedView(BaseModel):
    """The answer that was used for a question, and whose it is: "typed", "usual" or the name of an item."""

    key: str
    text: str
    value: float | bool | str | None
    source: str


class LineView(BaseModel):
    """One line of an answer, with its number where it has one."""

    model_config = ConfigDict(from_attributes=True)

    name: str
    text: str
    value: float | None
    unit: str
    words: str


class WorkedAnswer(BaseModel):
    """What was worked out; ``curves`` are Hz and dB by name."""

    model_config = ConfigDict(from_attributes=True)

    sentence: str
    lines: list[LineView]
    curves: dict[str, list[tuple[float, float]]]
    caution: str
    basis: str


class WorkedView(BaseModel):
    """``lacking`` names what must be said before there is an answer."""

    used: list[UsedView]
    lacking: list[str]
    answer: WorkedAnswer | None
