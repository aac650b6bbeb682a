"""What cutting answers: pieces of a recording, each with how sure it is and why it may not be."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from typing import Any

from cata.said import Said

SURE = 0.6
"""Confidence from which a cut needs no look."""


@dataclass(frozen=True)
class Piece:
    """A take found in a recording: its number, from and to in seconds, confidence 0 to 1; ``flag`` None when sure."""

    take: int
    start_s: float
    end_s: float
    confidence: float
    flag: Said | None = None

    def as_json(self) -> dict[str, Any]:
        """Plain data; times to a hundredth of a millisecond, the flag in words."""
        times = {"start_s": round(self.start_s, 5), "end_s": round(self.end_s, 5)}
        return asdict(self) | times | {"flag": str(self.flag or "")}
