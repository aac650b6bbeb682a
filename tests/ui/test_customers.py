"""Two customers in two browsers: each has an address, and what is said for one changes no answer of the other."""

from __future__ import annotations

import re

import httpx
import pytest
from playwright.sync_api import Browser, expect

from tests.conftest import Server
from tests.ui.conftest import new_page
from tests.ui.test_keyboard import Hands


@pytest.fixture
def other(demo: Server) -> int:
    """A second brief that asks for the same as the first."""
    need = httpx.get(f"{demo.url}/api/briefs/1").json()["need"]
    made = httpx.post(f"{demo.url}/api/briefs", json={"name": "Corner shop", "need": need}).json()
    return int(made["id"])


def test_what_one_customer_says_changes_no_other_answer(browser: Browser, demo: Server, other: int) -> None:
    mine, theirs = new_page(browser, demo.url), new_page(browser, demo.url)
    theirs.goto(f"/choose/{other}?flight=1")
    said = theirs.get_by_role("status").first
    expect(said).to_contain_text("in this flight, as they were set")
    before = said.inner_text()
    mine.goto("/choose/1?flight=1")
    hands = Hands(mine)
    hands.to(mine.get_by_text("Which phrase shows which sound"))
    hands.press("Enter")
    box = mine.get_by_role("checkbox", name="Lead line shows Singing lead")
    hands.to(box)
    hands.press("Space")
    expect(mine.get_by_text("Which phrase shows singing lead? Until you say")).to_be_visible()
    expect(box).not_to_be_checked()
    theirs.reload()
    expect(said).to_have_text(before)
    theirs.get_by_text("Which phrase shows which sound").click()
    expect(theirs.get_by_role("checkbox", name="Lead line shows Singing lead")).to_be_checked()
    hands.push("Lead line: as proposed")
    # Nothing is open any more, so the table folds.
    expect(mine.get_by_text("Which phrase shows which sound")).to_be_visible()
    mine.get_by_text("Which phrase shows which sound").click()
    expect(box).to_be_checked()
    # From one customer to the other by name, and the address says whose it is.
    hands.push(re.compile("choose another brief"))
    hands.push("Corner shop", "link")
    expect(mine).to_have_url(re.compile(rf"/choose/{other}$"))
    # Without a number it is the one that was used last; the other browser has its own.
    mine.goto("/rig")
    expect(mine).to_have_url(re.compile(rf"/rig/{other}$"))
    theirs.goto(f"/brief/{other + 1000}")
    expect(theirs.get_by_text("This brief is not there")).to_be_visible()
    httpx.delete(f"{demo.url}/api/briefs/{other}")


@pytest.mark.parametrize(
    ("typed", "why"), [("-5", "is below zero"), ("about 100 to 150", "more than one"), ("120,50 USD", "is not in EUR")]
)
def test_what_is_no_amount_stays_and_says_why(browser: Browser, demo: Server, other: int, typed: str, why: str) -> None:
    page = new_page(browser, demo.url)
    page.goto(f"/choose/{other}?flight=1")
    field = page.get_by_label("Budget, EUR")
    before = httpx.get(f"{demo.url}/api/briefs/{other}").json()["need"]["budget_minor"]
    field.fill(typed)
    field.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text(why)
    expect(field).to_have_value(typed)
    assert httpx.get(f"{demo.url}/api/briefs/{other}").json()["need"]["budget_minor"] == before
    field.fill("1.250,-")
    field.press("Enter")
    expect(field).to_have_value("1250.00")
    expect(page.get_by_role("alert")).to_be_hidden()
    httpx.delete(f"{demo.url}/api/briefs/{other}")
