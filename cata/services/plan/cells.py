"""The takes of a plan as an order needs them, and what a flight keeps of its order."""

from __future__ import annotations

import hashlib
import json
from typing import Any

from pydantic import BaseModel, Field

from cata.core.plan.schedule import Cell
from cata.core.plan.setup import PartKind
from cata.services.plan.setups import Setups, condition_of
from cata.store.tables import Contender, Test


class OrderIn(BaseModel):
    """How takes are to be ordered; ``anchor`` None lets Cata choose the anchor's cell."""

    anchors: bool = True
    anchor_contender_id: int | None = Field(default=None, ge=1, le=2**53)
    anchor_test_id: int | None = Field(default=None, ge=1, le=2**53)
    session_limit_min: float | None = Field(default=None, ge=10, le=1440)
    costs: dict[PartKind, int] = Field(default_factory=dict)


class OrderKept(BaseModel):
    """What a flight keeps of its order: the wish, the plan it stands for, and what was found.

    ``sequence`` are indices of the plan's cells, ``ascent`` how far the bound was climbed (core.plan.bound.Ascent).
    """

    wish: OrderIn = OrderIn()
    state: str = ""
    least_s: int = 0
    found_s: int = 0
    table_s: int = 0
    sequence: list[int] = []
    ascent: dict[str, Any] | None = None
    one_more_contender_s: float | None = None
    one_more_test_s: float | None = None


def cells_of(setups: Setups) -> tuple[list[tuple[Contender, Test]], list[Cell]]:
    """Every contender in every test, as rows and as what an order needs of them."""
    pairs = [(contender, test) for contender in setups.contenders for test in setups.tests]
    cells = []
    for contender, test in pairs:
        condition = condition_of(test)
        warm = setups.warm(setups.cell_chain(contender, test))
        cells.append(Cell(setups.setup(contender, test), condition.seconds, condition.bpm, warm))
    return pairs, cells


def state_of(pairs: list[tuple[Contender, Test]], cells: list[Cell], wish: OrderIn) -> str:
    """What an order depends on."""
    parts = [
        [contender.id, test.id, cell.play_s, cell.bpm, sorted((k, p.kind, p.value) for k, p in cell.setup.items())]
        for (contender, test), cell in zip(pairs, cells, strict=True)
    ]
    whole = json.dumps([parts, wish.model_dump(mode="json")], sort_keys=True)
    return hashlib.sha256(whole.encode()).hexdigest()[:16]


def repeat_of(anchor: int) -> int:
    """Which repeat of its cell a planned take is: the first anchor is the take that counts."""
    return max(0, anchor - 1)
