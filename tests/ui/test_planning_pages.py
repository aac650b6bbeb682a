"""Plans, gear and cuts are edited in place and by keyboard; what does not fit says what would."""

from __future__ import annotations

import base64
import json
import re
from pathlib import Path

import httpx
import numpy as np
import pytest
import soundfile
from playwright.sync_api import Browser, Page, Route, expect

from cata.core.signals.slate import SlateMark, slate
from tests.conftest import Server
from tests.ui.conftest import new_page

SHELF = """kind,name,controls,price
amplifier,Ebbfield,Volume; Treble,680
pedal,Alderfen,Drive; Tone,129
pedal,Birkholm,Gain,189
"""


@pytest.fixture
def page(browser: Browser, fresh: Server) -> Page:
    content = base64.b64encode(SHELF.encode()).decode()
    httpx.post(f"{fresh.url}/api/gear/import", json={"content": content, "dry_run": False})
    httpx.post(f"{fresh.url}/api/flights", json={"name": "Which drive?", "link": "pedal"})
    for gear_id in (2, 3):
        httpx.post(f"{fresh.url}/api/flights/1/contenders", json={"gear_id": gear_id})
    return new_page(browser, fresh.url)


def write_down_the_amplifier(page: Page) -> None:
    amplifier = page.get_by_role("combobox", name="Which amplifier")
    amplifier.fill("Ebbfield")
    amplifier.press("Enter")
    expect(page.get_by_role("slider", name="Treble of Ebbfield")).to_be_visible()


def test_a_knob_that_differs_for_one_contender_is_told_until_it_is_meant(page: Page) -> None:
    page.goto("/flights/1/plan")
    write_down_the_amplifier(page)
    page.get_by_text("set another knob differently").first.click()
    page.get_by_label("Knob to set differently for Alderfen").select_option("Treble of Ebbfield")
    page.get_by_label("Its position for Alderfen").fill("3:00")
    page.get_by_label("Its position for Alderfen").press("Enter")
    expect(page.get_by_text("differs: Treble of Ebbfield: 5 → 8")).to_be_visible()
    page.goto("/flights/1/match")
    expect(page.get_by_role("heading", name="Amplifier set up for one")).to_be_visible()
    page.goto("/flights/1/plan")
    page.get_by_label("is meant").check()
    page.goto("/flights/1/match")
    expect(page.get_by_text("Nothing to compare yet").first).to_be_visible()
    expect(page.get_by_role("heading", name="Amplifier set up for one")).to_have_count(0)
    page.goto("/flights/1/plan")
    page.get_by_role("button", name="Set as for all").click()
    expect(page.get_by_text("differs: Treble")).to_have_count(0)


def test_a_chain_is_built_by_keyboard_and_taken_back(page: Page) -> None:
    page.goto("/flights/1/plan")
    write_down_the_amplifier(page)
    page.get_by_role("slider", name="Treble of Ebbfield").focus()
    for _ in range(5):
        page.keyboard.press("PageUp")
    expect(page.get_by_label("Treble of Ebbfield, typed")).to_have_value("10")
    page.get_by_label("Kind of the new link").select_option("pedal")
    page.get_by_role("button", name="Add to the chain").press("Enter")
    expect(page.get_by_role("group", name="pedal")).to_have_count(2)
    expect(page.get_by_role("group", name="pedal, compared")).to_have_count(1)
    page.get_by_label("Place of the new pedal").select_option("in the effects loop")
    expect(page.get_by_role("listitem").filter(has_text="in the effects loop")).not_to_have_count(0)
    page.get_by_label("Strings", exact=True).fill("10–46")
    page.get_by_label("Strings", exact=True).press("Tab")
    expect(page.get_by_label("What the chain lacks")).not_to_contain_text("strings")
    page.locator("body").click(position={"x": 5, "y": 300})
    page.keyboard.press("Control+z")
    expect(page.get_by_label("Strings", exact=True)).to_have_value("")


def test_house_rules_say_their_reason_and_their_cost(page: Page) -> None:
    page.goto("/flights/1/plan")
    page.get_by_label("Level", exact=True).select_option("as set")
    expect(page.get_by_text("Output is part of the gear: a boost is judged as a boost.")).to_be_visible()
    expect(page.get_by_text("But: The loudest tends to win.")).to_be_visible()


def test_a_knob_that_a_contender_lacks_is_told_beside_the_test(page: Page) -> None:
    page.goto("/flights/1/plan")
    page.get_by_label("A building block").select_option("Knob sweep")
    page.get_by_role("combobox", name=re.compile("^Knob")).select_option("tone")
    page.get_by_role("spinbutton", name="Positions").fill("3")
    page.get_by_role("button", name="Add this block").click()
    asked = page.get_by_role("list", name="What each test asks for").get_by_role("listitem")
    expect(asked).to_have_count(3)
    expect(asked.nth(1)).to_contain_text("tone at 5")
    expect(asked.nth(1)).to_contain_text("no such knob on Birkholm")


def test_an_order_that_no_longer_fits_says_so(page: Page) -> None:
    page.goto("/flights/1/plan")
    page.get_by_label("New test").fill("Riff")
    page.get_by_label("New test").press("Enter")
    page.get_by_role("button", name="Order the takes").click()
    expect(page.get_by_text("no order has shorter change-overs")).to_be_visible(timeout=60_000)
    page.get_by_label("New test").fill("Lead")
    page.get_by_label("New test").press("Enter")
    expect(page.get_by_text("The plan changed since: order again")).to_be_visible()
    page.goto("/flights/1/next")
    expect(page.get_by_text("2 still to record")).to_be_visible()
    page.keyboard.press("PageDown")
    expect(page.get_by_text("2 of 2")).to_be_visible()
    page.keyboard.press("PageUp")
    expect(page.get_by_text("1 of 2")).to_be_visible()


def test_a_specification_is_read_with_its_unit_or_refused_with_what_fits(page: Page) -> None:
    page.goto("/gear/2")
    draw = page.get_by_label("Draw")
    draw.fill("0.006 A")
    draw.press("Tab")
    expect(draw).to_have_value("6 mA")
    draw.fill("8 kg")
    draw.press("Tab")
    expect(page.get_by_text("Draw is in mA; got '8 kg'")).to_be_visible()
    page.get_by_label("Bypass", exact=True).select_option("true bypass")
    page.reload()
    expect(page.get_by_label("Draw")).to_have_value("6 mA")
    expect(page.get_by_label("Bypass", exact=True)).to_have_value("true bypass")


def test_a_switch_and_a_price_in_another_currency_are_noted(page: Page) -> None:
    page.goto("/gear/2")
    page.get_by_label("New knob").fill("Voice")
    page.get_by_label("Its scale").select_option("switch, selector")
    page.get_by_label("Its positions, divided by slashes").fill("bright/normal/dark")
    page.get_by_role("button", name="Add knob").click()
    voice = page.get_by_label("Voice of Alderfen")
    voice.select_option("dark")
    page.reload()
    expect(page.get_by_label("Voice of Alderfen")).to_have_value("dark")
    page.get_by_label("Amount").fill("12,500 JPY")
    page.get_by_label("Source of the price").fill("a friend")
    page.get_by_role("button", name="Add price").click()
    expect(page.get_by_role("cell", name="12,500 JPY", exact=True)).to_be_visible()
    page.get_by_label("Amount").fill("50 XQX")
    page.get_by_role("button", name="Add price").click()
    expect(page.get_by_text("no currency code of ISO 4217")).to_be_visible()


def test_a_shelf_file_is_mapped_before_it_is_read(page: Page, tmp_path: Path) -> None:
    path = tmp_path / "shop.csv"
    path.write_text("Art;Bezeichnung;Farbe;Preis\npedal;Cormrigg;rot;99,00\npedal;Alderfen;grün;119,00\n")
    page.goto("/gear/import")
    page.get_by_label("Shelf file", exact=True).set_input_files(path)
    counts = page.get_by_role("status").filter(has_text="left out")
    expect(counts).to_contain_text("1 new")
    expect(counts).to_contain_text("1 brought up to date")
    expect(page.get_by_text("changed: specs, price")).to_be_visible()
    page.get_by_label("Where Farbe goes").select_option("leave out")
    expect(page.get_by_text("changed: price")).to_be_visible()
    page.get_by_label("Where Bezeichnung goes").select_option("leave out")
    expect(page.get_by_role("alert").filter(has_text="one column must be the name")).to_be_visible()


@pytest.mark.certify
def test_cuts_are_typed_sent_elsewhere_and_left_out(page: Page, fresh: Server, tmp_path: Path) -> None:
    httpx.post(f"{fresh.url}/api/flights/1/tests", json={"name": "Riff"})
    httpx.post(f"{fresh.url}/api/flights/1/order", json={"anchors": False}, timeout=60)
    parts = [np.zeros(24_000)]
    for number in (1, 2):
        tone = 0.2 * np.sin(np.arange(96_000) * (0.02 + 0.01 * number))
        parts += [
            slate(SlateMark(number)).samples[0],
            tone,
            slate(SlateMark(number, True)).samples[0],
            np.zeros(24_000),
        ]
    path = tmp_path / "day.wav"
    soundfile.write(str(path), np.concatenate(parts), 48_000, subtype="PCM_16")
    page.goto("/flights/1/takes")
    page.get_by_label("Long recording", exact=True).set_input_files(path)
    expect(page.get_by_text("2 takes found by 4 slates")).to_be_visible()

    def late(route: Route) -> None:
        page.wait_for_timeout(400)
        route.continue_()

    # The answers come slowly: each change still builds on the one before.
    page.route("**/pieces", late)
    start = page.get_by_label("Start of take 1", exact=True)
    start.fill("0:01.500")
    start.press("Enter")
    expect(page.get_by_label("Start of take 1", exact=True)).to_have_value("0:01.500")
    start.fill("0:09.000")
    start.press("Enter")
    expect(page.get_by_role("alert").filter(has_text="a cut lies within the recording")).to_be_visible()
    expect(page.get_by_label("Start of take 1", exact=True)).to_have_value("0:01.500")
    page.get_by_label("End of take 1", exact=True).fill("0:03.200")
    page.get_by_label("End of take 1", exact=True).press("Enter")
    page.get_by_label("Where take 2 goes").select_option("nowhere: leave it out")
    expect(page.get_by_text(re.compile("Not in this recording"))).to_be_visible()
    page.get_by_role("button", name="Make 1 takes").click()
    expect(page.get_by_role("button", name="All takes made")).to_be_visible()
    page.get_by_role("link", name="Back to the takes").click()
    expect(page.get_by_text("1 of 2 made")).to_be_visible()
    takes = httpx.get(f"{fresh.url}/api/flights/1").json()["takes"]
    assert [round(take["duration_s"], 2) for take in takes] == [1.7]


def test_a_name_that_is_html_stays_a_name(page: Page, fresh: Server) -> None:
    evil = "<img src=x onerror=\"document.title='taken'\">"
    rows = [{"kind": "pedal", "name": evil, "about": evil, "controls": [{"key": "d", "name": evil}]}]
    content = base64.b64encode(json.dumps(rows).encode()).decode()
    httpx.post(f"{fresh.url}/api/gear/import", json={"content": content, "dry_run": False})
    httpx.post(f"{fresh.url}/api/flights/1/contenders", json={"gear_id": 4})
    httpx.post(f"{fresh.url}/api/flights/1/tests", json={"name": evil})
    httpx.post(f"{fresh.url}/api/flights/1/order", json={"anchors": False}, timeout=60)
    for path in ("/gear", "/gear/4", "/flights/1/plan", "/flights/1/sheet", "/flights/1/next", "/flights/1/takes"):
        page.goto(path)
        expect(page.get_by_role("heading").first).to_be_visible()
        page.wait_for_load_state("load")
        assert page.locator("img[src=x]").count() == 0
        assert page.title() != "taken"
    assert page.problems == []  # type: ignore[attr-defined]
