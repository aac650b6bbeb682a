"""What services answer about a plan: the chain, house rules, order, and the sheet."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel

from cata.core.gear import Control
from cata.core.plan.chain import Chain
from cata.core.plan.condition import Condition
from cata.said import Said
from cata.services.flights.views import SettingView

PlannedState = Literal["todo", "done", "redo"]


class LinkView(BaseModel):
    """A device of the chain with its knobs as they are set."""

    key: str
    kind: str
    gear_id: int | None
    name: str
    place: str
    place_text: str
    on: bool
    compared: bool
    controls: list[Control]
    positions: list[float]
    texts: list[str]


class DifferenceView(BaseModel):
    """Something that differs from the base chain for one contender."""

    key: str
    text: str
    wanted: bool


class RowPlan(BaseModel):
    """A contender's differences besides the compared link."""

    contender_id: int
    differences: list[DifferenceView]
    links: list[LinkView]


class TestPlan(BaseModel):
    """A test's demands, in words and as data; ``no_answer`` names contenders that have no such knob."""

    test_id: int
    condition: Condition
    text: str
    no_answer: list[str]


class SchoolView(BaseModel):
    """A school of a house rule."""

    key: str
    name: str
    good_for: str
    costs: str


class RuleView(BaseModel):
    """A house rule: the question, its schools, and which one holds."""

    key: str
    name: str
    chosen: str
    is_default: bool
    schools: list[SchoolView]


class ChoiceOf(BaseModel):
    """A block or ready set that can be added."""

    key: str
    name: str
    about: str
    tests: int


class PlanView(BaseModel):
    """A flight's plan without its table."""

    flight_id: int
    compared_key: str
    chain: Chain
    links: list[LinkView]
    problems: list[Said]
    missing: list[str]
    rows: list[RowPlan]
    tests: list[TestPlan]
    rules: list[RuleView]
    blocks: list[ChoiceOf]
    sets: list[ChoiceOf]


class KnobView(SettingView):
    """A knob of the chain as a take wants it; ``turned`` where it differs from the take before."""

    link: str
    turned: bool


class StepOfSheet(BaseModel):
    """One take of the sheet.

    ``changes`` since the take before, ``set_up`` all of it, for whoever begins here; ``why`` it is to be done again.
    """

    planned_id: int
    number: int
    contender_id: int
    test_id: int
    contender: str
    letter: str
    colour: int
    test: str
    anchor: int
    session: int
    state: PlannedState
    take_id: int | None
    change_s: float
    take_s: float
    begins_s: float
    changes: list[str]
    set_up: list[str]
    why: str = ""
    cautions: list[Said]
    knobs: list[KnobView]
    conditions: list[str]
    phrase: str
    bpm: float
    used: dict[str, str]


class OrderView(BaseModel):
    """The take order with its clock; ``current`` is False where the plan changed since."""

    flight_id: int
    ordered: bool
    current: bool
    steps: list[StepOfSheet]
    done: int
    change_s: float
    play_s: float
    warm_s: float
    redo_s: float
    total_s: float
    table_order_s: float
    best: bool
    gap_percent: float
    improving: bool
    sessions: int
    one_more_contender_s: float | None
    one_more_test_s: float | None
    anchor_contender_id: int | None
    anchor_test_id: int | None
    anchors: bool
    session_limit_min: float | None
    house: list[str]
    change_costs: dict[str, int]
    change_names: dict[str, str]
