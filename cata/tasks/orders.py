"""The order of takes: found at once, then searched further and its bound climbed further, a round at a time."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from cata.core.plan.order import Order, better_order, for_seconds, good_order
from cata.tasks.desk import Desk
from cata.tasks.shape import Task

ROUND_S = 4.0


@dataclass(frozen=True)
class ToOrder:
    """Change-over seconds of all pairs, and the anchor's index."""

    costs: npt.NDArray[np.int64]
    anchor: int | None


def first(wish: ToOrder, _desk: Desk) -> Order:
    """A good order at once."""
    return good_order(wish.costs, wish.anchor)


@dataclass(frozen=True)
class ToImprove:
    """Change-over seconds of all pairs, the anchor's index, the order so far, and which round this is."""

    costs: npt.NDArray[np.int64]
    anchor: int | None
    order: Order
    round: int


def improve(wish: ToImprove, _desk: Desk) -> Order:
    """An order at least as good, after a few seconds: half of them for the bound, half for the order."""
    return better_order(
        wish.costs, wish.anchor, wish.order, seed=wish.round, climb_until=for_seconds(ROUND_S / 2),
        until=for_seconds(ROUND_S),
    )  # fmt: skip


FIRST_ORDER = Task("order the takes", first, limit_s=60)
IMPROVE_ORDER = Task("improve an order", improve, limit_s=120)
