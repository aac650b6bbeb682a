"""Without a mouse: everything is a few keys away, and a whole flight is worked by keyboard with its presses counted."""

from __future__ import annotations

import re
import time
from pathlib import Path

from playwright.sync_api import Browser, FileChooser, Locator, Page, expect

from tests.conftest import Server, write_take
from tests.ui.conftest import new_page
from tests.ui.test_pages import open_at
from tests.ui.ways import MOST, NEXT


class Hands:
    """Somebody at the keyboard: every press is counted, and how far anything was."""

    def __init__(self, page: Page) -> None:
        self.page, self.pressed, self.farthest = page, 0, 0

    def press(self, key: str) -> None:
        self.page.keyboard.press(key)
        self.pressed += 1

    def to(self, target: Locator) -> None:
        expect(target).to_be_visible()
        stops = 0
        for _ in range(40):
            key = self.page.evaluate(NEXT, target.element_handle())
            if key is None:
                break
            stops += "Arrow" not in key
            self.press(key)
        expect(target).to_be_focused()
        self.farthest = max(self.farthest, stops)

    def push(self, name: str | re.Pattern[str], role: str = "button") -> None:
        self.to(self.page.get_by_role(role, name=name).first)  # type: ignore[arg-type]
        self.press("Enter")

    def choose(self, *files: Path) -> None:
        # Listened for until one has come: one that opens late would be a real dialog, which nobody closes.
        opened: list[FileChooser] = []
        self.page.on("filechooser", lambda one: opened.append(one))
        for _ in range(3):
            # A busy browser opens no dialog for a press that it takes for too old: somebody would press again.
            self.to(self.page.get_by_label("Choose recordings"))
            self.press("Space")
            end = time.monotonic() + 10
            while not opened and time.monotonic() < end:
                self.page.wait_for_timeout(50)
            if opened:
                break
        opened[0].set_files(files)


def test_a_flight_from_files_to_a_choice_by_keyboard(browser: Browser, fresh: Server, tmp_path: Path) -> None:
    page = new_page(browser, fresh.url)
    files = [
        write_take(tmp_path / f"{name}.wav", hz=hz)
        for name, hz in (("Alder - riff", 196), ("Alder - lead", 392), ("Birk - riff", 196), ("IMG_0042", 393))
    ]
    hands = Hands(page)
    page.goto("/flights")
    hands.to(page.get_by_label("New flight"))
    page.keyboard.type("Which?")
    hands.press("Enter")
    expect(page.get_by_text("Drop recordings or a folder here")).to_be_visible()
    hands.choose(*files)
    expect(page.get_by_text("3 takes placed.")).to_be_visible()
    hands.push("Take the suggestion")
    # The work goes on at the table, not at the beginning of the page.
    expect(page.locator("td :focus")).to_have_count(1)
    before = hands.pressed
    hands.to(page.get_by_role("button", name=re.compile("Pick up.*Alder - lead")))
    assert hands.pressed - before <= 1
    hands.press("Delete")
    empty = page.get_by_role("button", name=re.compile("no take.*Alder, Lead"))
    expect(empty).to_be_focused()
    hands.press("Enter")
    expect(page.get_by_text("The next file goes to")).to_be_visible()
    hands.choose(write_take(tmp_path / "better.wav", hz=394))
    expect(page.get_by_role("button", name=re.compile("Pick up.*better.wav.*Alder, Lead"))).to_be_visible()
    expect(page.get_by_text("1 set aside")).to_be_visible()
    # A take is moved and moved back: picked up, put down in the other row.
    hands.to(page.get_by_role("button", name=re.compile("Pick up.*better.wav")))
    hands.press("Enter")
    hands.push(re.compile("change places.*Birk, Lead"))
    expect(page.get_by_role("button", name=re.compile("Pick up.*better.wav.*Birk, Lead"))).to_be_focused()
    hands.press("Control+z")
    expect(page.get_by_role("button", name=re.compile("Pick up.*better.wav.*Alder, Lead"))).to_be_visible()
    hands.push(re.compile("^Listen"), "link")
    expect(page.get_by_role("button", name="Play the music")).to_be_visible(timeout=60_000)
    hands.press("Space") if page.evaluate("document.activeElement === document.body") else hands.push("Play the music")
    expect(page.get_by_role("button", name="Pause the music")).to_be_visible()
    # Its recording may still be on its way to a busy browser.
    expect(page.locator("[data-voice]")).to_have_count(2)
    hands.press("2")
    expect(page.get_by_role("button", name=re.compile("^2 .*Birk")).first).to_have_attribute("aria-pressed", "true")
    hands.press("Space")
    hands.push("Choose", "link")
    hands.push("Write a brief")
    expect(page.get_by_role("heading", name="Sounds")).to_be_visible()
    assert hands.farthest <= MOST
    assert hands.pressed <= 90, f"{hands.pressed} presses"


RESULTS = ("/brief", "/gear/1/measure", "/flights/2/match", "/flights/1/readings", "/flights/1/verdict",
           "/flights/1/takes", "/choose")  # fmt: skip
CONTROLS = "[...document.querySelectorAll('main :is(.btn, select, input, textarea)')].filter((e) => e.offsetParent)"


def test_results_are_printed_as_documents_and_charts_taken_out(browser: Browser, demo: Server) -> None:
    page = new_page(browser, demo.url)
    for path in RESULTS:
        open_at(page, path)
        page.emulate_media(media="print")
        assert page.evaluate(f"{CONTROLS}.map((e) => e.outerHTML.slice(0, 90))") == [], path
        assert page.evaluate("document.querySelector('main').innerText.length") > 200, path
        page.emulate_media(media="screen")
    open_at(page, "/flights/1/readings")
    for kind, begins in (("SVG", b"<svg"), ("PNG", b"\x89PNG")):
        with page.expect_download() as download:
            page.get_by_role("button", name=re.compile(f"as {kind}: Spectra")).click()
        content = Path(download.value.path()).read_bytes()
        assert content.startswith(begins)
        assert b"var(--" not in content
