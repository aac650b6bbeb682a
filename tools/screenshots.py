"""Draw the pictures of docs/screenshots (or those named) from the demo data, in headless Chromium."""

from __future__ import annotations

import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Page, expect, sync_playwright

from tests.conftest import running
from tests.ui.conftest import ARGUMENTS, CHROMIUM, measured, new_page

TARGET = Path(__file__).parents[1] / "docs" / "screenshots"


def _play(page: Page) -> None:
    page.wait_for_timeout(800)
    page.keyboard.press("Space")
    page.wait_for_timeout(900)
    page.keyboard.press("2")
    page.keyboard.press("l")
    page.wait_for_timeout(400)


def _measured(page: Page) -> None:
    expect(page.locator("[data-probe=read]")).to_have_count(7, timeout=240_000)


def _found(page: Page) -> None:
    expect(page.get_by_role("article", name="Rig 1:")).to_be_visible(timeout=60_000)
    page.wait_for_timeout(500)


def _to_card(page: Page) -> None:
    _found(page)
    page.get_by_role("button", name="Make a card of rig 1", exact=True).click()
    expect(page.get_by_role("article", name="Decision")).to_be_visible()
    expect(page.get_by_text("Holding it against today")).to_have_count(0, timeout=60_000)
    page.wait_for_timeout(800)


def _hear_proof(page: Page) -> None:
    _measured(page)
    page.get_by_role("button", name="Hear the two settings").first.click()
    page.wait_for_timeout(1500)


def _taste(page: Page) -> None:
    page.get_by_label("Can it be told at all?").check()
    page.get_by_role("button", name="Set the table").click()
    page.get_by_label("Who listens").fill("Elder ear")
    page.get_by_role("button", name="Sit down").click()
    expect(page.get_by_role("button", name="1", exact=True)).to_be_enabled()
    page.keyboard.press("2")
    page.wait_for_timeout(900)


def _blend(page: Page) -> None:
    expect(page.get_by_role("button", name="Nearest to the target")).to_be_visible(timeout=60_000)
    page.get_by_role("button", name="Nearest to the target").click()
    page.wait_for_timeout(600)


def _to_strings(page: Page) -> None:
    expect(page.get_by_text("being read")).to_have_count(0, timeout=240_000)
    page.get_by_text("Hear them").evaluate("one => one.scrollIntoView()")
    page.wait_for_timeout(300)


def _with_amplifier(page: Page) -> None:
    page.get_by_label("From the shelf: amplifier").select_option(label="Stokeferry Fifty")
    expect(page.get_by_text("Clean at full power")).to_be_visible()


VIEWS: dict[str, tuple[str, str, Callable[[Page], None] | None]] = {
    "home": ("/", "cellar", None),
    "plan": ("/flights/1/plan", "cellar", None),
    "next-take": ("/flights/3/next", "cellar", None),
    "takes": ("/flights/2/takes", "cellar", None),
    "match": ("/flights/2/match", "cellar", None),
    "listen": ("/flights/1/listen", "cellar", _play),
    "readings": ("/flights/1/readings", "cellar", None),
    "verdict": ("/flights/1/verdict", "cellar", None),
    "brief": ("/brief", "cellar", None),
    "choose": ("/choose", "cellar", None),
    "rig": ("/rig", "cellar", _found),
    "card": ("/rig", "counter", _to_card),
    "gear": ("/gear", "cellar", None),
    "measured": ("/gear/1/measure", "cellar", _hear_proof),
    "tasting": ("/tastings?flight=1&test=4", "cellar", _taste),
    "reveal": ("/tastings/1", "counter", None),
    "blend": ("/flights/1/blend?test=4&target=5", "cellar", _blend),
    "workshop": ("/workshop/loudness", "cellar", _with_amplifier),
    "pickup": ("/gear/6/measure", "cellar", _to_strings),
}


def main() -> None:
    TARGET.mkdir(parents=True, exist_ok=True)
    with (
        tempfile.TemporaryDirectory() as folder,
        running("demo", Path(folder) / "data") as server,
        sync_playwright() as playwright,
    ):
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=ARGUMENTS)
        measured(server.url)
        for name in sys.argv[1:] or VIEWS:
            path, theme, act = VIEWS[name]
            page = new_page(browser, server.url, theme=theme)
            page.goto(path)
            page.wait_for_timeout(1500)
            if act:
                act(page)
            page.screenshot(path=TARGET / f"{name}.png")
            page.context.close()


if __name__ == "__main__":
    main()
