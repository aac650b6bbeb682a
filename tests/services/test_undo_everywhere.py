"""Every action that plans, notes or captures can be taken back and done again, and leaves the rows as they were."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from sqlmodel import select

from cata.core.chain import Chain, Conditions
from cata.core.plan.condition import Condition
from cata.services.capture import steps
from cata.services.plan import ordering, planning, sheet
from cata.services.plan.cells import OrderIn
from cata.services.plan.planning import BlockIn, KnobsIn, RowChanges, RuleIn
from cata.services.plan.sheet import PlannedPatch
from cata.services.shelf import files as shelf_files
from cata.services.shelf import gear, prices
from cata.services.shelf.gear import GearPatch
from cata.services.shelf.prices import PriceIn
from cata.services.takes import receiving
from cata.services.upkeep import undoing
from cata.services.workspace import Workspace
from cata.store.changes import TRACKED
from tests.conftest import SOME_FACTS, write_take
from tests.services.test_planning import a_plan

Action = Callable[[Workspace, int], Any]


def rows_of(ws: Workspace) -> dict[str, list[dict[str, Any]]]:
    """All that a person entered, as plain rows."""
    with ws.reading() as session:
        return {
            name: sorted((row.model_dump() for row in session.exec(select(model)).all()), key=lambda row: row["id"])
            for name, model in TRACKED.items()
        }


def _chain(ws: Workspace, flight: int) -> None:
    chain = planning.get_plan(ws, flight).chain
    planning.change_chain(ws, flight, Chain(links=chain.links[:2], conditions=Conditions(strings="11–49")))


def _condition(ws: Workspace, flight: int) -> None:
    planning.set_condition(ws, planning.get_plan(ws, flight).tests[0].test_id, Condition(knobs={"gain": 1.0}))


def _row(ws: Workspace, flight: int) -> int:
    return planning.get_plan(ws, flight).rows[0].contender_id


def _mark(ws: Workspace, flight: int) -> None:
    step = sheet.get_order(ws, flight).steps[0]
    sheet.change_planned(ws, step.planned_id, PlannedPatch(state="redo"))


TREBLE = {"treble": "1"}
ACTIONS: dict[str, Action] = {
    "chain": _chain,
    "knob of the chain": lambda ws, f: planning.turn_knobs(ws, f, "amplifier", KnobsIn(settings={"treble": "9"})),
    "knob for one": lambda ws, f: planning.turn_for_row(
        ws, _row(ws, f), "amplifier", KnobsIn(settings={"treble": "1"})
    ),
    "what is meant": lambda ws, f: planning.change_row(ws, _row(ws, f), RowChanges(wanted=["amplifier/treble"])),
    "house rule": lambda ws, f: planning.set_rule(ws, f, RuleIn(question="level", school="as_set")),
    "condition": _condition,
    "block": lambda ws, f: planning.add_block(ws, f, BlockIn(block="positions")),
    "ready set": lambda ws, f: planning.add_set(ws, f, "drives"),
    "order": lambda ws, f: ordering.make_order(ws, f, OrderIn(anchors=False)),
    "mark": _mark,
    "place in order": lambda ws, f: steps.place_in_order(ws, f),
    "shelf file": lambda ws, f: shelf_files.import_shelf(ws, b"kind,name,price\npedal,New,5\npedal,Drive 0,7\n"),
    "specification": lambda ws, f: gear.change_gear(ws, 1, GearPatch(specs={"watts": 5})),
    "start of a knob": lambda ws, f: gear.set_start(ws, 1, "treble", "2"),
    "price": lambda ws, f: prices.add_price(ws, 1, PriceIn(text="9 USD")),
}


@pytest.mark.parametrize("name", ACTIONS)
def test_an_action_is_taken_back_and_done_again(ws: Workspace, tmp_path: Path, name: str) -> None:
    flight, _ = a_plan(ws)
    ordering.make_order(ws, flight, OrderIn())
    receiving.add_take(ws, flight, "a.wav", ws.vault.add(write_take(tmp_path / "a.wav")), SOME_FACTS)
    before = rows_of(ws)
    ACTIONS[name](ws, flight)
    after = rows_of(ws)
    assert after != before
    undoing.undo(ws)
    assert rows_of(ws) == before
    undoing.redo(ws)
    assert rows_of(ws) == after
