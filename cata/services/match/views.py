"""What services answer about the match of a flight."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel

from cata.said import Number, Said
from cata.services.flights.views import FailureView


class FindingView(BaseModel):
    """A finding with its evidence picture; ``sure`` says how sure it is and why.

    ``accepted``: it needs no look, for this take or, ``always``, for the contender, and the person's ``reason``;
    ``of_gear``: gear can do that; ``other_id`` is the take it would change places with.
    """

    id: int
    take_id: int | None
    contender_id: int | None
    test_id: int | None
    rule: str
    rule_name: str
    severity: str
    text: str
    advice: str
    picture: dict[str, Any] | None
    accepted: bool
    always: bool = False
    of_gear: bool = False
    reason: str = ""
    other_id: int | None = None
    sure: str = ""
    numbers: dict[str, Number] = {}


class ToldFinding(BaseModel):
    """A finding with the names of its take; ``sure``: sure, likely, or a note that changes nothing, and ``why``."""

    rule: str
    severity: str
    contender: str
    test: str
    text: str
    advice: str
    sure: str
    why: str
    accepted: bool
    numbers: dict[str, Number] = {}


class AlignmentView(BaseModel):
    """A take against the reference of its test, as words."""

    take_id: int
    reference_id: int
    lag_text: str
    polarity: str
    tempo_text: str
    tuning_text: str
    same_phrase: str


class RedoView(BaseModel):
    """A take to record again, and why; ``planned_id`` where it stands in the order."""

    take_id: int
    contender_id: int | None
    test_id: int | None
    planned_id: int | None
    name: str
    rule: str
    reason: str


class MatchView(BaseModel):
    """The match of a flight: findings worst first, and how every take lies against its reference."""

    findings: list[FindingView]
    alignments: list[AlignmentView]
    summary: Said
    redo: list[RedoView]
    repeatability: Said
    pending: bool
    failures: list[FailureView] = []
