"""Every page: no serious accessibility finding, usable by keyboard, at small and large sizes, in both themes."""

from __future__ import annotations

import re
import time
from pathlib import Path

import httpx
import numpy as np
import pytest
from playwright.sync_api import Browser, Page, Request, Route, expect

from tests.conftest import Server, until
from tests.ui.conftest import heard, new_page
from tests.ui.hearing import hear_for
from tests.ui.ways import FARTHEST, MOST

AXE = (Path(__file__).parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js").read_text()
PAGES = {
    "/": "What is next?",
    "/brief": "Sounds, as target ranges",
    "/gear": "Aldermoor Hump",
    "/gear/2": "Specification",
    "/gear/1/measure": "Measure (it|another setting)",
    "/gear/6/measure": "Cable and pots",
    "/gear/16/measure": "How loud it gets",
    "/gear/import": "Read in a file",
    "/measures": "Readings: what they mean",
    "/flights": "New flight",
    "/flights/1/plan": "What else is held constant",
    "/flights/3/plan": "no order has shorter change-overs",
    "/flights/3/next": "Done, next",
    "/flights/3/sheet": "Take sheet",
    "/flights/1/takes": "Drop recordings here, or",
    "/flights/2/match": "3 takes to redo",
    "/flights/1/listen": "Birkwater Clearing",
    "/flights/1/blend": "Two sources mixed",
    "/flights/1/readings": "All readings",
    "/flights/1/verdict": "What this flight taught",
    "/tastings": "Which is liked more",
    "/tastings/1": "Four drives, one melody",
    "/choose": "comes first",
    "/rig": "Buy ",
    "/choose/card/1": "What was measured",
    "/brief/point?brief=1&sound=singing-lead&liked=10.12&disliked=17.20": "Use the first",
    "/workshop/loudness": "Still wanted",
}


SMALL = ((390, 844), (640, 400))
"""A telephone, and 1280 x 800 at twice the size."""


def open_at(page: Page, path: str) -> None:
    page.goto(path)
    expect(page.get_by_text(re.compile(PAGES[path])).first).to_be_visible()


def awaited(page: Page) -> set[Request]:
    """What was asked of the application and is not yet answered, kept up to date."""
    waiting: set[Request] = set()
    page.on("request", lambda one: waiting.add(one) if "/api/" in one.url and "/api/events" not in one.url else None)
    page.on("requestfinished", lambda one: waiting.discard(one))
    page.on("requestfailed", lambda one: waiting.discard(one))
    return waiting


def serious(page: Page, path: str, only: str = "") -> list[str]:
    """What axe finds serious on a page."""
    page.evaluate(AXE)
    found = page.evaluate(f"axe.run(document, {{ resultTypes: ['violations']{only} }})")
    return [
        f"{path}: {v['id']}: {v['nodes'][0]['html'][:160]}"
        for v in found["violations"]
        if v["impact"] in ("serious", "critical")
    ]


@pytest.mark.certify
def test_every_page_can_be_used_by_everybody_at_every_size_and_asks_nobody_else(browser: Browser, demo: Server) -> None:
    page = new_page(browser, demo.url)
    asked: list[str] = []
    page.on("request", lambda request: asked.append(request.url))
    waiting = awaited(page)
    wrong: list[str] = []
    page.request.post(f"{demo.url}/api/cards", data={"source": "rig"})
    for path in PAGES:
        page.set_viewport_size({"width": 1280, "height": 800})
        open_at(page, path)
        # What comes late is a part of the page too.
        for _ in range(600):
            if not waiting:
                break
            page.wait_for_timeout(50)
        assert not waiting, path
        wrong += serious(page, path)
        if path != "/measures" and (stops := page.evaluate(FARTHEST)) > MOST:
            wrong.append(f"{path}: something is {stops} stops away")
        # The second theme can differ from the first in its colours only.
        page.evaluate("document.documentElement.setAttribute('data-theme', 'counter')")
        page.wait_for_function("() => document.getAnimations().every((one) => one.playState !== 'running')")
        wrong += serious(page, path, ", runOnly: ['color-contrast']")
        for width, height in SMALL:
            page.set_viewport_size({"width": width, "height": height})
            overhang = "document.querySelector('main').scrollWidth - document.querySelector('main').clientWidth"
            if page.evaluate(overhang) > 1:
                wrong.append(f"{path} scrolls sideways at {width} x {height}")
    page.goto("/docs")
    # Of a long list only what is in view is drawn.
    expect(page.get_by_text("/api/gear").first).to_be_visible()
    assert wrong == []
    assert [url for url in asked if not url.startswith((demo.url, "data:", "blob:"))] == []
    assert page.problems == []  # type: ignore[attr-defined]
    page.context.close()


def test_answers_may_come_in_any_order(browser: Browser, demo: Server) -> None:
    page = new_page(browser, demo.url)

    def late(route: Route) -> None:
        time.sleep(0.7)
        route.continue_()

    page.route("**/api/gear/16", late)
    open_at(page, "/gear/16/measure")
    expect(page.get_by_role("heading", name="Stokeferry Fifty, measured")).to_be_visible()
    page.context.close()


def test_a_first_answer_from_before_a_change_is_not_the_last_word(browser: Browser, fresh: Server) -> None:
    page = new_page(browser, fresh.url)
    made = page.request.post("/api/gear", data={"kind": "pedal", "name": "Alder"}).json()
    held: list[int] = []

    def before(route: Route) -> None:
        first = route.fetch()
        if not held:  # changed by somebody else while the first answer is on its way; the page has heard of it by then
            page.request.patch(f"/api/gear/{made['id']}", data={"about": "warm"})
            time.sleep(1.0)
        held.append(first.status)
        route.fulfill(response=first)

    page.route(f"**/api/gear/{made['id']}", before)
    page.goto(f"/gear/{made['id']}")
    expect(page.get_by_label("Description", exact=True)).to_have_value("warm")
    page.context.close()


def test_the_demo_finds_three_faults_and_calls_nothing_else_one(browser: Browser, demo: Server) -> None:
    page = new_page(browser, demo.url)
    open_at(page, "/flights/2/match")
    for name in ("Clipping: Ironquay", "Other tuning: Gorsemill", "Tone moved in one take: Hollowbeck"):
        expect(page.get_by_role("article", name=re.compile(name)).get_by_role("img")).to_be_visible()
    expect(page.get_by_role("article")).to_have_count(3)
    page.goto("/flights/1/match")
    expect(page.get_by_text("All 20 takes match")).to_be_visible()
    expect(page.get_by_role("article")).to_have_count(0)
    page.context.close()


@pytest.mark.parametrize(
    ("path", "words"), [("readings", "more driven|cleaner"), ("verdict", "stronger|weaker|below|above")]
)
def test_one_press_plays_the_proof_of_a_sentence(browser: Browser, demo: Server, path: str, words: str) -> None:
    page = new_page(browser, demo.url, tapped=True)
    open_at(page, f"/flights/1/{path}")
    sentence = page.get_by_role("listitem").filter(has_text=re.compile(words)).first
    name = re.match(r"(\w+ \w+) ", sentence.inner_text())
    sentence.get_by_role("button", name=re.compile("^Show it")).click()
    shown = page.get_by_role("list", name="Everybody's value").or_(page.get_by_role("img", name=re.compile(" than ")))
    expect(shown.first).to_be_visible()
    sentence.get_by_role("button", name=re.compile("^Hear it")).click()
    page.wait_for_function("window.heard.some((part) => part.some((sample) => Math.abs(sample) > 1e-6))")
    tray = page.get_by_role("region", name="The tray")
    assert name
    expect(tray.get_by_role("button", name=re.compile(name[1]))).to_have_attribute("aria-pressed", "true")
    loop = tray.get_by_role("button", pressed=True).filter(has_text="–")
    start, end = (float(part.split(":")[1]) for part in loop.inner_text().split("–"))
    assert 2.5 < end - start < 3.5
    page.context.close()


def test_one_click_on_a_cell_is_enough_to_hear_it(browser: Browser, demo: Server) -> None:
    page = new_page(browser, demo.url, tapped=True)
    open_at(page, "/flights/1/plan")
    page.get_by_role("button", name=re.compile("hear Aldermoor Hump, Offbeat chords")).click()
    page.wait_for_function("window.heard.some((part) => part.some((sample) => Math.abs(sample) > 1e-6))")
    page.context.close()


def test_the_tray_plays_on_and_answers_to_keys_on_every_page(browser: Browser, demo: Server) -> None:
    page = new_page(browser, demo.url)
    open_at(page, "/flights/1/listen")
    page.keyboard.press("Space")
    page.get_by_role("link", name="Gear").click()
    tray = page.get_by_role("region", name="The tray")
    expect(tray.get_by_role("button", name="Pause")).to_be_visible()
    page.keyboard.press("3")
    expect(tray.get_by_role("button", name=re.compile("Cormorant"))).to_have_attribute("aria-pressed", "true")
    page.keyboard.press("0")
    expect(tray.get_by_role("button", name=re.compile("No pedal"))).to_have_attribute("aria-pressed", "true")
    page.keyboard.press("0")
    expect(tray.get_by_role("button", name=re.compile("Cormorant"))).to_have_attribute("aria-pressed", "true")
    page.keyboard.press("PageDown")
    expect(tray.get_by_role("button", name=re.compile("Dapplegrim"))).to_have_attribute("aria-pressed", "true")
    page.keyboard.press("g")
    expect(tray.get_by_role("button", name=re.compile("equal to the ear"))).to_be_visible()
    page.keyboard.press("g")
    expect(tray.get_by_role("button", name=re.compile("as set"))).to_be_visible()
    page.keyboard.press("t")
    expect(tray.get_by_role("combobox")).to_have_value("2")
    page.get_by_label("Search").press_sequentially("g0 3l")
    expect(tray.get_by_role("button", name=re.compile("as set"))).to_be_visible()
    expect(page.get_by_label("Search")).to_have_value("g0 3l")
    page.context.close()


@pytest.mark.certify
def test_a_loop_wraps_without_a_click_or_a_gap(browser: Browser, demo: Server) -> None:
    page = new_page(browser, demo.url, tapped=True)
    open_at(page, "/flights/1/listen")
    page.get_by_role("button", name="Lead line").click()
    expect(page.get_by_text(re.compile("Lead line · equal"))).to_be_visible()
    page.keyboard.press("Space")
    hear_for(page, 5.6)
    page.keyboard.press("[")
    hear_for(page, 0.9)
    page.keyboard.press("]")
    page.evaluate("window.heard = []")
    hear_for(page, 2.5)
    samples = heard(page)
    assert len(samples) > 48000
    steps = np.abs(np.diff(samples))
    assert steps.max() < 12 * np.percentile(steps, 99), "a click at the wrap"
    quiet = np.abs(samples) < 1e-5
    edges = np.flatnonzero(np.diff(np.concatenate(([0], quiet.astype(int), [0]))))
    assert np.max(edges[1::2] - edges[::2], initial=0) / 48000 < 0.015
    expect(page.get_by_role("slider", name="Loop start").first).to_be_visible()
    page.context.close()


def test_keys_can_be_given_to_a_foot_switch(browser: Browser, demo: Server) -> None:
    page = new_page(browser, demo.url)
    open_at(page, "/flights/1/listen")
    page.keyboard.press("?")
    page.get_by_role("button", name="Change: Next contender").click()
    page.keyboard.press("F9")
    page.get_by_role("button", name="Close").click()
    first = page.get_by_role("group", name="Pour a contender").locator("[aria-pressed=true]").inner_text()
    page.keyboard.press("F9")
    expect(page.get_by_role("group", name="Pour a contender").locator("[aria-pressed=true]")).not_to_have_text(first)
    page.context.close()


def test_takes_are_moved_by_keyboard_and_undone(browser: Browser, demo: Server) -> None:
    page = new_page(browser, demo.url)
    open_at(page, "/flights/1/takes")
    before = page.get_by_role("table", name="Cells").inner_text()
    page.get_by_role("button", name=re.compile("Pick up Aldermoor Hump - Muted riff.wav")).press("Enter")
    page.get_by_role("button", name=re.compile("change places.*Birkwater Clearing, Lead line")).press("Enter")
    # At once: the change may still be on its way, and is the one that is meant.
    page.keyboard.press("Control+z")
    expect(page.get_by_text(re.compile("Undone: Place a take"))).to_be_visible()
    page.wait_for_function("(before) => document.querySelector('[aria-label=Cells]').innerText === before", arg=before)
    page.context.close()


def test_two_tabs_see_each_other_and_back_goes_back(browser: Browser, fresh: Server) -> None:
    first, second = new_page(browser, fresh.url), new_page(browser, fresh.url)
    first.goto("/flights")
    second.goto("/flights")
    first.get_by_label("New flight").fill("<b>Bold</b> & 'quoted'")
    first.get_by_role("button", name="Start").dblclick()
    expect(first.get_by_text("Drop recordings or a folder here")).to_be_visible()
    expect(second.get_by_role("link", name="<b>Bold</b> & 'quoted'")).to_have_count(1)
    first.go_back()
    expect(first.get_by_role("button", name="Start")).to_be_visible()
    second.get_by_role("button", name=re.compile("Remove <b>")).click()
    expect(first.get_by_role("link", name=re.compile("Bold"))).to_have_count(0)
    first.context.close()
    second.context.close()


def test_back_brings_back_search_order_and_place(browser: Browser, demo: Server) -> None:
    page = new_page(browser, demo.url, height=420)
    page.goto("/gear?sort=name")
    last = page.locator("tbody tr a").nth(9)
    last.scroll_into_view_if_needed()
    before, name = page.evaluate("document.querySelector('main').scrollTop"), last.inner_text()
    assert before > 100
    last.click()
    expect(page.get_by_label("Name", exact=True)).to_have_value(name)
    assert page.evaluate("document.querySelector('main').scrollTop") == 0
    page.go_back()
    expect(page.get_by_label(re.compile("^Order"))).to_have_value("name")
    page.wait_for_function(f"() => Math.abs(document.querySelector('main').scrollTop - {before}) < 3")
    page.context.close()


@pytest.mark.certify
def test_two_items_of_the_demo_show_every_rule_of_pairing(browser: Browser, demo: Server) -> None:
    def not_shown() -> list[str]:
        rules = httpx.get(f"{demo.url}/api/pairing").json()
        assert len(rules) == 13
        return [rule["key"] for rule in rules if rule["shown_by"] is None]

    until(not_shown, lambda keys: not keys, seconds=120)
    page = new_page(browser, demo.url)
    open_at(page, "/rig")
    page.get_by_text("What parts do to each other").click()
    expect(page.get_by_text("On the shelf:")).to_have_count(13)
    page.context.close()
