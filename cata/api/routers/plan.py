"""Plans: chain, house rules, blocks of tests, the order of takes and the sheet."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Path
from pydantic import BaseModel, Field

from cata.api.deps import WS, Id, Work
from cata.core.plan.chain import Chain
from cata.core.plan.condition import Condition
from cata.services.plan import editing, ordering, planning, sheet
from cata.services.plan.cells import OrderIn
from cata.services.plan.editing import BlockIn, KnobsIn, RowChanges, RuleIn
from cata.services.plan.one_more import OneMore, OneMoreIn, one_more
from cata.services.plan.sheet import PlannedPatch
from cata.services.plan.views import OrderView, PlanView
from cata.services.standing import orders

router = APIRouter(prefix="/api", tags=["plan"])


class SetIn(BaseModel):
    """A ready set by its key."""

    set: str = Field(max_length=40)


@router.get("/flights/{flight_id}/plan")
def plan(ws: WS, flight_id: Id) -> PlanView:
    """Chain, differences, conditions and house rules of a flight."""
    return planning.get_plan(ws, flight_id)


@router.put("/flights/{flight_id}/chain")
def change_chain(ws: WS, flight_id: Id, chain: Chain) -> PlanView:
    """Say what the flight is played through."""
    return editing.change_chain(ws, flight_id, chain)


@router.patch("/flights/{flight_id}/chain/{key}")
def turn_knobs(ws: WS, flight_id: Id, key: Annotated[str, Path(max_length=40)], data: KnobsIn) -> PlanView:
    """Set knobs of one link, as a person writes their positions."""
    return editing.turn_knobs(ws, flight_id, key, data)


@router.put("/contenders/{contender_id}/changes")
def change_row(ws: WS, contender_id: Id, data: RowChanges) -> PlanView:
    """Say what differs for one contender besides the compared link."""
    return editing.change_row(ws, contender_id, data)


@router.patch("/contenders/{contender_id}/changes/{key}")
def turn_for_row(ws: WS, contender_id: Id, key: Annotated[str, Path(max_length=40)], data: KnobsIn) -> PlanView:
    """Set knobs of another link differently for one contender."""
    return editing.turn_for_row(ws, contender_id, key, data)


@router.put("/flights/{flight_id}/rules")
def set_rule(ws: WS, flight_id: Id, rule: RuleIn) -> PlanView:
    """Choose a school for a question."""
    return editing.set_rule(ws, flight_id, rule)


@router.put("/tests/{test_id}/condition")
def set_condition(ws: WS, test_id: Id, condition: Condition) -> PlanView:
    """Say what a test asks for."""
    return editing.set_condition(ws, test_id, condition)


@router.post("/flights/{flight_id}/blocks", status_code=201)
def add_block(ws: WS, flight_id: Id, data: BlockIn) -> PlanView:
    """Add the tests of a building block."""
    return editing.add_block(ws, flight_id, data)


@router.post("/flights/{flight_id}/sets", status_code=201)
def add_set(ws: WS, flight_id: Id, data: SetIn) -> PlanView:
    """Add the tests of a ready set."""
    return editing.add_set(ws, flight_id, data.set)


@router.post("/flights/{flight_id}/one-more", status_code=201)
def add_one_more(ws: WS, flight_id: Id, data: OneMoreIn) -> OneMore:
    """Put one more take of an item into the order, before what is open."""
    return one_more(ws, flight_id, data)


@router.get("/flights/{flight_id}/order")
def order(ws: WS, flight_id: Id, short: bool = False) -> OrderView:
    """The order of takes as it stands; ``short``: what is missing or to be played again, from the whole set-up on."""
    return orders.order_of(ws, flight_id, short=short)


@router.post("/flights/{flight_id}/order")
def make_order(ws: WS, flight_id: Id, wish: OrderIn) -> OrderView:
    """Order the takes for little change-over time at once; a better order is looked for in the background."""
    ordering.make_order(ws, flight_id, wish)
    return orders.order_of(ws, flight_id)


@router.delete("/flights/{flight_id}/order/improving")
def stop_improving(ws: WS, work: Work, flight_id: Id) -> OrderView:
    """The order is good enough as it is: look for no better one."""
    ordering.stop_improving(ws, flight_id)
    work.drop(flight_id, ordering.IMPROVING)
    return orders.order_of(ws, flight_id)


@router.patch("/planned/{planned_id}")
def change_planned(ws: WS, planned_id: Id, patch: PlannedPatch) -> OrderView:
    """Mark a planned take, or correct what was really set."""
    return orders.order_of(ws, sheet.change_planned(ws, planned_id, patch))
