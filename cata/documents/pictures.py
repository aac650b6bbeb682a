"""Where the strokes of a document's pictures lie, in the units of their drawings."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from math import floor, log10

from cata.core.card.card import Card, Evidence

FULL_LEFT, TRAVEL = -150.0, 300.0
"""A knob turns from 7:00 to 5:00, in degrees from upright."""
STRIP, ROOM = 200.0, 0.06
WIDTH, HEIGHT, LEFT, RIGHT, TOP, BOTTOM = 640.0, 240.0, 40.0, 14.0, 12.0, 34.0


def knob_angle(position: float) -> float:
    """The turn of a knob in degrees, upright 0."""
    return round(FULL_LEFT + TRAVEL * min(1.0, max(0.0, position)), 1)


@dataclass(frozen=True)
class Strip:
    """A range and a value on a line 200 long: the range wanted, the band of what is known, its middle."""

    wanted_from: float
    wanted_to: float
    band_from: float | None
    band_to: float | None
    at: float | None


def strip(one: Evidence) -> Strip:
    """The picture of one range."""
    span = (one.most - one.least) or 1.0
    least, most = one.least - ROOM * span, one.most + ROOM * span

    def x(value: float) -> float:
        return round(STRIP * min(1.0, max(0.0, (value - least) / (most - least))), 1)

    return Strip(
        0.0 if one.wanted_low is None else x(one.wanted_low), STRIP if one.wanted_high is None else x(one.wanted_high),
        None if one.low is None else x(one.low), None if one.high is None else x(one.high),
        None if one.value is None else x(one.value),
    )  # fmt: skip


@dataclass(frozen=True)
class Dot:
    """One of those that could be chosen; ``right``: its name stands to the left of it."""

    name: str
    x: float
    y: float
    low: float | None
    high: float | None
    chosen: bool
    named: bool
    right: bool


@dataclass(frozen=True)
class PricePicture:
    """Fit against price: dots, ticks as (place, text), and the end of what can be spent."""

    dots: list[Dot]
    prices: list[tuple[float, str]]
    fits: list[tuple[float, str]]
    spendable_x: float | None


def price_picture(card: Card) -> PricePicture:
    """The picture of all that could be chosen. Of dots that lie on one another only the first is named."""
    dearest = max((one.price_minor for one in card.points), default=1) * 1.12 or 1.0

    def x(minor: float) -> float:
        return round(LEFT + minor / dearest * (WIDTH - LEFT - RIGHT), 1)

    def y(fit: float) -> float:
        return round(TOP + (1 - fit) * (HEIGHT - TOP - BOTTOM), 1)

    dots: list[Dot] = []
    for one in sorted(card.points, key=lambda point: (not point.chosen, -point.fit)):
        here = x(one.price_minor), y(one.fit)
        free = all(abs(here[0] - dot.x) > 90 or abs(here[1] - dot.y) > 13 for dot in dots if dot.named)
        dots.append(Dot(one.name, *here, _y(one.low, y), _y(one.high, y), one.chosen, free, here[0] > WIDTH * 0.7))
    unit = 10.0**card.decimals
    step = _step(dearest / unit / 4) * unit
    ticks = [step * n for n in range(1, floor(dearest / step) + 1)]
    spendable = card.spendable_minor
    return PricePicture(
        dots, [(x(minor), f"{minor / unit:g}") for minor in ticks],
        [(y(fit / 100), str(fit)) for fit in (0, 25, 50, 75, 100)],
        x(spendable) if spendable is not None and spendable < dearest else None,
    )  # fmt: skip


def _y(fit: float | None, y: Callable[[float], float]) -> float | None:
    return None if fit is None else y(fit)


def _step(rough: float) -> float:
    """A round number near to this one: 1, 2 or 5 times a power of ten."""
    power = 10.0 ** floor(log10(rough)) if rough > 0 else 1.0
    return power * (5 if rough / power >= 5 else 2 if rough / power >= 2 else 1)
