"""Slates, and what the round trip of one tells."""

from __future__ import annotations

from pathlib import Path

from cata.errors import Refused
from cata.services.capture.views import LatencyView
from cata.services.workspace import Workspace
from cata.tasks.cuts import HEAR_SLATE, slate_bytes

LATENCY_PLAYED_AT_S = 0.5


def slate_wav(number: int, closes: bool) -> bytes:
    """The slate of a take as WAV bytes."""
    return slate_bytes(number, closes)


def measure_latency(ws: Workspace, path: Path) -> LatencyView:
    """The round trip of a loop-back recording in which the slate was played half a second after the start."""
    try:
        found = ws.ask(HEAR_SLATE, ws.inside(path))
    except Refused as error:
        return LatencyView(latency_ms=None, confidence=0.0, reason=error.message, code=error.code)
    latency = (found.start_s - LATENCY_PLAYED_AT_S) * 1000
    if latency < 0:
        return LatencyView(
            latency_ms=None, confidence=0.0, reason="the tone was heard before it was played", code="too_early"
        )
    return LatencyView(latency_ms=round(latency, 2), confidence=found.confidence, reason="", code="")
