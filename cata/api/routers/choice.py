"""Choosing: the whole shelf for a brief, and the rates that amounts of two currencies are compared by."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from fastapi import APIRouter, Depends, Query
from pydantic import BaseModel, Field

from cata.api.deps import WS, Id
from cata.api.veil import OF_ALL, OF_SCOPE
from cata.core.brief import Need
from cata.core.gear import GearKind
from cata.services.choice import choosing, rigs, substitutes
from cata.services.choice.views import ChoiceView, ForBrief, PairingRule, RigsView
from cata.services.shelf import deals, prices, rates
from cata.services.shelf.deals import DealIn
from cata.services.shelf.prices import AmountView
from cata.services.shelf.rates import RateIn
from cata.services.shelf.views import DealView, RateView

router = APIRouter(prefix="/api", tags=["choice"])
Kind = Annotated[GearKind | None, Query(description="Kind of gear; none: the one that was compared most.")]
Detailed = Annotated[int, Query(ge=0, le=10_000, description="How many of the first come with reasons and settings.")]
AtOnce = Annotated[
    bool, Query(description="As it was before the latest changes, where it would take time to count them in.")
]
FlightId = Annotated[
    int | None, Query(ge=1, le=2**31 - 1, description="Among the contenders of this flight; none: of the whole shelf.")
]
BriefId = Annotated[
    int | None,
    Query(ge=1, le=2**31 - 1, description="Brief; none: the one that is proposed for the flight, else the oldest."),
]


@dataclass(frozen=True)
class Asked:
    """Of what a ranking is asked, and how much of it."""

    kind: Kind = None
    flight: FlightId = None
    brief: BriefId = None
    detailed: Detailed = choosing.DETAILED
    at_once: AtOnce = False

    def answer(self, ws: WS, need: Need | None = None) -> ChoiceView:
        """The ranking."""
        return choosing.choose(
            ws, self.kind or "", self.brief, need, flight_id=self.flight, detailed=self.detailed, at_once=self.at_once
        )


@router.get("/choice", dependencies=[OF_SCOPE])
def get_choice(ws: WS, asked: Annotated[Asked, Depends()]) -> ChoiceView:
    """All items of a kind, or the contenders of a flight, ranked for a brief."""
    return asked.answer(ws)


@router.post("/choice", dependencies=[OF_SCOPE])
def try_choice(ws: WS, need: Need, asked: Annotated[Asked, Depends()]) -> ChoiceView:
    """The same for a need that is not kept."""
    return asked.answer(ws, need)


@router.get("/choice/briefs", dependencies=[OF_ALL])
def for_every_brief(ws: WS, kind: Kind = None) -> list[ForBrief]:
    """The first of a kind for each brief."""
    return choosing.for_every_brief(ws, kind or "")


@router.get("/gear/{gear_id}/substitutes", dependencies=[OF_ALL])
def get_substitutes(
    ws: WS, gear_id: Id, most_minor: Annotated[int | None, Query(ge=0, le=10**12)] = None
) -> substitutes.Substitutes:
    """What sounds nearest to an item, what differs, and whether an equaliser would close it."""
    return substitutes.substitutes_of(ws, gear_id, most_minor)


class RigIn(BaseModel):
    """What a rig is asked for besides the brief: a need not kept, another sum to spend, items that must be in."""

    need: Need | None = None
    budget_minor: int | None = Field(default=None, ge=0, le=10**12)
    locked: list[Annotated[int, Field(ge=1, le=2**53)]] = Field(default_factory=list, max_length=40)
    curve: bool = True


@router.post("/rig", dependencies=[OF_ALL])
def find_rigs(ws: WS, data: RigIn, brief: BriefId = None, at_once: AtOnce = False) -> RigsView:
    """The best rigs within the budget that are really different, and what each budget buys."""
    return rigs.find_rigs(
        ws, brief, data.need, budget_minor=data.budget_minor, locked=data.locked, curve=data.curve, at_once=at_once
    )


@router.get("/pairing")
def list_rules(ws: WS) -> list[PairingRule]:
    """All rules of pairing, and two items of the shelf that show each."""
    return rigs.list_rules(ws)


@router.get("/deals")
def list_deals(ws: WS) -> list[DealView]:
    """What is sold together for less, the newest first."""
    return deals.list_deals(ws)


@router.post("/deals", status_code=201)
def add_deal(ws: WS, data: DealIn) -> list[DealView]:
    """Note a deal."""
    return deals.add_deal(ws, data)


@router.delete("/deals/{deal_id}")
def remove_deal(ws: WS, deal_id: Id) -> list[DealView]:
    """Remove a deal."""
    return deals.remove_deal(ws, deal_id)


@router.get("/amount")
def read_amount(
    ws: WS,
    text: Annotated[str, Query(max_length=200)],
    currency: Annotated[str, Query(pattern="^[A-Z]{3}$")] = "EUR",
) -> AmountView:
    """An amount as somebody typed it, for a field that holds this currency."""
    return prices.read_amount(ws, text, currency)


@router.get("/rates")
def list_rates(ws: WS) -> list[RateView]:
    """All rates between currencies, the newest first."""
    return rates.list_rates(ws)


@router.put("/rates")
def set_rate(ws: WS, data: RateIn) -> list[RateView]:
    """Note a rate."""
    return rates.set_rate(ws, data)


@router.delete("/rates/{rate_id}")
def remove_rate(ws: WS, rate_id: Id) -> list[RateView]:
    """Remove a rate."""
    return rates.remove_rate(ws, rate_id)
