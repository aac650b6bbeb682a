"""Two browsers on one shelf: each takes back its own actions, and nobody's work is lost by the other's undo."""

from __future__ import annotations

import random

import pytest
from sqlmodel import select

from cata.core.gear import Control
from cata.errors import Conflict
from cata.services.brief import briefs
from cata.services.brief.briefs import BriefIn, BriefPatch
from cata.services.flights import table
from cata.services.flights.showing import contender_views
from cata.services.flights.table import ContenderIn, ContenderPatch, FlightIn, TestIn
from cata.services.shelf import gear, importing, listing, prices
from cata.services.shelf.gear import GearIn, GearPatch
from cata.services.shelf.prices import PriceIn
from cata.services.upkeep import undoing
from cata.services.upkeep.export import export_all
from cata.services.workspace import Workspace
from cata.store import undo as turning
from cata.store.actor import acting_as
from cata.store.tables import Gear, Take
from tests.conftest import declines

KNOBS = [Control(key=key, name=key) for key in ("drive", "tone")]


def shelf(ws: Workspace) -> dict[str, tuple[str, str, dict[str, object]]]:
    return {
        item.name: (item.about, item.structure, {s.key: s.value for s in item.specs if s.value is not None})
        for item in listing.list_gear(ws)[0]
    }


def test_each_takes_back_its_own_and_leaves_what_the_other_did_to_the_same_item(ws: Workspace) -> None:
    item = gear.add_gear(ws, GearIn(kind="pedal", name="Alder")).id
    with acting_as("left"):
        gear.change_gear(ws, item, GearPatch(about="a drive"))
    with acting_as("right"):
        gear.change_gear(ws, item, GearPatch(name="Alder the Second"))
    with acting_as("left"):
        assert undoing.state(ws).undo == "Change gear: Alder"
        undoing.undo(ws)
        assert undoing.state(ws).undo is None
    assert shelf(ws) == {"Alder the Second": ("", "", {})}
    with acting_as("left"):
        undoing.redo(ws)
    with acting_as("right"):
        undoing.undo(ws)
    assert shelf(ws) == {"Alder": ("a drive", "", {})}
    # Who does not say who it is (the command line) has an undo of its own, and takes nobody's words along.
    with declines(Conflict, "changed_since"):
        undoing.undo(ws)


def test_what_the_other_has_changed_since_is_not_taken_back(ws: Workspace) -> None:
    with acting_as("left"):
        item = gear.add_gear(ws, GearIn(kind="pedal", name="Alder", about="one")).id
        gear.change_gear(ws, item, GearPatch(about="two"))
    with acting_as("right"):
        gear.change_gear(ws, item, GearPatch(about="three"))
    with acting_as("left"), declines(Conflict, "changed_since"):
        undoing.undo(ws)
    assert shelf(ws)["Alder"][0] == "three"
    # Left as it is, it does not stand in the way of what was done before: the item, which the other has changed too.
    with acting_as("left"):
        assert undoing.undo(ws, "skip").undo == "Add Alder"
        with declines(Conflict, "changed_since"):
            undoing.undo(ws)
    assert "Alder" in shelf(ws)


def test_an_item_that_the_other_has_priced_stays(ws: Workspace) -> None:
    with acting_as("left"):
        item = gear.add_gear(ws, GearIn(kind="pedal", name="Alder")).id
    with acting_as("right"):
        prices.add_price(ws, item, PriceIn(text="99 EUR"))
    with acting_as("left"), declines(Conflict, "changed_since"):
        undoing.undo(ws)
    assert len(gear.get_gear(ws, item).prices) == 1


def test_what_the_other_removed_is_not_brought_back_to_life(ws: Workspace) -> None:
    item = gear.add_gear(ws, GearIn(kind="pedal", name="Alder")).id
    with acting_as("left"):
        gear.change_gear(ws, item, GearPatch(about="two"))
    with acting_as("right"):
        gear.remove_gear(ws, item)
    with acting_as("left"), declines(Conflict, "changed_since"):
        undoing.undo(ws)
    with acting_as("right"):
        undoing.undo(ws)
    assert shelf(ws)["Alder"][0] == "two"


def test_two_knobs_of_one_item_are_two_peoples(ws: Workspace) -> None:
    item = gear.add_gear(ws, GearIn(kind="pedal", name="Alder", controls=KNOBS)).id
    flight = table.add_flight(ws, FlightIn(name="F"))
    table.add_contender(ws, flight, ContenderIn(name="A", gear_id=item))
    with ws.reading() as session:
        one = contender_views(session, flight)[0].id
    with acting_as("left"):
        table.change_contender(ws, one, ContenderPatch(settings={"drive": "9"}))
    with acting_as("right"):
        table.change_contender(ws, one, ContenderPatch(settings={"tone": "2"}))
    with acting_as("left"):
        undoing.undo(ws)
    with ws.reading() as session:
        texts = {one.key: one.text for one in contender_views(session, flight)[0].settings}
    assert texts == {"drive": "5", "tone": "2"}


@pytest.mark.grid(1)
@pytest.mark.parametrize("seed", range(3))
def test_forty_mixed_edits_each_and_all_of_ones_own_taken_back(ws: Workspace, seed: int) -> None:
    draw = random.Random(seed)
    items = [gear.add_gear(ws, GearIn(kind="pedal", name=f"Item {n}")).id for n in range(6)]
    fields = {"left": ("about", "watts"), "right": ("structure", "volts")}
    for step in range(80):
        who = draw.choice(["left", "right"])
        with acting_as(who):
            item = draw.choice(items)
            if draw.random() < 0.2:
                gear.add_gear(ws, GearIn(kind="cable", name=f"{who} {step}"))
            elif draw.random() < 0.3:
                undoing.undo(ws)
            else:
                gear.change_gear(ws, item, GearPatch(**{fields[who][0]: f"{who} {step}"}))
    for who in fields:  # what waits to be redone goes with the next action
        with acting_as(who):
            gear.add_gear(ws, GearIn(kind="cable", name=f"{who} at last"))
    before = shelf(ws)
    with acting_as("left"):
        while undoing.state(ws).undo:
            undoing.undo(ws)
    after = shelf(ws)
    assert all(about == "" for about, _, _ in after.values())
    assert not [name for name in after if name.startswith("left")]
    rights = {name: one[1] for name, one in before.items() if not name.startswith("left")}
    assert {name: one[1] for name, one in after.items()} == rights
    with acting_as("left"):
        while undoing.state(ws).redo:
            undoing.redo(ws)
    assert shelf(ws) == before


def test_the_ticks_of_one_slide_are_one_undo(ws: Workspace) -> None:
    brief = briefs.add_brief(ws, BriefIn(name="B"))
    for weight in (4.0, 5.0, 6.0):
        briefs.change_brief(ws, brief.id, BriefPatch(need=brief.need.model_copy(update={"price_weight": weight})))
    assert undoing.state(ws).undo == "Change weights: B"
    undoing.undo(ws)
    assert briefs.get_brief(ws, brief.id).need.price_weight == brief.need.price_weight
    undoing.redo(ws)
    assert briefs.get_brief(ws, brief.id).need.price_weight == 6.0


def imported(ws: Workspace, count: int) -> None:
    lines = "".join(f"pedal,Pedal {n},{n + 10},knob {n}\n" for n in range(count))
    importing.import_shelf(ws, f"kind,name,price,about\n{lines}".encode())


def test_a_long_change_is_turned_in_steps_while_others_write(ws: Workspace, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(turning, "STEP", 20)
    monkeypatch.setattr(turning, "LONG_STEP", 30)
    with acting_as("left"):
        imported(ws, 100)
    full = export_all(ws)
    told = []
    monkeypatch.setattr(undoing, "TOLD_EACH_S", 0.0)
    monkeypatch.setattr(ws.bus, "publish", told.append)

    def meanwhile(_seconds: float) -> None:
        with acting_as("right"):
            gear.add_gear(ws, GearIn(kind="cable", name="One more"))

    monkeypatch.setattr(undoing.time, "sleep", meanwhile)
    with acting_as("left"):
        undoing.undo(ws)
    steps = [one for one in told if one["kind"] == "turning"]
    assert [one["total"] for one in steps] == [200] * 8
    assert sorted(one["done"] for one in steps) == [one["done"] for one in steps]
    assert list(shelf(ws)) == ["One more"]
    monkeypatch.setattr(undoing.time, "sleep", lambda _s: None)
    with acting_as("left"):
        undoing.redo(ws)
    with acting_as("right"):
        while undoing.state(ws).undo:
            undoing.undo(ws)
    assert export_all(ws) == full


def test_a_long_undo_that_is_stopped_is_gone_on_with_or_brought_back(
    ws: Workspace, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(turning, "STEP", 20)
    monkeypatch.setattr(turning, "LONG_STEP", 30)
    imported(ws, 100)
    full = export_all(ws)
    label = undoing.state(ws).undo
    for way in ("on", "back", "on"):
        with monkeypatch.context() as patch:
            patch.setattr(undoing.time, "sleep", lambda _s: undoing.stop(ws))
            undoing.undo(ws)
        assert (undoing.state(ws).undo, undoing.state(ws).redo) == (label, label)
        if way == "back":
            undoing.redo(ws)
            assert export_all(ws) == full
            continue
        undoing.undo(ws)
        assert shelf(ws) == {}
        undoing.redo(ws)
        assert export_all(ws) == full


@pytest.mark.parametrize("count", [3, 60])
def test_what_stands_in_the_way_is_named_and_the_rest_can_be_done(
    ws: Workspace, monkeypatch: pytest.MonkeyPatch, count: int
) -> None:
    monkeypatch.setattr(turning, "STEP", 20)
    monkeypatch.setattr(turning, "LONG_STEP", 30)
    with acting_as("left"):
        gear.add_gear(ws, GearIn(kind="cable", name="Long one"))
        imported(ws, count)
    with ws.reading() as session:
        first, second = session.exec(select(Gear.id).where(Gear.kind == "pedal").limit(2)).all()
    with acting_as("right"):
        gear.change_gear(ws, first or 0, GearPatch(about="mine"))
        prices.add_price(ws, second or 0, PriceIn(kind="used", text="5 EUR"))
    before = export_all(ws)
    with acting_as("left"):
        with pytest.raises(Conflict) as refused:
            undoing.undo(ws)
        assert (refused.value.code, refused.value.numbers["blocked"]) in {("changed_since", 2), ("changed_since", 1)}
        # Nothing was moved, and it is not forgotten.
        assert export_all(ws) == before
        assert undoing.state(ws).undo != "Add Long one"
        undoing.undo(ws, "rest")
        assert set(shelf(ws)) == {"Long one", "Pedal 0", "Pedal 1"}
        undoing.redo(ws)
        assert export_all(ws) == before
        undoing.undo(ws, "skip") if count == 3 else undoing.undo(ws, "rest")
        undoing.undo(ws)
    assert "Long one" not in shelf(ws)


def test_two_knobs_and_two_links_are_two_peoples(ws: Workspace) -> None:
    item = gear.add_gear(ws, GearIn(kind="pedal", name="Alder", controls=KNOBS)).id

    def turned(name: str, key: str) -> list[Control]:
        there = gear.get_gear(ws, item).controls
        return [one.model_copy(update={"name": name}) if one.key == key else one for one in there]

    with acting_as("left"):
        gear.change_gear(ws, item, GearPatch(controls=turned("Dirt", "drive")))
    with acting_as("right"):
        gear.change_gear(ws, item, GearPatch(controls=turned("Air", "tone")))
    with acting_as("left"):
        undoing.undo(ws)
    assert [one.name for one in gear.get_gear(ws, item).controls] == ["drive", "Air"]
    with acting_as("left"):
        undoing.redo(ws)
    with acting_as("right"):
        undoing.undo(ws)
    assert [one.name for one in gear.get_gear(ws, item).controls] == ["Dirt", "tone"]


def test_a_row_that_others_have_put_takes_in_stays(ws: Workspace) -> None:
    with acting_as("left"):
        flight = table.add_flight(ws, FlightIn(name="F"))
        item = gear.add_gear(ws, GearIn(kind="pedal", name="Alder")).id
        row = table.add_contender(ws, flight, ContenderIn(name="A"))
    with acting_as("right"):
        column = table.add_test(ws, flight, TestIn(name="Riff"))
        with ws.acting("put a take there") as session:
            session.add(Take(flight_id=flight, contender_id=row, test_id=column, digest="a" * 64, filename="a.wav",
                             size_bytes=1))  # fmt: skip
        table.change_contender(ws, row, ContenderPatch(gear_id=item))
    for _ in range(2):  # neither the row, nor the item that it is linked to by now
        with acting_as("left"), declines(Conflict, "changed_since"):
            undoing.undo(ws)
        with acting_as("left"):
            undoing.undo(ws, "skip")
    with ws.reading() as session:
        take = session.exec(select(Take)).one()
        assert (take.contender_id, take.test_id) == (row, column)
