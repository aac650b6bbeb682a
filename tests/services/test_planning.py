"""A plan in the store: chains, differences, orders that keep what was done, and findings from what was declared."""

from __future__ import annotations

from pathlib import Path

import pytest

from cata.core.plan.chain import Chain, Link
from cata.core.plan.condition import Condition
from cata.errors import Conflict, Invalid, NotFound
from cata.services.flights import table
from cata.services.flights.table import ContenderIn, FlightIn, TestIn
from cata.services.match import findings
from cata.services.plan import editing, ordering, planning, sheet
from cata.services.plan.cells import OrderIn
from cata.services.plan.editing import BlockIn, KnobsIn, RowChanges, RuleIn
from cata.services.plan.sheet import PlannedPatch
from cata.services.shelf import gear
from cata.services.shelf.gear import GearIn
from cata.services.upkeep import undoing
from cata.services.workspace import Workspace
from cata.store.tables import Take
from tests.conftest import declines

KNOBS = [{"key": key, "name": key.title()} for key in ("drive", "tone", "level")]


def a_plan(ws: Workspace, contenders: int = 2, tests: tuple[str, ...] = ("Riff", "Lead")) -> tuple[int, int]:
    """A flight of drives on an amplifier that is written down; (flight, amplifier)."""
    amp = gear.add_gear(
        ws,
        GearIn(
            kind="amplifier",
            name="Ebb",
            controls=[{"key": "treble", "name": "Treble"}],  # type: ignore[list-item]
            specs={"watts": "22 W", "weight": "23 kg"},
        ),
    )
    flight = table.add_flight(ws, FlightIn(name="Drives", link="pedal"))
    for index in range(contenders):
        item = gear.add_gear(ws, GearIn(kind="pedal", name=f"Drive {index}", controls=KNOBS))  # type: ignore[arg-type]
        table.add_contender(ws, flight, ContenderIn(gear_id=item.id))
    for name in tests:
        table.add_test(ws, flight, TestIn(name=name))
    plan = planning.get_plan(ws, flight)
    links = [
        link.model_copy(update={"gear_id": amp.id, "name": "Ebb", "settings": {"treble": 0.5}})
        if link.kind == "amplifier"
        else link
        for link in plan.chain.links
    ]
    editing.change_chain(ws, flight, Chain(links=tuple(links)))
    return flight, amp.id


def test_a_new_flight_shows_a_chain_to_begin_with(ws: Workspace) -> None:
    flight = table.add_flight(ws, FlightIn(name="x", link="pedal"))
    plan = planning.get_plan(ws, flight)
    assert [(link.kind, link.compared) for link in plan.links] == [
        ("guitar", False), ("pedal", True), ("amplifier", False), ("speaker", False), ("microphone", False),
    ]  # fmt: skip
    assert len(plan.rules) == 9
    assert plan.sets[0].key == "drives"


def test_knobs_of_the_chain_are_read_in_their_own_scale(ws: Workspace) -> None:
    flight, _ = a_plan(ws)
    plan = editing.turn_knobs(ws, flight, "amplifier", KnobsIn(settings={"treble": "3:00"}))
    amp = next(link for link in plan.links if link.kind == "amplifier")
    assert (amp.texts, amp.positions) == (["8"], [0.8])
    with declines(Invalid, "no_control"):
        editing.turn_knobs(ws, flight, "amplifier", KnobsIn(settings={"bass": "5"}))
    with declines(NotFound, "not_found"):
        editing.turn_knobs(ws, flight, "nowhere", KnobsIn(settings={}))


def test_a_knob_set_differently_for_one_contender_is_found_until_it_is_meant(ws: Workspace) -> None:
    flight, _ = a_plan(ws)
    row = planning.get_plan(ws, flight).rows[1].contender_id
    editing.turn_for_row(ws, row, "amplifier", KnobsIn(settings={"treble": "9"}))
    (found,) = [f for f in findings.get_match(ws, flight).findings if f.rule == "voiced_for_one"]
    assert (found.severity, found.contender_id, found.take_id) == ("fault", row, None)
    plan = planning.get_plan(ws, flight)
    (difference,) = plan.rows[1].differences
    assert difference.text in found.text
    assert difference.key == "amplifier/treble"
    own = {"amplifier": Link(**_plain(plan.rows[1].links, "amplifier"))}
    editing.change_row(ws, row, RowChanges(links=own, wanted=[difference.key]))
    assert not [f for f in findings.get_match(ws, flight).findings if f.rule == "voiced_for_one"]
    editing.change_row(ws, row, RowChanges())
    assert planning.get_plan(ws, flight).rows[1].differences == []
    with declines(NotFound, "not_found"):
        editing.turn_for_row(ws, row, "pedal", KnobsIn(settings={}))


def _plain(links: list, key: str) -> dict:  # type: ignore[type-arg]
    view = next(link for link in links if link.key == key)
    settings = dict(zip([c.key for c in view.controls], view.positions, strict=True))
    return {"key": key, "kind": view.kind, "gear_id": view.gear_id, "name": view.name, "settings": settings}


def test_what_nobody_wrote_down_and_knobs_that_are_not_there_are_noted(ws: Workspace) -> None:
    flight, _ = a_plan(ws)
    editing.set_condition(ws, planning.get_plan(ws, flight).tests[0].test_id, Condition(knobs={"blend": 0.5}))
    rules = {f.rule: f for f in findings.get_match(ws, flight).findings}
    assert "not_written_down" in rules
    assert "strings" in planning.get_plan(ws, flight).missing
    assert rules["no_answer"].test_id is not None


def test_a_set_adds_its_tests_once_and_is_one_undo(ws: Workspace) -> None:
    flight, _ = a_plan(ws)
    editing.add_set(ws, flight, "drives")
    assert len(editing.add_set(ws, flight, "drives").tests) == 9
    undoing.undo(ws)
    assert len(planning.get_plan(ws, flight).tests) == 2
    swept = editing.add_block(ws, flight, BlockIn(block="sweep", role="tone", positions=3))
    assert [t.condition.knobs for t in swept.tests[2:]] == [{"tone": place} for place in (0.0, 0.5, 1.0)]
    with pytest.raises(NotFound):
        editing.add_set(ws, flight, "nothing")
    with pytest.raises(NotFound):
        editing.add_block(ws, flight, BlockIn(block="nothing"))


def test_house_rules_are_chosen_and_the_level_reaches_the_tray(ws: Workspace) -> None:
    flight, _ = a_plan(ws)
    editing.set_rule(ws, flight, RuleIn(question="level", school="as_set"))
    rule = planning.get_plan(ws, flight).rules[0]
    assert (rule.chosen, rule.is_default) == ("as_set", False)
    with declines(Invalid, "no_school"):
        editing.set_rule(ws, flight, RuleIn(question="level", school="loud"))
    with pytest.raises(NotFound):
        editing.set_rule(ws, flight, RuleIn(question="weather", school="dry"))


def test_an_order_knows_its_time_and_keeps_numbers_when_the_plan_grows(ws: Workspace) -> None:
    flight, _ = a_plan(ws, contenders=3)
    ordering.make_order(ws, flight, OrderIn())
    order = sheet.get_order(ws, flight)
    assert [step.anchor for step in order.steps if step.anchor] == [1, 2, 3]
    assert len(order.steps) == 3 * 2 + 2
    assert order.best
    assert order.current
    assert order.total_s == order.play_s + order.change_s + order.warm_s + order.redo_s
    assert order.one_more_contender_s
    assert order.one_more_contender_s > 60
    assert {"name": "Ebb", "kg": 23.0} in [one.numbers for one in order.steps[0].cautions if one.code == "lifting"]
    numbers = {(s.contender_id, s.test_id, s.anchor): s.number for s in order.steps}
    table.add_test(ws, flight, TestIn(name="Chords"))
    assert not sheet.get_order(ws, flight).current
    ordering.make_order(ws, flight, OrderIn())
    longer = sheet.get_order(ws, flight)
    assert len(longer.steps) == 3 * 3 + 2
    kept = {(s.contender_id, s.test_id, s.anchor): s.number for s in longer.steps}
    assert all(kept.get(key, number) == number for key, number in numbers.items())
    assert len({s.number for s in longer.steps}) == len(longer.steps)


def test_orders_without_cells_or_with_a_foreign_anchor_are_refused(ws: Workspace) -> None:
    empty = table.add_flight(ws, FlightIn(name="x"))
    with declines(Conflict, "nothing_to_order"):
        ordering.make_order(ws, empty, OrderIn())
    flight, _ = a_plan(ws)
    with declines(Invalid, "other_flight"):
        ordering.make_order(ws, flight, OrderIn(anchor_contender_id=999, anchor_test_id=1))


def test_a_removed_contender_leaves_the_order(ws: Workspace) -> None:
    flight, _ = a_plan(ws, contenders=3)
    ordering.make_order(ws, flight, OrderIn(anchors=False))
    order = sheet.get_order(ws, flight)
    table.remove_contender(ws, order.steps[0].contender_id)
    left = sheet.get_order(ws, flight)
    assert len(left.steps) == 4
    assert not left.current


def test_a_planned_take_is_marked_and_corrected_only_where_it_is(ws: Workspace, tmp_path: Path) -> None:
    flight, _ = a_plan(ws)
    ordering.make_order(ws, flight, OrderIn(anchors=False))
    step = sheet.get_order(ws, flight).steps[0]
    with declines(Conflict, "not_recorded"):
        sheet.change_planned(ws, step.planned_id, PlannedPatch(used={"pedal/drive": "7"}))
    with ws.writing() as session:
        session.add(
            Take(
                flight_id=flight, contender_id=step.contender_id, test_id=step.test_id, digest="d", filename="a",
                size_bytes=1,
            )
        )  # fmt: skip
    sheet.change_planned(ws, step.planned_id, PlannedPatch(used={"pedal/drive": "7", "x": " "}))
    done = sheet.get_order(ws, flight)
    assert done.steps[0].used == {"pedal/drive": "7"}
    assert done.steps[0].state == "done"
    assert "used_otherwise" in {f.rule for f in findings.get_match(ws, flight).findings}
    assert len(sheet.get_order(ws, flight, short=True).steps) == len(done.steps) - 1
    sheet.change_planned(ws, step.planned_id, PlannedPatch(state="redo"))
    again = sheet.get_order(ws, flight)
    assert (again.steps[0].state, again.steps[0].why) == ("redo", "marked to be done again")
    assert [r.rule for r in findings.get_match(ws, flight).redo] == ["marked"]


def test_a_chain_with_a_knob_its_gear_lacks_is_refused(ws: Workspace) -> None:
    flight, amp = a_plan(ws)
    link = Link(key="amplifier", kind="amplifier", gear_id=amp, name="Ebb", settings={"bass": 0.5})
    with declines(Invalid, "no_control"):
        editing.change_chain(ws, flight, Chain(links=(link,)))
    with declines(Invalid, "out_of_range"):
        editing.change_chain(ws, flight, Chain(links=(link.model_copy(update={"settings": {"treble": 3.0}}),)))
    plain = link.model_copy(update={"settings": {}})
    with declines(Invalid, "same_key"):
        editing.change_chain(ws, flight, Chain(links=(plain, plain)))
