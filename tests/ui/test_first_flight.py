"""The first flight, as a new user flies it: six foreign files, to a ranking, in headless Chromium."""

from __future__ import annotations

import base64
import re
from pathlib import Path

import httpx
import numpy as np
import pyloudnorm
import pytest
from playwright.sync_api import Browser, Page, expect

from tests.conftest import Server
from tests.media.test_witnesses import CLEAN, DISTORTED, OVERDRIVEN, played, run
from tests.ui.conftest import heard, new_page
from tests.ui.hearing import check_switches, hear_for, heard_whole, listening_copy

CONTENDERS = {"Alder": CLEAN, "Birk": OVERDRIVEN, "Corm": DISTORTED}
TESTS = {"riff": 0, "high": 12}
MAX_LEVEL_LU = 0.5


@pytest.fixture
def foreign_files(tmp_path: Path) -> list[Path]:
    """Three contenders in two tests by a SoundFont player, as WAV, FLAC and MP3, at 44.1 and 48 kHz."""
    folder = tmp_path / "recordings"
    folder.mkdir()
    files = []
    for contender, program in CONTENDERS.items():
        for test, transpose in TESTS.items():
            wav = played(tmp_path / f"{contender}-{test}-raw.wav", program, transpose)
            name = folder / f"{contender} - {test}"
            if contender == "Birk":
                files.append(name.with_suffix(".flac"))
                run("sox", wav, "-r", "48000", "-b", "24", files[-1], "gain", "-9")
            elif contender == "Corm":
                files.append(name.with_suffix(".mp3"))
                run("ffmpeg", "-loglevel", "error", "-i", wav, "-b:a", "256k", files[-1])
            else:
                files.append(name.with_suffix(".wav"))
                run("sox", wav, files[-1], "gain", "-3")
    return files


def drop(page: Page, files: list[Path]) -> None:
    """Drop files on the page as a file manager would."""
    payload = [{"name": f.name, "body": base64.b64encode(f.read_bytes()).decode()} for f in files]
    page.get_by_role("region", name="Drop recordings").evaluate(
        """(zone, files) => {
          const transfer = new DataTransfer();
          for (const { name, body } of files) {
            const bytes = Uint8Array.from(atob(body), (c) => c.charCodeAt(0));
            transfer.items.add(new File([bytes], name));
          }
          zone.dispatchEvent(new DragEvent('dragover', { dataTransfer: transfer, bubbles: true, cancelable: true }));
          zone.dispatchEvent(new DragEvent('drop', { dataTransfer: transfer, bubbles: true, cancelable: true }));
        }""",
        payload,
    )


@pytest.mark.certify
def test_from_six_foreign_files_to_a_choice(browser: Browser, fresh: Server, foreign_files: list[Path]) -> None:
    page = new_page(browser, fresh.url, tapped=True)
    page.goto("/")
    expect(page.get_by_text("Taste gear side by side")).to_be_visible()
    page.get_by_role("link", name="Start a flight").click()
    page.get_by_label("New flight").fill("Which drive?")
    page.get_by_label("New flight").press("Enter")

    drop(page, foreign_files)
    expect(page.get_by_text("6 taken")).to_be_visible()
    cells = page.get_by_role("table", name="Cells")
    for contender in CONTENDERS:
        expect(cells.get_by_role("row", name=re.compile(contender))).to_be_visible()
    expect(cells.get_by_role("button", name=re.compile("Pick up"))).to_have_count(6)

    page.get_by_role("link", name=re.compile("^Match")).click()
    expect(page.get_by_text(re.compile(r"All 6 takes match|to look at|to redo"))).not_to_have_count(0, timeout=60_000)
    # What the shop's MP3 costs is said.
    expect(page.get_by_text(re.compile("lossy file")).first).to_be_visible()

    page.get_by_role("link", name=re.compile("^Listen")).click()
    expect(page.get_by_role("button", name="Play the music")).to_be_visible()
    _listen(page, fresh, foreign_files[0].parent)

    page.get_by_role("link", name=re.compile("^Readings")).click()
    table = page.get_by_role("table", name="Readings")
    expect(table.get_by_role("row", name=re.compile("Loudness"))).to_contain_text("LUFS")
    page.get_by_label("Against").select_option(label="A Alder")
    expect(table.get_by_text(re.compile("brighter|darker")).first).to_be_visible()

    page.get_by_role("link", name=re.compile("^Plan")).click()
    for name, price in (("Alder", "420"), ("Birk", "140,00"), ("Corm", "89.50")):
        field = page.get_by_label(f"Price of {name}")
        field.fill(price)
        field.press("Enter")
    expect(page.get_by_label("Price of Corm")).to_have_value("89.50")

    page.get_by_role("link", name="Choose").click()
    page.get_by_role("button", name="Write a brief").click()
    places = page.get_by_role("region", name="Ranking").get_by_role("article", name=re.compile("^Place "))
    # No sound is asked for yet: all stand by their prices.
    ranked = len(CONTENDERS)
    expect(places).to_have_count(ranked)
    page.get_by_label("Low price").fill("0")
    page.get_by_label(re.compile("Budget")).fill("1000")
    page.get_by_label(re.compile("Budget")).press("Enter")
    expect(page.get_by_text("1,000.00 EUR to spend")).to_be_visible()
    before = [places.nth(i).get_attribute("aria-label") for i in range(ranked)]
    first_price = {"Alder": 420, "Birk": 140, "Corm": 89.5}[str(before[0]).split(": ")[1]]
    page.get_by_label(re.compile("Budget")).fill(str(first_price - 1))
    page.get_by_label(re.compile("Budget")).press("Enter")
    expect(page.get_by_text(re.compile("over what can be spent")).first).to_be_visible()
    after = [places.nth(i).get_attribute("aria-label") for i in range(ranked)]
    assert after != before
    assert page.problems == []  # type: ignore[attr-defined]
    page.context.close()


def _listen(page: Page, server: Server, folder: Path) -> None:
    """Hear every contender whole, then switch while it plays; measure what left the player."""
    tray = httpx.get(f"{server.url}/api/flights/1/tray/1").json()
    names = [take["name"] for take in tray["takes"]]
    files = {take["name"]: listening_copy(server, take["url"], folder)[0] for take in tray["takes"]}
    loudness = {}
    meter = pyloudnorm.Meter(48000, filter_class="DeMan")
    length = max(len(file) for file in files.values()) / 48000
    for number, name in enumerate(names, start=1):
        loudness[name] = meter.integrated_loudness(heard_whole(page, number, length))
    assert max(loudness.values()) - min(loudness.values()) < MAX_LEVEL_LU, loudness

    lags = {take["name"]: take["lag_s"] for take in tray["takes"]}
    check_switches(_switching(page), names, files, lags)


def _switching(page: Page) -> np.ndarray:
    page.keyboard.press("1")
    page.keyboard.press("Home")
    page.evaluate("window.heard = []")
    page.keyboard.press("Space")
    hear_for(page, 1.2)
    for key in ("2", "3", "ArrowRight", "ArrowLeft"):
        page.keyboard.press(key)
        hear_for(page, 0.5)
    page.keyboard.press("Space")
    expect(page.get_by_role("button", name="Play the music")).to_be_visible()
    return heard(page)
