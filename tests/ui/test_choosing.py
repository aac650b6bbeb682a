"""From pointing at takes to a decision card, by keyboard alone; the card on paper and as a file without a server."""

from __future__ import annotations

import io
import re
from collections.abc import Callable
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Route, expect
from pypdf import PdfReader

from tests.conftest import Server
from tests.ui.conftest import measured, new_page
from tests.ui.test_keyboard import Hands
from tests.ui.test_pages import open_at
from tests.ui.ways import MOST

MARKS = (
    ("Like", "Birkwater Clearing, Lead line"), ("Do not like", "Dapplegrim Wool, Lead line"),
    ("Like", "Birkwater Clearing, Soft to hard chords"), ("Do not like", "Cormorant Slab, Soft to hard chords"),
)  # fmt: skip
LABELS = "all => all.map(one => one.getAttribute('aria-label'))"
AMOUNT = re.compile(r"[\d,]+\.\d\d EUR")


@pytest.mark.certify
def test_from_pointing_to_a_card_by_keyboard(browser: Browser, demo: Server, tmp_path: Path) -> None:
    # What is measured meanwhile would change what the card is held against.
    measured(demo.url)
    page = new_page(browser, demo.url)
    hands = Hands(page)
    open_at(page, "/brief")
    hands.push("By pointing: Singing lead", "link")
    for way, take in MARKS:
        hands.push(re.compile(f"^{way} {take}"))
        expect(page.get_by_role("button", name=f"{way} {take}", exact=True)).to_have_attribute("aria-pressed", "true")
    hands.push(re.compile("^Use the first"))
    expect(page).to_have_url(re.compile(r"/brief/\d+$"))
    # The ends of a range are moved by arrows, and Undo takes that back.
    end = page.get_by_role("slider", name=re.compile("^Clean rhythm: Drive.*: ends"))
    hands.to(end)
    before = end.get_attribute("aria-valuetext")
    hands.press("ArrowRight")
    expect(end).not_to_have_attribute("aria-valuetext", before or "")
    expect(page.get_by_label(re.compile("^Clean rhythm: Drive.* to$"))).to_have_value("4")
    hands.press("Control+z")
    expect(end).to_have_attribute("aria-valuetext", before or "")

    hands.push("Choose", "link")
    expect(page.get_by_role("status").first).to_contain_text("comes first of")
    hands.push("The whole rig within the budget", "link")
    first = page.get_by_role("article", name=re.compile("^Rig 1:"))
    expect(first).to_be_visible(timeout=60_000)
    mine = set(first.get_by_role("button", name=re.compile("^Lock ")).evaluate_all(LABELS))
    theirs = page.get_by_role("button", name=re.compile("^Lock ")).evaluate_all(LABELS)
    wanted = next(one for one in theirs if one not in mine).removeprefix("Lock ")
    hands.push(f"Lock {wanted}")
    expect(page.get_by_role("article", name=re.compile(f"^Rig 1:.*{wanted}"))).to_be_visible(timeout=60_000)
    price, left = AMOUNT.findall(first.locator("header").inner_text())
    hands.push("Make a card of rig 1")
    card = page.get_by_role("article", name=re.compile("^Decision"))
    expect(card).to_contain_text(wanted)
    assert hands.farthest <= MOST
    for amount in (price, left):
        expect(card.locator("header")).to_contain_text(amount)
    expect(page.get_by_role("region", name="Today")).to_contain_text("it would say the same")

    paper = " ".join(one.extract_text() for one in PdfReader(io.BytesIO(page.pdf(print_background=True))).pages)
    assert price in paper
    assert "Remove this card" not in paper
    with page.expect_download() as download:
        page.get_by_role("link", name="File", exact=True).click()
    kept = tmp_path / "card.html"
    download.value.save_as(kept)
    alone = browser.new_page(offline=True)
    asked: list[str] = []
    alone.on("request", lambda request: asked.append(request.url))
    alone.goto(kept.as_uri())
    expect(alone.get_by_role("article")).to_contain_text(price)
    assert asked == [kept.as_uri()]
    alone.close()


def test_what_is_of_before_says_so_until_the_newest_takes_are_counted_in(browser: Browser, demo: Server) -> None:
    page = new_page(browser, demo.url)
    held: list[Route] = []
    way: Callable[[Route], None] = held.append

    def slowly(route: Route) -> None:
        if way == Route.continue_:
            route.continue_()
        elif "at_once=true" in route.request.url:
            route.fulfill(json=route.fetch().json() | {"of_before": True})
        else:
            way(route)

    page.route("**/api/choice?kind=*", slowly)
    page.goto("/choose?kind=pedal")
    of_before, first = page.get_by_text("from before the latest changes"), page.get_by_label(re.compile("^Place 1"))
    expect(of_before).to_be_visible()
    expect(first).to_be_visible()
    way = Route.abort
    for route in held:
        route.abort()
    expect(page.get_by_role("alert")).to_contain_text("Cata does not answer")
    expect(first).to_be_visible()
    way = Route.continue_
    page.get_by_role("alert").get_by_role("button", name="Try again").click()
    expect(of_before).to_be_hidden()
    expect(first).to_be_visible()
