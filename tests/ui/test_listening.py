"""Whatever the machine does, all contenders run on one clock."""

from __future__ import annotations

import re
import time
from collections.abc import Callable, Sequence
from pathlib import Path

import httpx
import numpy as np
import pytest
import scipy.signal
from playwright.sync_api import Browser, expect

from cata.core.clip import Clip
from cata.core.hearing.zwicker import exceeded, loudness_sone, third_octaves
from cata.media.encode import write_wav
from tests.conftest import Server, noise_file
from tests.tones import plucks
from tests.ui.conftest import heard, new_page
from tests.ui.hearing import check_switches, hear_for, heard_whole, listening_copy

# A machine that is busy elsewhere whenever a take is set going.
STALLED = """
(() => {
  const start = AudioBufferSourceNode.prototype.start;
  AudioBufferSourceNode.prototype.start = function (...rest) {
    const end = performance.now() + 40;
    start.apply(this, rest);
    while (performance.now() < end);
  };
})();
"""


def flown(server: Server, files: Sequence[Path]) -> str:
    """The address of a flight whose takes are read."""
    ident = httpx.post(f"{server.url}/api/flights", json={"name": "Which drive?"}).json()["id"]
    address = f"{server.url}/api/flights/{ident}"
    for path in files:
        sent = httpx.post(f"{address}/takes", content=path.read_bytes(), params={"name": path.name}, timeout=60)
        assert sent.status_code == 201
    httpx.post(f"{address}/takes/arrange")
    eventually(lambda: (said := httpx.get(address).json()["progress"])["done"] == len(files) and not said["auditing"])
    return address


def eventually(true: Callable[[], bool]) -> None:
    end = time.monotonic() + 120
    while not true():
        assert time.monotonic() < end
        time.sleep(0.1)


@pytest.fixture
def flight(fresh: Server, tmp_path: Path) -> str:
    """The address of a flight whose three takes are read."""
    names = enumerate(("Alder", "Birk", "Corm"))
    return flown(fresh, [noise_file(tmp_path / f"{name} - riff.wav", 4.0, seed) for seed, name in names])


@pytest.mark.certify
def test_contenders_stay_on_one_clock_on_a_busy_machine(
    browser: Browser, fresh: Server, flight: str, tmp_path: Path
) -> None:
    page = new_page(browser, fresh.url, tapped=True)
    page.context.add_init_script(STALLED)
    page.goto("/flights/1/listen")
    play = page.get_by_role("button", name="Play the music")
    expect(play).to_be_visible()
    page.keyboard.press("1")
    page.keyboard.press("Space")
    hear_for(page, 0.9)
    for key in ("2", "3", "1"):
        page.keyboard.press(key)
        hear_for(page, 0.5)
    page.keyboard.press("Space")
    expect(play).to_be_visible()
    takes = httpx.get(f"{flight}/tray/1").json()["takes"]
    files = {take["name"]: listening_copy(fresh, take["url"], tmp_path)[0] for take in takes}
    # The simulated interface of a busy machine drops some of what is played.
    check_switches(heard(page), list(files), files, {take["name"]: take["lag_s"] for take in takes}, least=5)
    page.context.close()


@pytest.mark.certify
def test_a_page_that_nobody_touches_asks_for_nothing(browser: Browser, fresh: Server, flight: str) -> None:
    page = new_page(browser, fresh.url)
    page.goto("/flights/1/listen")
    expect(page.get_by_role("button", name="Play the music")).to_be_visible()
    page.wait_for_timeout(1500)
    asked: list[str] = []
    page.on("request", lambda request: asked.append(request.url))
    page.wait_for_timeout(2000)
    assert asked == []
    page.context.close()


def tones_of_all_kinds(folder: Path) -> list[Path]:
    """One phrase clean, through a fuzz, and dark: equal meters, unequal ears."""
    clean = plucks([0.2 + 0.45 * n for n in range(8)], 196.0, 18.0, 4.0)
    dark = scipy.signal.lfilter(*scipy.signal.butter(2, 300.0, fs=48_000), clean)
    kinds = {"Clean": clean, "Fuzz": 0.2 * np.tanh(60 * clean), "Dark": dark}
    paths = [folder / f"{name} - riff.wav" for name in kinds]
    for path, samples in zip(paths, kinds.values(), strict=True):
        write_wav(Clip.of(samples / np.max(np.abs(samples)) * 0.5, 48_000), path)
    return paths


@pytest.mark.certify
def test_what_is_equal_to_the_ear_leaves_the_player_equally_loud_to_it(
    browser: Browser, fresh: Server, tmp_path: Path
) -> None:
    flight = flown(fresh, tones_of_all_kinds(tmp_path))
    page = new_page(browser, fresh.url, tapped=True)
    page.goto("/flights/1/listen")
    expect(page.get_by_role("button", name="Play the music")).to_be_visible()
    loud: dict[str, dict[str, float]] = {}
    takes = httpx.get(f"{flight}/tray/1").json()["takes"]
    # Heard in the background, after everything else.
    eventually(lambda: all(one["loudness_phon"] is not None for one in httpx.get(f"{flight}/tray/1").json()["takes"]))
    for school in ("equal", "by_ear"):
        if school == "by_ear":
            page.get_by_role("button", name=re.compile("^Level")).first.click()
            expect(page.get_by_role("button", name="Level: equal to the ear").first).to_be_visible()
        for number, take in enumerate(takes, start=1):
            sone = loudness_sone(third_octaves(heard_whole(page, number).astype(np.float32)))
            loud.setdefault(school, {})[take["name"]] = exceeded(sone)
    apart = {school: max(n5.values()) / min(n5.values()) for school, n5 in loud.items()}
    assert apart["by_ear"] < 1.05, loud
    assert apart["equal"] > 1.2, loud
    page.context.close()


def test_a_take_is_lined_up_by_keys_by_dragging_and_by_the_same_place_and_undo_takes_it_back(
    browser: Browser, fresh: Server, flight: str
) -> None:
    tests = httpx.get(flight).json()["tests"]

    def lag_ms(name: str) -> int:
        takes = httpx.get(f"{flight}/tray/{tests[0]['id']}").json()["takes"]
        return round(1000 * next(take["lag_s"] for take in takes if take["name"] == name))

    before = lag_ms("Birk")
    page = new_page(browser, fresh.url)
    page.goto(f"/flights/{flight.rsplit('/', 1)[1]}/listen")
    hand = page.get_by_role("region", name="Line up by hand")
    page.get_by_role("group", name="Pour a contender").get_by_role("button", name="Birk").click()
    page.keyboard.press("h")
    expect(hand).to_contain_text("Birk: not moved, not lined up")
    for key in ("Shift+ArrowRight", "Shift+ArrowRight", "Control+ArrowLeft", "Control+Shift+ArrowRight"):
        page.keyboard.press(key)
    expect(hand).to_contain_text("Birk: moved 119 ms later, by hand")
    assert lag_ms("Birk") == before - 119
    # A slow machine may have kept them in several steps.
    while lag_ms("Birk") != before:
        page.keyboard.press("Control+z")
        page.wait_for_timeout(500)
    expect(hand).to_contain_text("Birk: not moved, not lined up")
    # The reference stays where it is.
    page.get_by_role("group", name="Pour a contender").get_by_role("button", name="Alder").click()
    expect(hand).to_contain_text("the others are lined up with it")
    # The same place: marked at the start of one, then found a second later in the other.
    page.keyboard.press("p")
    page.get_by_role("group", name="Pour a contender").get_by_role("button", name="Corm").click()
    box = page.locator("div.touch-none").first.bounding_box()
    assert box is not None
    page.mouse.click(box["x"] + box["width"] / 4, box["y"] + 5)
    hand.get_by_role("button", name="Same place as in Alder").click()
    expect(hand).to_contain_text("earlier, by hand")
    assert lag_ms("Corm") == pytest.approx(1000, abs=20)
    # A lane that is dragged.
    page.mouse.move(box["x"] + 300, box["y"] + box["height"] / 2)
    page.mouse.down()
    page.mouse.move(box["x"] + 340, box["y"] + box["height"] / 2, steps=4)
    page.mouse.up()
    eventually(lambda: lag_ms("Birk") < before - 50)
    assert page.problems == []  # type: ignore[attr-defined]
