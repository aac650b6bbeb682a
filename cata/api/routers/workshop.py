"""The workshop: calculators."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Path, Query
from pydantic import BaseModel, Field

from cata.api.deps import WS
from cata.services.workshop import calculating
from cata.services.workshop.views import CalculatorView, WorkedView

router = APIRouter(prefix="/api/workshop", tags=["workshop"])


class Asked(BaseModel):
    """What was typed, by key of the question (blank for "there is none"), and items whose specifications answer too."""

    typed: dict[Annotated[str, Field(max_length=40)], Annotated[str, Field(max_length=200)]] = Field(
        default={}, max_length=40
    )
    gear_ids: list[Annotated[int, Field(ge=1, le=2**53)]] = Field(default=[], max_length=8)


@router.get("")
def list_calculators(kind: Annotated[str, Query(max_length=40)] = "") -> list[CalculatorView]:
    """All calculators; with ``kind`` those that work out something of an item of that kind."""
    return calculating.list_calculators(kind)


@router.post("/{key}")
def calculate(ws: WS, key: Annotated[str, Path(max_length=40)], data: Asked) -> WorkedView:
    """Work something out. Nothing is kept."""
    return calculating.calculate(ws, key, data.typed, data.gear_ids)
