"""Every action that plans, notes or captures can be taken back and done again, and leaves the rows as they were."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

from cata.core.plan.chain import Chain, Conditions
from cata.core.plan.condition import Condition
from cata.services.brief import briefs
from cata.services.brief.briefs import BriefIn
from cata.services.capture import recordings, steps
from cata.services.capture.views import PieceView
from cata.services.evidence import probing
from cata.services.evidence.probing import ProbeIn
from cata.services.flights import table
from cata.services.flights.table import FlightPatch
from cata.services.match import accepting
from cata.services.plan import editing, ordering, planning, sheet
from cata.services.plan.cells import OrderIn
from cata.services.plan.editing import BlockIn, KnobsIn, RowChanges, RuleIn
from cata.services.plan.sheet import PlannedPatch
from cata.services.shelf import gear, importing, prices
from cata.services.shelf.gear import GearPatch
from cata.services.shelf.prices import PriceIn
from cata.services.standing.flight import get_flight
from cata.services.takes import placing, receiving
from cata.services.upkeep import undoing
from cata.services.upkeep.export import export_all
from cata.services.workspace import Workspace
from cata.store.tables import Recording
from cata.store.vault import Kept
from tests.conftest import SOME_FACTS, write_take
from tests.services.test_planning import a_plan

Action = Callable[[Workspace, int], Any]


def _chain(ws: Workspace, flight: int) -> None:
    chain = planning.get_plan(ws, flight).chain
    editing.change_chain(ws, flight, Chain(links=chain.links[:2], conditions=Conditions(strings="11–49")))


def _condition(ws: Workspace, flight: int) -> None:
    editing.set_condition(ws, planning.get_plan(ws, flight).tests[0].test_id, Condition(knobs={"gain": 1.0}))


def _row(ws: Workspace, flight: int) -> int:
    return planning.get_plan(ws, flight).rows[0].contender_id


def _mark(ws: Workspace, flight: int) -> None:
    step = sheet.get_order(ws, flight).steps[0]
    sheet.change_planned(ws, step.planned_id, PlannedPatch(state="redo"))


def _in_order(ws: Workspace, flight: int) -> list[placing.CellIn]:
    """Where the order of the plan would put the recordings that want a cell."""
    keys = ("take_id", "contender_id", "test_id", "repeat")
    return [placing.CellIn(**{key: getattr(one, key) for key in keys}) for one in steps.in_order(ws, flight)]


TREBLE = {"treble": "1"}
ACTIONS: dict[str, Action] = {
    "chain": _chain,
    "knob of the chain": lambda ws, f: editing.turn_knobs(ws, f, "amplifier", KnobsIn(settings={"treble": "9"})),
    "knob for one": lambda ws, f: editing.turn_for_row(ws, _row(ws, f), "amplifier", KnobsIn(settings={"treble": "1"})),
    "what is meant": lambda ws, f: editing.change_row(ws, _row(ws, f), RowChanges(wanted=["amplifier/treble"])),
    "house rule": lambda ws, f: editing.set_rule(ws, f, RuleIn(question="level", school="as_set")),
    "condition": _condition,
    "block": lambda ws, f: editing.add_block(ws, f, BlockIn(block="positions")),
    "ready set": lambda ws, f: editing.add_set(ws, f, "drives"),
    "order": lambda ws, f: ordering.make_order(ws, f, OrderIn(anchors=False)),
    "mark": _mark,
    "place all": lambda ws, f: placing.place_all(ws, f, _in_order(ws, f)),
    "shelf file": lambda ws, f: importing.import_shelf(ws, b"kind,name,price\npedal,New,5\npedal,Drive 0,7\n"),
    "specification": lambda ws, f: gear.change_gear(ws, 1, GearPatch(specs={"watts": 5})),
    "start of a knob": lambda ws, f: gear.set_start(ws, 1, "treble", "2"),
    "price": lambda ws, f: prices.add_price(ws, 1, PriceIn(text="9 USD")),
}


def _swap(ws: Workspace, flight: int) -> None:
    first, second = [take for take in get_flight(ws, flight).takes if take.test_id][:2]
    placing.place_take(ws, first.id, second.contender_id, second.test_id)


def _take(ws: Workspace, flight: int) -> int:
    return next(take.id for take in get_flight(ws, flight).takes if take.test_id is not None)


DESTRUCTIVE: dict[str, Action] = {
    "remove the flight": lambda ws, f: table.remove_flight(ws, f),
    "remove a contender": lambda ws, f: table.remove_contender(ws, get_flight(ws, f).contenders[0].id),
    "remove a test": lambda ws, f: table.remove_test(ws, get_flight(ws, f).tests[0].id),
    "remove a take": lambda ws, f: placing.remove_take(ws, _take(ws, f)),
    "take a take out": lambda ws, f: placing.place_take(ws, _take(ws, f), None, None),
    "swap two takes": _swap,
    "move a contender": lambda ws, f: table.move_contender(ws, get_flight(ws, f).contenders[0].id, 2),
    "move a test": lambda ws, f: table.move_test(ws, get_flight(ws, f).tests[1].id, 0),
    "open a finding again": lambda ws, f: accepting.accept_finding(ws, _take(ws, f), "noise", False),
    "keep another take": lambda ws, f: accepting.accept_finding(ws, _take(ws, f), "lag", True),
    "remove the long recording": lambda ws, f: recordings.remove_recording(ws, 1),
    "remove all cuts": lambda ws, f: recordings.change_pieces(ws, 1, []),
    "remove the item that is compared": lambda ws, f: gear.remove_gear(
        ws, get_flight(ws, f).contenders[1].gear_id or 0
    ),
    "remove a measurement": lambda ws, f: probing.remove_probe(ws, 2),
    "remove a loop-back": lambda ws, f: probing.remove_probe(ws, 1),
    "remove a price": lambda ws, f: prices.remove_price(ws, 1),
    "remove the brief": lambda ws, f: briefs.remove_brief(ws, 1),
}


def a_full_flight(ws: Workspace) -> int:
    """Everything a flight can own: a chain, an order begun, takes, a long recording with cuts, what was kept."""
    flight, _ = a_plan(ws)
    ordering.make_order(ws, flight, OrderIn())
    brief = briefs.add_brief(ws, BriefIn(name="Need"))
    table.change_flight(ws, flight, FlightPatch(brief_id=brief.id))
    item = get_flight(ws, flight).contenders[1].gear_id or 0
    prices.add_price(ws, item, PriceIn(text="9 EUR"))
    kept = Kept("ab" * 32, 3, ws.data_dir)
    probing.add_probe(ws, None, "loop.wav", kept, ProbeIn())
    probing.add_probe(ws, item, "probe.wav", kept, ProbeIn(loop_id=1))
    for number, step in enumerate(sheet.get_order(ws, flight).steps[:3]):
        take = receiving.add_take(ws, flight, f"{number}.wav", Kept(f"{number:064x}", 5, ws.data_dir), SOME_FACTS)
        steps.place_planned(ws, take, step.planned_id)
        accepting.accept_finding(ws, take, "noise", True)
    piece = PieceView(
        take=1, start_s=0, end_s=2, confidence=1, planned_id=sheet.get_order(ws, flight).steps[0].planned_id
    )
    with ws.writing() as session:
        session.add(
            Recording(flight_id=flight, digest="cd" * 32, filename="day.wav", size_bytes=9, duration_s=60.0,
                      rate_hz=48000, pieces=[piece.model_dump()])
        )  # fmt: skip
    return flight


@pytest.mark.parametrize("name", DESTRUCTIVE)
def test_undo_and_redo_of_a_destructive_action_on_a_full_flight_give_the_same_export(ws: Workspace, name: str) -> None:
    flight = a_full_flight(ws)
    before = export_all(ws)
    DESTRUCTIVE[name](ws, flight)
    after = export_all(ws)
    assert after != before
    for _ in range(2):
        undoing.undo(ws)
        assert export_all(ws) == before
        undoing.redo(ws)
        assert export_all(ws) == after


@pytest.mark.grid(6)
@pytest.mark.parametrize("name", ACTIONS)
def test_an_action_is_taken_back_and_done_again(ws: Workspace, tmp_path: Path, name: str) -> None:
    flight, _ = a_plan(ws)
    ordering.make_order(ws, flight, OrderIn())
    receiving.add_take(ws, flight, "a.wav", ws.vault.add(write_take(tmp_path / "a.wav")), SOME_FACTS)
    before = export_all(ws)
    ACTIONS[name](ws, flight)
    after = export_all(ws)
    assert after != before
    undoing.undo(ws)
    assert export_all(ws) == before
    undoing.redo(ws)
    assert export_all(ws) == after
