"""A finished flight to look at: one click brings it in, one takes it out, and the own data is as before."""

from __future__ import annotations

from pathlib import Path

import pytest

from cata.demo.example import bring_in, get_example, take_out
from cata.errors import Conflict
from cata.services.background import runner_for
from cata.services.choice import choosing
from cata.services.flights import table
from cata.services.flights.table import ContenderIn, FlightIn
from cata.services.match import findings
from cata.services.shelf import gear, listing
from cata.services.shelf.exporting import export_json
from cata.services.shelf.gear import GearIn
from cata.services.standing import flight as standing_of
from cata.services.upkeep import undoing
from cata.services.workspace import Workspace
from tests.conftest import declines


def test_it_comes_and_goes_as_one(ws: Workspace) -> None:
    gear.add_gear(ws, GearIn(kind="pedal", name="Own"))
    before = export_json(ws)
    assert get_example(ws).flight_id is None
    flight = bring_in(ws).flight_id or 0
    assert get_example(ws).flight_id == flight
    with declines(Conflict, "there_already"):
        bring_in(ws)
    assert len(listing.list_gear(ws)[0]) > 5
    take_out(ws)
    assert (get_example(ws).flight_id, standing_of.list_flights(ws)) == (None, [])
    assert export_json(ws) == before
    undoing.undo(ws)
    assert get_example(ws).flight_id == flight
    take_out(ws)
    assert bring_in(ws).flight_id is not None


@pytest.mark.whole
def test_it_is_played_read_matched_and_ranked(ws: Workspace, tmp_path: Path) -> None:
    flight = bring_in(ws).flight_id or 0
    runner_for(ws).run_until_idle()
    found = standing_of.get_flight(ws, flight)
    assert [take.state for take in found.takes] == ["ready"] * 20
    assert [f.rule for f in findings.get_match(ws, flight).findings if f.severity != "note"] == []
    assert choosing.choose(ws, flight_id=flight).code == "ranked"


def test_a_name_on_the_shelf_means_the_item_in_any_case_and_any_alphabet(ws: Workspace) -> None:
    gear.add_gear(ws, GearIn(kind="pedal", name="Flüstertal"))
    flight = table.add_flight(ws, FlightIn(name="F"))
    for name in ("FLÜSTERTAL", "No pedal", "Another"):
        table.add_contender(ws, flight, ContenderIn(name=name))
    found = standing_of.get_flight(ws, flight).contenders
    assert [(one.gear_id, one.is_bypass) for one in found] == [(1, False), (None, True), (None, False)]
