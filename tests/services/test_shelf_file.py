"""The shelf in the store by file: new, known and changed items, one undo, and exports that come back whole."""

from __future__ import annotations

import json

import pytest

from cata.errors import Invalid, Refused
from cata.services.shelf import exporting, importing, listing
from cata.services.upkeep import undoing
from cata.services.workspace import Workspace
from tests.conftest import declines

FIRST = b"kind,name,about,price,controls,draw\npedal,Alder,a drive,129,Drive 0-10 = 4,6 mA\npedal,Birk,,,,\n"


def names(ws: Workspace) -> list[str]:
    return [item.name for item in listing.list_gear(ws)[0]]


def test_a_preview_changes_nothing(ws: Workspace) -> None:
    seen = importing.import_shelf(ws, FIRST, dry_run=True)
    assert (seen.new, seen.done) == (2, False)
    assert [(c.header, c.target, c.sample) for c in seen.columns][1] == ("name", "name", "Alder")
    assert names(ws) == []


def test_an_import_is_one_action_and_a_second_one_finds_everything_as_it_was(ws: Workspace) -> None:
    importing.import_shelf(ws, FIRST)
    again = importing.import_shelf(ws, FIRST)
    assert (again.new, again.changed, again.same) == (0, 0, 2)
    assert len(listing.list_gear(ws)[0][0].prices) == 1
    undoing.undo(ws)
    assert names(ws) == []


def test_a_later_file_brings_items_up_to_date_and_leaves_what_it_does_not_say(ws: Workspace) -> None:
    importing.import_shelf(ws, FIRST)
    later = importing.import_shelf(ws, b"kind,name,price,weight\npedal,ALDER ,119,400 g\n")
    assert later.rows[0].fate == "changed"
    item = listing.list_gear(ws)[0][0]
    assert (item.name, item.about, item.controls[0].default) == ("Alder", "a drive", 0.4)
    # Of one day: the later file corrects the earlier one.
    assert [price.price_minor for price in item.prices] == [11900]
    assert {s.key: s.value for s in item.specs if s.value is not None} == {"draw_ma": 6.0, "weight_kg": 0.4}


def test_the_same_item_twice_in_a_file_is_one_item_with_both_prices(ws: Workspace) -> None:
    done = importing.import_shelf(ws, b"kind,name,price new,price used\npedal,Alder,100,\npedal,alder,,60\n")
    assert (done.new, done.changed) == (1, 1)
    assert sorted(p.kind for p in listing.list_gear(ws)[0][0].prices) == ["new", "used"]


def test_csv_and_json_come_back_as_they_went(ws: Workspace) -> None:
    evil = '=HYPERLINK("http://x")'
    importing.import_shelf(ws, FIRST + f'pedal,"{evil.replace(chr(34), chr(34) * 2)}",,50 USD,,\n'.encode())
    csv_file, json_file = exporting.export_csv(ws), exporting.export_json(ws)
    assert b"\n=" not in csv_file
    assert b",=" not in csv_file
    assert evil in names(ws)
    for exported in (csv_file, json_file):
        again = importing.import_shelf(ws, exported)
        assert (again.new, again.changed, again.same, again.problems) == (0, 0, 3, [])
    assert json.loads(json_file)["format"] == "cata-shelf"


@pytest.mark.parametrize(
    ("data", "code"),
    [
        (b"{oops", "damaged"),
        (b'{"gear": 1}', "no_shelf"),
        (b"[" * 100_000, "damaged"),
        (b"[1" + b"9" * 5_000 + b"]", "damaged"),
        (b"", "empty"),
    ],
)
def test_a_damaged_file_is_refused(ws: Workspace, data: bytes, code: str) -> None:
    with declines(Refused, code):
        importing.import_shelf(ws, data)


def test_json_items_that_do_not_fit_are_left_out_with_their_reason(ws: Workspace) -> None:
    rows = [
        {"kind": "pedal", "name": "Good", "prices": [{"price_minor": 100, "currency": "EUR"}]},
        {"kind": "ship", "name": "x"},
        {"kind": "pedal", "name": "y", "prices": [{"price_minor": -1, "currency": "EUR"}]},
        {"kind": "pedal", "name": "z", "prices": [{"price_minor": 1, "currency": "XQX"}]},
        "words",
    ]
    done = importing.import_shelf(ws, json.dumps(rows).encode())
    assert names(ws) == ["Good"]
    assert done.left_out == 4
    assert [problem.row for problem in done.problems] == [2, 3, 4, 5]


def test_a_currency_that_is_none_is_refused(ws: Workspace) -> None:
    with declines(Invalid, "no_currency"):
        importing.import_shelf(ws, FIRST, currency="XQX")


def test_many_doubts_are_counted_not_all_shown(ws: Workspace) -> None:
    done = importing.import_shelf(ws, b"kind,name\n" + b"ship,x\n" * 500, dry_run=True)
    assert (done.left_out, len(done.problems), done.more_problems) == (500, 200, 300)
