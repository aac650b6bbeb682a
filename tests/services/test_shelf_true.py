"""Prices that stay true: out and in again changes nothing, lists in any order give the same, German files are read."""

from __future__ import annotations

import json
import random

import pytest

from cata.core.dates import read_day
from cata.core.gear import Control
from cata.errors import Invalid
from cata.services.flights import table
from cata.services.flights.showing import contender_views
from cata.services.flights.table import ContenderIn, ContenderPatch, FlightIn
from cata.services.flights.views import ContenderView
from cata.services.shelf import exporting, gear, importing, listing, prices
from cata.services.shelf.gear import GearIn
from cata.services.shelf.listing import Sort, Wanted
from cata.services.shelf.prices import PriceIn
from cata.services.shelf.views import ShelfImport
from cata.services.workspace import Workspace
from tests.conftest import declines

KINDS = {"Tonabnehmer": "pickup", "Effektpedal": "pedal", "Verstärker": "amplifier", "Gitarre": "guitar",
         "Lautsprecher": "speaker", "Netzteil": "power supply", "Kabel": "cable", "Zubehör": "accessory"}  # fmt: skip


def fates(done: ShelfImport) -> tuple[int, int, int, int]:
    return done.new, done.changed, done.same, done.left_out


def current(ws: Workspace) -> dict[str, int]:
    return {item.name: item.price.price_minor for item in listing.list_gear(ws, limit=500)[0] if item.price}


def test_a_shelf_of_400_items_comes_back_as_it_went_by_csv_and_json(ws: Workspace) -> None:
    draw = random.Random(1)
    items = [
        {
            "kind": draw.choice(["pedal", "pickup", "amplifier", "cable"]),
            "name": f"Item {n}",
            "about": draw.choice(["", "a drive; with, commas", "two\nlines"]),
            "specs": {"Odd thing": "seven"} if n % 9 == 0 else {},
            "prices": [
                {
                    "kind": draw.choice(["new", "used", "offer"]),
                    "price_minor": draw.randrange(10**6),
                    "currency": draw.choice(["EUR", "USD", "JPY"]),
                    "on_date": draw.choice(["", "2026-03-05", "2026-05-01", "2025-12-31"]),
                    "source": draw.choice(["", "the corner shop", "an ad"]),
                }
                for _ in range(draw.randrange(4))
            ],
        }
        for n in range(400)
    ]
    importing.import_shelf(ws, json.dumps({"items": items}).encode())
    before = exporting.export_json(ws)
    for exported in (exporting.export_csv(ws), before):
        assert fates(importing.import_shelf(ws, exported)) == (0, 0, 400, 0)
    assert exporting.export_json(ws) == before


@pytest.mark.parametrize("order", [(0, 1), (1, 0)])
def test_two_price_lists_in_either_order_give_the_newest_by_its_own_date(ws: Workspace, order: tuple[int, int]) -> None:
    lists = (
        b"kind,name,price new,price date,price used,price used date\npedal,Alder,129,2026-03-05,60,2026-06-01\n",
        b"kind,name,price new,price date,price used\npedal,Alder,149,2026-05-02,75\n",
    )
    for index in order:
        importing.import_shelf(ws, lists[index])
    assert current(ws) == {"Alder": 14900}
    newest = {price.kind: price.price_minor for price in reversed(listing.list_gear(ws)[0][0].prices)}
    assert newest == {"new": 14900, "used": 6000}


def test_a_german_file_comes_in_with_kinds_prices_dates_and_weights_and_again_changes_nothing(ws: Workspace) -> None:
    words = list(KINDS)
    rows = [
        f"{words[n % 8]};Gerät {n};{100 + n},50;{80 + n},00;05.03.2026;1,{n % 10}5 kg;Laden am Eck" for n in range(200)
    ]
    data = "\n".join(["Kategorie;Bezeichnung;Preis neu;Preis gebraucht;Preisdatum;Gewicht;Händler", *rows]).encode(
        "cp1252"
    )
    done = importing.import_shelf(ws, data)
    assert fates(done) == (200, 0, 0, 0)
    assert (done.undated, done.more_problems) == (0, 0)
    item = next(one for one in listing.list_gear(ws, limit=500)[0] if one.name == "Gerät 1")
    assert item.kind == "pedal"
    assert {s.key: s.value for s in item.specs if s.value is not None} == {"weight_kg": 1.15}
    seen = {(p.kind, p.price_minor, p.on_date, p.source) for p in item.prices}
    assert seen == {("new", 10150, "2026-03-05", "Laden am Eck"), ("used", 8100, "2026-03-05", "Laden am Eck")}
    assert fates(importing.import_shelf(ws, data)) == (0, 0, 200, 0)


def test_what_is_not_understood_is_a_doubt_and_never_todays_date(ws: Workspace) -> None:
    data = b"kind,name,price,price date,Glanz,weight\npedal,Alder,129,03/04/2026,matt,-3 kg\n"
    done = importing.import_shelf(ws, data)
    assert {one.said.code for one in done.problems} == {"no_heading", "two_days", "out_of_range"}
    assert listing.list_gear(ws)[0][0].prices[0].on_date == ""
    # Pointed at a field, the column is one.
    again = importing.import_shelf(
        ws, data, mapping=["kind", "name", "price new", "price date", "specification: Topology", "leave out"]
    )
    assert again.rows[0].fate == "changed"
    assert {s.key: s.value for s in listing.list_gear(ws)[0][0].specs}["topology"] == "matt"


def test_a_price_without_a_day_gets_the_day_that_is_given_and_said(ws: Workspace) -> None:
    done = importing.import_shelf(ws, b"kind,name,price\npedal,Alder,129\n", on_date="2026-02-03")
    assert (done.undated, done.undated_day) == (1, "2026-02-03")
    assert listing.list_gear(ws)[0][0].prices[0].on_date == "2026-02-03"


def test_the_same_price_of_one_day_is_corrected_and_another_day_is_history(ws: Workspace) -> None:
    item = importing.import_shelf(ws, b"kind,name\npedal,Alder\n") and listing.list_gear(ws)[0][0]
    for text, day in (("129", "2026-02-03"), ("139", "2026-02-03"), ("99", "2025-01-01")):
        prices.add_price(ws, item.id, PriceIn(text=text, on_date=day))
    assert [one.price_minor for one in gear.get_gear(ws, item.id).prices] == [13900, 9900]
    assert current(ws) == {"Alder": 13900}


@pytest.mark.parametrize(
    ("text", "day"),
    [("05.03.2026", "2026-03-05"), ("5. März 2026", "2026-03-05"), ("March 5, 2026", "2026-03-05"),
     ("31/12/2026", "2026-12-31"), ("12. Okt. 2025", "2025-10-12"), ("2026/3/5", "2026-03-05")],
)  # fmt: skip
def test_days_are_read_as_people_write_them(text: str, day: str) -> None:
    assert read_day(text) == day


@pytest.mark.parametrize(
    ("text", "code"), [("03/05/2026", "two_days"), ("31.02.2026", "no_date"), ("heute", "no_date")]
)
def test_what_is_no_one_day_is_refused(text: str, code: str) -> None:
    with declines(Invalid, code):
        read_day(text)


def test_the_shelf_is_found_by_price_kind_currency_and_words_in_specifications(ws: Workspace) -> None:
    for name, text, kind in (
        ("A", "129 EUR", "new"),
        ("B", "95 EUR", "used"),
        ("C", "12,500 JPY", "new"),
        ("D", "", ""),
    ):
        item = gear.add_gear(ws, GearIn(kind="pedal", name=name, specs={"topology": f"soft {name}"}))
        if text:
            prices.add_price(ws, item.id, PriceIn(text=text, kind=kind))  # type: ignore[arg-type]

    def found(sort: Sort = "name", **wanted: str) -> list[str]:
        return [one.name for one in listing.list_gear(ws, Wanted(**wanted), sort=sort)[0]]  # type: ignore[arg-type]

    assert found(query="soft b") == ["B"]
    assert found(at_most="100 EUR") == ["B"]
    assert found(currency="EUR", price_kind="new") == ["A"]
    assert found(measured="yes") == []
    assert found(measured="no") == ["A", "B", "C", "D"]
    # Amounts of two currencies are not compared: the usual one first.
    assert found(sort="price") == ["B", "A", "C", "D"]
    with declines(Invalid, "no_price"):
        found(at_most="cheap")


def test_a_contender_is_linked_to_the_shelf_and_unlinked(ws: Workspace) -> None:
    knob = Control(key="drive", name="Drive", default=0.3)
    item = gear.add_gear(ws, GearIn(kind="pedal", name="Alder", controls=[knob])).id
    prices.add_price(ws, item, PriceIn(text="60 EUR", kind="used", on_date="2026-03-05", source="an ad"))
    flight = table.add_flight(ws, FlightIn(name="F"))
    row = table.add_contender(ws, flight, ContenderIn(name="the green one"))

    def seen() -> ContenderView:
        with ws.reading() as session:
            return contender_views(session, flight)[0]

    assert (seen().price_text, seen().settings) == ("", [])
    table.change_contender(ws, row, ContenderPatch(gear_id=item))
    assert [one.text for one in seen().settings] == ["3"]
    # Which price it is, and of when, is said beside it.
    assert (seen().price_text, seen().price_about) == ("60.00 EUR used", "used, 2026-03-05, an ad")
    table.change_contender(ws, row, ContenderPatch(gear_id=None))
    assert (seen().gear_id, seen().price_text, seen().name) == (None, "", "the green one")
