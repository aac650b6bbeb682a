"""What services answer about capture: long recordings and their cuts, rehearsals, latency."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, Field

from cata.said import Said


class PieceView(BaseModel):
    """A cut of a long recording and the cell it is meant for; ``take_id`` once it was made a take."""

    take: int = Field(ge=1, le=999)
    start_s: float = Field(ge=0, le=86400)
    end_s: float = Field(ge=0, le=86400)
    confidence: float = Field(ge=0, le=1)
    flag: str = Field(default="", max_length=200)
    planned_id: int | None = None
    label: str = ""
    take_id: int | None = None


class RecordingView(BaseModel):
    """A long recording with its cuts; ``missing`` names planned takes that it does not hold.

    ``state``: its takes are looked for, found, it cannot be used (``refusal`` says why), or looking failed.
    """

    id: int
    flight_id: int
    filename: str
    duration_s: float
    rate_hz: int
    by_slates: bool
    slates: int
    state: Literal["looking", "found", "refused", "failed"]
    refusal: str
    pieces: list[PieceView]
    missing: list[str]
    made: int
    outline: list[float] = []
    outline_step_s: float = 0.05


class RehearsalView(BaseModel):
    """How many takes the bench was asked for, and where a stand-in is only a stand-in."""

    asked: int
    notes: list[Said]


class LatencyView(BaseModel):
    """The round trip through output, air or cable, and input; None with the reason where it cannot be told."""

    latency_ms: float | None
    confidence: float
    reason: str
    code: str
