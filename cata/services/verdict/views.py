"""What services answer about what a flight taught."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel, Field

from cata.said import Said
from cata.services.tasting.telling import Tasted


class Proof(BaseModel):
    """What lets a sentence be heard: two contenders of a test, and what of them shows it."""

    test_id: int = Field(ge=0, le=2**53)
    contender_id: int = Field(ge=0, le=2**53)
    other_id: int = Field(ge=0, le=2**53)
    reading: str = Field(max_length=40)
    low_hz: float = Field(default=0.0, ge=0, le=24_000)
    high_hz: float = Field(default=0.0, ge=0, le=24_000)


class ShownValue(BaseModel):
    """A contender's value of what a sentence speaks of, also in words; ``band``: how far it may be off."""

    contender_id: int
    value: float
    band: float
    text: str


class SentenceView(BaseModel):
    """A sentence with its proof (None: nothing to hear); ``holds_in`` are the tests in which it holds.

    It is shown by a ``picture`` (a spectrum beside the others') or by everybody's ``values``.
    """

    said: Said
    proof: Proof | None = None
    holds_in: list[int] = []
    picture: dict[str, Any] | None = None
    values: list[ShownValue] = []


class DifferencesView(BaseModel):
    """How the contenders of a test differ, what deserves most to be told first; ``alike``: who cannot be told apart."""

    test_id: int
    differences: list[SentenceView]
    alike: list[SentenceView]
    repeats: Said


class VerdictView(BaseModel):
    """What a flight taught, in at most ten sentences; ``code`` "taught", or why there is nothing to say.

    ``kept`` is what Match found and a person kept as it is: the sentences stand on it. ``tasted`` is what ears found
    blind.
    """

    flight_id: int
    flight_name: str
    question: str
    code: str
    heading: str
    sentences: list[SentenceView]
    repeats: Said
    kept: list[Said] = []
    left_out: list[Said] = []
    tasted: list[Tasted] = []


class PlaceView(BaseModel):
    """Where a proof is heard best: seconds of the first contender's take."""

    start_s: float
    end_s: float
