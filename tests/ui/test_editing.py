"""Everything is edited in place, kept at once, and taken back by Ctrl+Z; errors say what to do."""

from __future__ import annotations

import re
import signal
from pathlib import Path

import httpx
import pytest
from playwright.sync_api import Browser, Page, Route, expect

from tests.conftest import Server, noise_file, write_take
from tests.ui.conftest import new_page


@pytest.fixture
def page(browser: Browser, fresh: Server) -> Page:
    return new_page(browser, fresh.url)


def start_flight(page: Page, name: str = "Which drive?") -> None:
    page.goto("/flights")
    page.get_by_label("New flight").fill(name)
    page.get_by_role("button", name="Start").click()
    expect(page.get_by_text("Drop recordings or a folder here")).to_be_visible()


def test_empty_pages_teach_the_first_step(page: Page) -> None:
    for path, words in {
        "/": "Taste gear side by side",
        "/gear": "The shelf is empty",
        "/brief": "What do you need?",
        "/choose": "Nothing to choose from yet",
        "/flights": "No flights yet",
    }.items():
        page.goto(path)
        expect(page.get_by_text(words)).to_be_visible()
    page.goto("/nowhere")
    expect(page.get_by_text("There is no such page")).to_be_visible()
    page.goto("/flights/77/plan")
    expect(page.get_by_text(re.compile("There is no flight 77"))).to_be_visible()


def test_a_finished_flight_is_brought_in_to_look_at_and_taken_out_again(page: Page, fresh: Server) -> None:
    page.goto("/")
    page.get_by_role("button", name="Bring in a finished flight to look at").click()
    expect(page.get_by_role("heading", name="Which drive for the melody voice?")).to_be_visible()
    page.goto("/")
    page.get_by_role("button", name="Take it out again").click()
    expect(page.get_by_text("Taste gear side by side")).to_be_visible()
    assert httpx.get(f"{fresh.url}/api/gear").json() == []
    page.keyboard.press("Control+z")
    expect(page.get_by_role("link", name="Which drive for the melody voice?")).to_be_visible()
    assert page.problems == []  # type: ignore[attr-defined]


def test_a_plan_is_made_by_keyboard_alone(page: Page) -> None:
    start_flight(page)
    page.get_by_role("link", name=re.compile("^Plan")).press("Enter")
    for name in ("Alder", "Birk", "No pedal"):
        page.get_by_label("New contender").fill(name)
        page.get_by_label("New contender").press("Enter")
        expect(page.get_by_label("New contender")).to_have_value("")
    page.get_by_label("New test").fill("Riff")
    page.get_by_label("New test").press("Enter")
    expect(page.get_by_text("no take")).to_have_count(3)
    expect(page.get_by_text("Next: 3 takes to record")).to_be_visible()
    page.get_by_role("button", name="Move No pedal up").press("Enter")
    expect(page.get_by_label("Name of contender 2")).to_have_value("No pedal")
    page.get_by_label("Name of contender 1").fill("Aldermoor")
    page.get_by_label("Name of contender 1").press("Enter")
    expect(page.get_by_label("Price of Aldermoor")).to_be_visible()
    page.get_by_label("Name of contender 1").fill("Oops")
    page.get_by_label("Name of contender 1").press("Escape")
    expect(page.get_by_label("Name of contender 1")).to_have_value("Aldermoor")
    page.get_by_role("button", name="Remove contender Birk").press("Enter")
    expect(page.get_by_text("no take")).to_have_count(2)
    page.keyboard.press("Control+z")
    expect(page.get_by_text("no take")).to_have_count(3)
    page.keyboard.press("Control+Shift+z")
    expect(page.get_by_text("no take")).to_have_count(2)
    # Found by its words from here, and Back brings the plan back.
    page.keyboard.press("f")
    page.get_by_role("combobox", name="Find").fill("alderm")
    expect(page.get_by_role("listbox", name="Found").get_by_role("option")).to_have_count(1)
    page.keyboard.press("Escape")
    expect(page.get_by_role("combobox", name="Find")).to_be_hidden()
    # A contender is linked to an item of the shelf by its name, and its price comes with it.
    item = page.request.post("/api/gear", data={"kind": "pedal", "name": "Cormorant"}).json()["id"]
    page.request.post(f"/api/gear/{item}/prices", data={"kind": "used", "text": "60", "on_date": "2026-03-05"})
    page.get_by_label("Item of the shelf that Aldermoor is").fill("cormorant")
    page.get_by_label("Item of the shelf that Aldermoor is").press("Enter")
    expect(page.get_by_text("used, 2026-03-05")).to_be_visible()
    page.get_by_role("button", name="Unlink Aldermoor from the shelf").press("Enter")
    expect(page.get_by_text("used, 2026-03-05")).to_be_hidden()


def test_gear_gets_knobs_and_prices_that_a_plan_then_knows(page: Page) -> None:
    page.goto("/gear")
    page.get_by_role("textbox", name="New item").fill("Aldermoor Hump")
    page.get_by_role("textbox", name="New item").press("Enter")
    expect(page.get_by_label("Name", exact=True)).to_have_value("Aldermoor Hump")
    page.get_by_label("New knob").fill("Drive")
    page.get_by_label("Its scale").select_option("clock")
    page.get_by_role("button", name="Add knob").click()
    expect(page.get_by_role("slider", name="Drive of Aldermoor Hump")).to_be_visible()
    page.get_by_label("Amount", exact=True).fill("1.149,50")
    page.get_by_role("button", name="Add price").click()
    expect(page.get_by_text("1,149.50 EUR")).to_be_visible()
    page.get_by_label("Amount", exact=True).fill("much")
    page.get_by_role("button", name="Add price").click()
    expect(page.get_by_role("alert")).to_contain_text("is not a price: write one amount")

    start_flight(page)
    page.get_by_role("link", name=re.compile("^Plan")).click()
    page.get_by_label("New contender").fill("aldermoor hump")
    page.get_by_label("New contender").press("Enter")
    expect(page.get_by_label("Price of Aldermoor Hump")).to_have_value("1149.50")
    knob = page.get_by_role("slider", name="Drive of Aldermoor Hump")
    expect(knob).to_have_attribute("aria-valuetext", "12:00")
    knob.press("ArrowUp")
    expect(knob).to_have_attribute("aria-valuetext", "12:10")
    typed = page.get_by_label("Drive of Aldermoor Hump, typed")
    typed.fill("2:30")
    typed.press("Enter")
    expect(knob).to_have_attribute("aria-valuetext", "2:30")
    typed.fill("14:00")
    typed.press("Enter")
    expect(page.get_by_role("alert").last).to_contain_text("write 0 to 10, 7:00 to 5:00")


def test_a_brief_is_kept_as_it_is_written(page: Page) -> None:
    page.goto("/brief")
    page.get_by_role("button", name="Write a brief").click()
    page.get_by_label(re.compile("^Budget")).fill("800")
    page.get_by_label(re.compile("^Reserve")).fill("50,00")
    page.get_by_label(re.compile("^Reserve")).press("Enter")
    expect(page.get_by_text("750.00 EUR to spend")).to_be_visible()
    page.get_by_label("Add a sound").select_option(label="Crunch")
    expect(page.get_by_role("article", name="Crunch")).to_be_visible()
    field = page.get_by_label("Crunch: Drive, share from")
    field.fill("99")
    field.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("before it begins")
    expect(field).to_have_value("8")
    page.get_by_role("button", name="Remove Crunch").click()
    expect(page.get_by_role("article", name="Crunch")).to_have_count(0)
    page.keyboard.press("Control+z")
    expect(page.get_by_role("article", name="Crunch")).to_be_visible()
    page.get_by_label("Loudness limit").fill("92")
    page.get_by_label("Loudness limit").press("Enter")
    expect(page.get_by_text(re.compile("hearing is at risk"))).to_be_visible()
    page.reload()
    expect(page.get_by_label(re.compile("^Budget"))).to_have_value("800.00")


def test_what_is_typed_while_a_change_is_on_its_way_stays(page: Page) -> None:
    start_flight(page)
    page.goto("/choose")
    page.get_by_role("button", name="Write a brief").click()
    budget = page.get_by_label(re.compile("^Budget"))
    expect(budget).to_be_visible()

    def late(route: Route) -> None:
        page.wait_for_timeout(300)
        route.continue_()

    page.route("**/api/briefs/*", late)
    budget.fill("1000")
    with page.expect_response("**/api/briefs"), page.expect_response("**/api/briefs/*"):
        budget.press("Enter")
        budget.fill("600")
    expect(budget).to_have_value("600")
    with page.expect_response("**/api/briefs/*"):
        budget.press("Enter")
    expect(page.get_by_text("600.00 EUR to spend")).to_be_visible()
    page.reload()
    expect(budget).to_have_value("600.00")


def test_bad_files_are_named_with_their_reason_and_the_rest_is_taken(page: Page, tmp_path: Path) -> None:
    start_flight(page)
    files = [write_take(tmp_path / "Alder - riff.wav"), noise_file(tmp_path / "Birk - riff.wav")]
    (tmp_path / "empty - riff.wav").touch()
    (tmp_path / "text - riff.wav").write_text("strings, picks, a bag")
    page.get_by_label("Choose recordings").set_input_files(
        [*files, tmp_path / "empty - riff.wav", tmp_path / "text - riff.wav"]
    )
    expect(page.get_by_text("2 taken, 2 refused")).to_be_visible()
    expect(page.get_by_text("refused: the file is empty (0 bytes)")).to_be_visible()
    expect(page.get_by_text("refused: not a readable WAV, FLAC, OGG, MP3 or AIFF file")).to_be_visible()
    expect(page.get_by_role("button", name=re.compile("Pick up"))).to_have_count(2)
    page.get_by_role("button", name="Put this list away").click()
    expect(page.get_by_text("2 taken, 2 refused")).to_have_count(0)


def test_a_take_that_fits_no_cell_waits_and_is_placed_by_hand(page: Page, tmp_path: Path) -> None:
    start_flight(page)
    page.get_by_role("link", name=re.compile("^Plan")).click()
    for label, names in (("New contender", ("Alder", "Birk")), ("New test", ("Riff", "Lead"))):
        for name in names:
            page.get_by_label(label).fill(name)
            page.get_by_label(label).press("Enter")
            expect(page.get_by_label(label)).to_have_value("")
    page.get_by_role("link", name=re.compile("^Takes")).click()
    page.get_by_label("Choose recordings").set_input_files([write_take(tmp_path / "IMG_0042.wav")])
    expect(page.get_by_text("1 not placed").first).to_be_visible()
    page.get_by_role("button", name=re.compile("Pick up.*IMG_0042")).click()
    expect(page.get_by_text(re.compile("is picked up"))).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_text(re.compile("is picked up"))).to_have_count(0)
    page.get_by_role("button", name=re.compile("Pick up.*IMG_0042")).click()
    page.get_by_role("button", name=re.compile("put here.*Birk, Lead")).click()
    expect(page.get_by_text("1 not placed")).to_have_count(0)
    page.get_by_role("button", name=re.compile("^Pick up.*IMG_0042")).drag_to(
        page.get_by_role("row", name=re.compile("Alder")).get_by_role("cell").first
    )
    expect(page.get_by_role("row", name=re.compile("Alder")).get_by_text("IMG_0042.wav").first).to_be_visible()


def test_a_server_that_went_away_is_told_and_found_again(browser: Browser, tmp_path: Path) -> None:
    server = Server("serve", tmp_path / "data")
    server.wait()
    page = new_page(browser, server.url)
    page.goto("/flights")
    expect(page.get_by_label("New flight")).to_be_visible()
    server.stop(signal.SIGKILL)
    expect(page.get_by_text("Cata does not answer; waiting for it")).to_be_visible(timeout=15_000)
    page.get_by_label("New flight").fill("x")
    page.get_by_role("button", name="Start").click()
    expect(page.get_by_role("alert")).to_contain_text("Is it still running?")
    page.context.close()


def test_the_demo_flight_is_whole_on_every_page(demo: Server) -> None:
    def get(path: str) -> dict:  # type: ignore[type-arg]
        return httpx.get(f"{demo.url}/api/flights/1{path}", timeout=30).json()

    assert len(get("")["takes"]) == 20
    assert len(get("/tray/1")["takes"]) == 5
    assert len(get("/readings/1")["spectra"]) == 5
    choice = httpx.get(f"{demo.url}/api/choice?flight=1", timeout=30).json()
    assert [row["place"] for row in choice["ranked"]] == [1, 2, 3, 4]
    assert get("/plan")["missing"] == []


@pytest.mark.certify
def test_what_was_typed_stays_where_the_disk_is_full(browser: Browser, fresh: Server) -> None:
    httpx.post(f"{fresh.url}/api/gear", json={"kind": "pedal", "name": "Alder"})
    page = new_page(browser, fresh.url)
    full = '{"detail": "The disk is full.", "code": "disk_full"}'

    def refuse(route: Route) -> None:
        if route.request.method in ("PATCH", "POST"):
            route.fulfill(status=507, body=full)
        else:
            route.continue_()

    page.route("**/api/gear/**", refuse)
    page.goto("/gear/1")
    typed = {"Name": "Aldermoor", "Description": "a long description", "Draw": "12 mA"}
    fields = [page.get_by_label(label, exact=True) for label in typed]
    for field, text in zip(fields, typed.values(), strict=True):
        field.fill(text)
        field.press("Tab")
        expect(page.get_by_role("alert").filter(has_text="The disk is full").first).to_be_visible()
    page.get_by_label("Amount").fill("149.00")
    page.get_by_label("Amount").press("Enter")
    # The page asks for everything anew, as it does when it comes to the front: nothing typed is overwritten.
    page.evaluate("document.dispatchEvent(new Event('visibilitychange'))")
    page.unroute("**/api/gear/**")
    for field, text in zip(fields, typed.values(), strict=True):
        expect(field).to_have_value(text)
    expect(page.get_by_label("Amount")).to_have_value("149.00")
    fields[0].press("End")
    fields[0].press("!")
    fields[0].press("Enter")
    expect(page.get_by_text("The disk is full")).to_have_count(0)
    assert httpx.get(f"{fresh.url}/api/gear/1").json()["name"] == "Aldermoor!"


def test_a_field_that_changes_elsewhere_while_it_is_typed_in_shows_both(page: Page, browser: Browser) -> None:
    start_flight(page)
    flight = page.url.split("/")[-2]
    other = new_page(browser, page.url.split("/flights")[0])
    field = page.get_by_label("Name of the flight")
    for theirs, mine, key, kept in (
        ("Theirs", "Mine", "Escape", "Theirs"),
        ("Again", "Still mine", "Enter", "Still mine"),
    ):
        field.click()
        field.fill(mine)
        assert other.request.patch(f"/api/flights/{flight}", data={"name": theirs}).ok
        expect(page.get_by_text(f"Meanwhile it became “{theirs}”.")).to_be_visible()
        expect(field).to_have_value(mine)
        field.press(key)
        expect(field).to_have_value(kept)
        expect(page.get_by_text("Meanwhile it became")).to_have_count(0)
        if key == "Enter":
            expect(page.get_by_text(f"Yours is kept. Meanwhile it had become “{theirs}”.")).to_be_visible()
        page.get_by_role("heading").first.click()
        assert other.request.get(f"/api/flights/{flight}").json()["name"] == kept
    other.context.close()
