"""What a share of drive is called."""

from __future__ import annotations

NAMES: tuple[tuple[float, str], ...] = (
    (0.01, "clean"),
    (0.03, "a touch of grit"),
    (0.10, "edge"),
    (0.20, "crunch"),
    (0.35, "driven"),
    (1.01, "saturated"),
)
"""Words for shares below a limit."""


def name_of(share: float) -> str:
    """The word for one share."""
    return next(name for limit, name in NAMES if share < limit)


def name_between(low: float, high: float) -> str:
    """The word for a share known to lie between two; both ends where they differ."""
    first, last = name_of(max(low, 0.0)), name_of(min(high, 1.0))
    return first if first == last else f"{first} to {last}"
