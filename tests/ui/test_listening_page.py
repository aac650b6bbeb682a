"""A flight shown to others: a page that opens from a disk and sounds like the tray, a reel with its marks."""

from __future__ import annotations

import csv
import re
import zipfile
from collections.abc import Iterator
from contextlib import contextmanager
from functools import partial
from http.server import SimpleHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from subprocess import run
from threading import Thread

import numpy as np
import pytest
import soundfile
from playwright.sync_api import Browser, Page, expect

from cata.errors import Refused
from cata.services.background import runner_for
from cata.services.shown.page import write_page
from cata.services.shown.reel import write_reel
from cata.services.standing.flight import list_flights
from cata.services.takes.importing import run_import
from cata.services.workspace import Workspace, open_workspace
from tests.conftest import declines, write_take
from tests.tones import plucks
from tests.ui.conftest import heard, new_page
from tests.ui.hearing import MAX_SILENCE_S, agreements, hear_anew, hear_for, longest_silence
from tests.ui.test_pages import serious

RATE_HZ = 48_000


@pytest.fixture(scope="module")
def shelf(tmp_path_factory: pytest.TempPathFactory) -> tuple[Workspace, int]:
    """Two contenders in two tests, one of them softer."""
    folder = tmp_path_factory.mktemp("shown")
    takes = folder / "Two & <three>"
    takes.mkdir()
    for name, hz, level in (("Alder", 196.0, 1.0), ("Birk", 233.0, 0.4)):
        write_take(takes / f"{name} - riff.wav", hz=hz, level=level)
        write_take(takes / f"{name} - lead.wav", hz=2 * hz, level=level)
    ws = open_workspace(folder / "data", workers=2)
    run_import(ws, takes)
    runner_for(ws).run_until_idle()
    return ws, list_flights(ws)[0].id


def unpacked(shelf: tuple[Workspace, int], folder: Path, *, blind: bool = False) -> Path:
    ws, flight = shelf
    write_page(ws, flight, folder / "page.zip", blind=blind)
    with zipfile.ZipFile(folder / "page.zip") as archive:
        archive.extractall(folder / "page")
    return folder / "page"


def opened(browser: Browser, url: str, *, tapped: bool = False) -> Page:
    page = new_page(browser, "http://127.0.0.1:9", tapped=tapped)
    page.goto(url)
    expect(page.get_by_role("heading", name="Two & <three>")).to_be_visible()
    expect(page.locator(".said")).to_contain_text(" · ")
    return page


@contextmanager
def any_host(folder: Path) -> Iterator[str]:
    """A host that only hands out files: a tap on the sound cannot be put into a page from a disk."""
    handler = partial(SimpleHTTPRequestHandler, directory=str(folder))
    with ThreadingHTTPServer(("127.0.0.1", 0), handler) as server:
        Thread(target=server.serve_forever, daemon=True).start()
        yield f"http://127.0.0.1:{server.server_port}/index.html"
        server.shutdown()


def test_the_page_opens_from_a_disk_and_plays(browser: Browser, shelf: tuple[Workspace, int], tmp_path: Path) -> None:
    page = opened(browser, (unpacked(shelf, tmp_path) / "index.html").as_uri())
    asked: list[str] = []
    page.on("request", lambda request: asked.append(request.url))
    page.keyboard.press("Space")
    expect(page.get_by_role("button", name="Pause the music")).to_be_visible()
    page.wait_for_function("Number(document.querySelector('.where').value) > 0.5")
    page.keyboard.press("2")
    expect(page.locator(".said")).to_contain_text("Birk")
    page.keyboard.press("t")
    expect(page.get_by_role("button", name="Birk")).to_be_visible()
    assert all(url.startswith("file:") for url in asked)
    assert serious(page, "listening page") == []
    assert page.problems == []  # type: ignore[attr-defined]


@pytest.mark.certify
def test_the_page_is_heard_without_a_gap_as_it_was_recorded(
    browser: Browser, shelf: tuple[Workspace, int], tmp_path: Path
) -> None:
    with any_host(unpacked(shelf, tmp_path)) as url:
        listen_to(opened(browser, url, tapped=True))


def listen_to(page: Page) -> None:
    first = page.locator(".said").inner_text().split(" · ")[1]
    page.keyboard.press("Space")
    expect(page.get_by_role("button", name="Pause the music")).to_be_visible()
    page.keyboard.press("Home")
    page.evaluate("window.heard = []")
    for key in ("2", "1", "ArrowRight", "1", "2"):
        hear_for(page, 0.35)
        page.keyboard.press(key)
    hear_for(page, 0.35)
    sound = heard(page)
    assert longest_silence(sound[RATE_HZ // 2 :]) < MAX_SILENCE_S
    page.keyboard.press("Space")
    # What is heard of one of them is its recording, at the level of the other.
    hz = {"Lead": 2.0, "Riff": 1.0}[first]
    levels = []
    for key, base in (("1", 196.0), ("2", 233.0)):
        page.keyboard.press(key)
        page.keyboard.press("Home")
        hear_anew(page)
        page.keyboard.press("Space")
        expect(page.get_by_role("button", name="Play the music")).to_be_visible(timeout=60_000)
        whole = heard(page)
        levels.append(20 * np.log10(np.sqrt(np.mean(whole[np.abs(whole) > 1e-4] ** 2))))
        recorded = plucks([0.4, 0.9, 1.3, 1.9, 2.4], hz * base, 12.0, 3.2)
        start = int(np.argmax(np.abs(whole) > 0.02))
        assert agreements(whole[start : start + RATE_HZ // 2], recorded).max() > 0.995
    assert abs(levels[0] - levels[1]) < 0.7
    page.keyboard.press("t")
    expect(page.locator(".said")).not_to_contain_text(first)
    assert page.problems == []  # type: ignore[attr-defined]


@pytest.mark.certify
def test_names_are_hidden_on_a_blind_page_until_somebody_reveals_them(
    browser: Browser, shelf: tuple[Workspace, int], tmp_path: Path
) -> None:
    page = opened(browser, (unpacked(shelf, tmp_path, blind=True) / "index.html").as_uri())
    expect(page.get_by_role("button", name=re.compile("Glass 1"))).to_be_visible()
    assert not re.search("Alder|Birk", page.locator("main").inner_text())
    page.get_by_role("button", name="Reveal the names").click()
    expect(page.get_by_role("button", name=re.compile("Alder"))).to_be_visible()


def test_a_reel_has_its_takes_one_after_the_other_with_marks_that_other_tools_read(
    shelf: tuple[Workspace, int], tmp_path: Path
) -> None:
    ws, flight = shelf
    for ending in ("wav", "flac"):
        made = write_reel(ws, flight, tmp_path / f"reel.{ending}")
        assert [path.suffix for path in made] == [f".{ending}", ".vtt", ".csv"]
    samples, rate = soundfile.read(tmp_path / "reel.wav")
    rows = list(csv.DictReader((tmp_path / "reel.csv").open(encoding="utf-8-sig")))
    assert [(row["contender"], row["test"]) for row in rows] == [
        (name, test) for test in dict.fromkeys(row["test"] for row in rows) for name in ("Alder", "Birk")
    ]
    spans = [(round(float(row["start s"]) * rate), round(float(row["end s"]) * rate)) for row in rows]
    loud = [10 * np.log10(np.mean(samples[start:end] ** 2)) for start, end in spans]
    assert max(loud) - min(loud) < 1.5
    assert np.abs(soundfile.read(tmp_path / "reel.flac")[0] - samples).max() < 1e-6
    probe = run(["ffprobe", "-v", "error", "-show_chapters", "-of", "csv", str(tmp_path / "reel.wav")], check=True,
                capture_output=True, text=True)  # fmt: skip
    starts = [float(line.split(",")[4]) for line in probe.stdout.splitlines()]
    assert starts == [pytest.approx(float(row["start s"]), abs=0.002) for row in rows]
    told = run(["ffprobe", "-v", "error", "-show_packets", "-of", "csv", str(tmp_path / "reel.vtt")], check=True,
               capture_output=True, text=True)  # fmt: skip
    assert len(told.stdout.splitlines()) == 4
    with declines(Refused, "no_such_format"):
        write_reel(ws, flight, tmp_path / "reel.mp3")
