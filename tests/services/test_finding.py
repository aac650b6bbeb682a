"""One search over everything, true after every change, undo and import."""

from __future__ import annotations

import pytest

from cata.services.brief import briefs
from cata.services.brief.briefs import BriefIn
from cata.services.flights import table
from cata.services.flights.table import ContenderIn, FlightIn, FlightPatch, TestIn
from cata.services.shelf import gear, importing
from cata.services.shelf.gear import GearIn, GearPatch
from cata.services.upkeep import undoing
from cata.services.upkeep.finding import find
from cata.services.workspace import Workspace


def titles(ws: Workspace, words: str) -> list[tuple[str, str]]:
    return [(one.what, one.title) for one in find(ws, words)]


def test_words_are_found_in_names_and_descriptions_wherever_they_stand(ws: Workspace) -> None:
    item = gear.add_gear(
        ws, GearIn(kind="pedal", name="Aldermoor Hump", about="soft clip", specs={"topology": "Übersetzer"})
    )
    flight = table.add_flight(ws, FlightIn(name="Which hump?", question="for the melody"))
    table.add_contender(ws, flight, ContenderIn(name="Hump one"))
    table.add_test(ws, flight, TestIn(name="Muted riff"))
    briefs.add_brief(ws, BriefIn(name="Lounge set"))
    assert {what for what, _ in titles(ws, "hump")} == {"gear", "flight", "contender"}
    assert titles(ws, "HUM alder") == [("gear", "Aldermoor Hump")]
    # Accents and case do not count, and a word's beginning is enough.
    assert titles(ws, "ubersetz") == [("gear", "Aldermoor Hump")]
    assert titles(ws, "melody") == [("flight", "Which hump?")]
    assert titles(ws, "lounge") == [("brief", "Lounge set")]
    (test,) = find(ws, "riff")
    assert (test.where, test.address) == ("Which hump?", f"/flights/{flight}/plan")
    assert find(ws, "hump riff") == []
    assert [one.address for one in find(ws, "aldermoor")] == [f"/gear/{item.id}"]


def test_the_index_follows_changes_removals_and_their_undo(ws: Workspace) -> None:
    item = gear.add_gear(ws, GearIn(kind="pedal", name="Alder")).id
    gear.change_gear(ws, item, GearPatch(name="Birk"))
    assert (titles(ws, "alder"), titles(ws, "birk")) == ([], [("gear", "Birk")])
    undoing.undo(ws)
    assert titles(ws, "alder") == [("gear", "Alder")]
    gear.remove_gear(ws, item)
    assert titles(ws, "alder") == []
    undoing.undo(ws)
    assert titles(ws, "alder") == [("gear", "Alder")]
    flight = table.add_flight(ws, FlightIn(name="F"))
    table.add_contender(ws, flight, ContenderIn(name="Alder two"))
    table.change_flight(ws, flight, FlightPatch(name="G"))
    assert [one.where for one in find(ws, "two")] == ["G"]
    table.remove_flight(ws, flight)
    assert find(ws, "two") == []


@pytest.mark.parametrize(
    "words", ['"', "*", "AND", "NEAR(", "a OR", "-", "'; DROP TABLE gear", "title:x", "\x00", "(" * 50]
)
def test_what_a_search_language_would_take_for_its_own_is_words(ws: Workspace, words: str) -> None:
    gear.add_gear(ws, GearIn(kind="pedal", name="Alder"))
    assert find(ws, words) == [] or titles(ws, words)[0][0] == "gear"


def test_at_most_thirty_are_given_the_best_first(ws: Workspace) -> None:
    rows = "\n".join(f"pedal,Thing {n},{'the special one' if n == 77 else ''}" for n in range(400))
    importing.import_shelf(ws, f"kind,name,about\n{rows}\n".encode())
    assert len(find(ws, "thing")) == 30
    assert titles(ws, "special")[0] == ("gear", "Thing 77")
