"""Two people at one shelf, each in a browser of their own: each undoes what they did, nobody's words are lost."""

from __future__ import annotations

import random

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.conftest import Server
from tests.ui.conftest import new_page

EDITS = 40
FIELDS = ("Description", "Structure")


def type_in(page: Page, label: str, words: str) -> None:
    field = page.get_by_label(label, exact=True)
    field.fill(words)
    with page.expect_response(lambda answer: answer.request.method == "PATCH"):
        field.press("Tab")


def step(page: Page, way: str) -> None:
    with page.expect_response(lambda one: one.url.endswith(f"/api/{way.lower()}") and one.request.method == "POST"):
        page.get_by_role("button", name=way, exact=True).click()


@pytest.mark.certify
def test_forty_edits_each_with_undo_and_redo_are_each_ones_own(browser: Browser, fresh: Server) -> None:
    pages = [new_page(browser, fresh.url) for _ in FIELDS]
    made = pages[0].request.post("/api/gear", data={"kind": "pedal", "name": "Alder"}).json()
    for page in pages:
        page.goto(f"/gear/{made['id']}")
        expect(page.get_by_label("Description", exact=True)).to_be_visible()
    draw = random.Random(5)
    # What each has done, and what waits to be done again: told apart, as each browser should.
    done: list[list[str]] = [[""], [""]]
    undone: list[list[str]] = [[], []]
    for turn in range(2 * EDITS):
        who = turn % 2
        page, kind = pages[who], draw.random()
        if kind < 0.25 and len(done[who]) > 1:
            step(page, "Undo")
            undone[who].append(done[who].pop())
        elif kind < 0.4 and undone[who]:
            step(page, "Redo")
            done[who].append(undone[who].pop())
        else:
            words = f"turn {turn}"
            type_in(page, FIELDS[who], words)
            done[who].append(words)
            undone[who].clear()
        # Nobody types before they see what their undo did.
        expect(page.get_by_label(FIELDS[who], exact=True)).to_have_value(done[who][-1])
        for at in pages if turn % 4 == 3 else ():
            for field, words in zip(FIELDS, done, strict=True):
                expect(at.get_by_label(field, exact=True)).to_have_value(words[-1])
    # All of the one's own taken back: the other's stands as it was.
    while len(done[0]) > 1:
        step(pages[0], "Undo")
        done[0].pop()
    expect(pages[1].get_by_label("Description", exact=True)).to_have_value("")
    expect(pages[1].get_by_label("Structure", exact=True)).to_have_value(done[1][-1])
    for page, title in zip(pages, ("Nothing to undo (Ctrl+Z)", "Undo: Change gear: Alder (Ctrl+Z)"), strict=True):
        expect(page.get_by_role("button", name="Undo", exact=True)).to_have_attribute("title", title)
    for page in pages:
        page.context.close()


def test_what_stands_in_an_undos_way_is_named_and_left(browser: Browser, fresh: Server) -> None:
    mine, theirs = (new_page(browser, fresh.url) for _ in range(2))
    made = mine.request.post("/api/gear", data={"kind": "pedal", "name": "Alder"}).json()
    for page in (mine, theirs):
        page.goto(f"/gear/{made['id']}")
        expect(page.get_by_label("Description", exact=True)).to_be_visible()
    type_in(mine, "Structure", "first")
    type_in(mine, "Description", "mine")
    expect(theirs.get_by_label("Description", exact=True)).to_have_value("mine")
    type_in(theirs, "Description", "theirs")
    expect(mine.get_by_label("Description", exact=True)).to_have_value("theirs")
    mine.get_by_role("button", name="Undo", exact=True).click()
    asked = mine.get_by_role("alert").filter(has_text="Not undone: Alder was changed since")
    expect(asked).to_be_visible()
    asked.get_by_role("button", name="Skip it").click()
    expect(asked).to_have_count(0)
    # What was done before it can be taken back now.
    mine.get_by_role("button", name="Undo", exact=True).click()
    expect(mine.get_by_label("Structure", exact=True)).to_have_value("")
    expect(mine.get_by_label("Description", exact=True)).to_have_value("theirs")


def test_a_page_of_another_library_changes_nothing_here(browser: Browser, fresh: Server) -> None:
    page = new_page(browser, fresh.url)
    page.goto("/gear")
    expect(page.get_by_role("heading", name="Gear", exact=True)).to_be_visible()
    # As after a restore: the page was made of what was there before.
    page.evaluate("() => window.fetch = ((real) => (request, more) => {"
                  " if (request.headers) request.headers.set('x-cata-library', 'f'.repeat(32));"
                  " return real(request, more); })(window.fetch)")  # fmt: skip
    before = len(page.request.get("/api/gear").json())
    page.get_by_label("New item", exact=True).fill("Stray")
    page.get_by_role("button", name="Add", exact=True).click()
    expect(page.get_by_text("Another library is open here by now")).to_be_visible()
    assert len(page.request.get("/api/gear").json()) == before
