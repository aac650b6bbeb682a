"""Whatever the machine does, all contenders run on one clock."""

from __future__ import annotations

import time
from pathlib import Path

import httpx
import pytest
from playwright.sync_api import Browser, expect

from tests.conftest import Server, noise_file
from tests.ui.conftest import heard, new_page
from tests.ui.hearing import check_switches, hear_for, listening_copy

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


@pytest.fixture
def flight(fresh: Server, tmp_path: Path) -> str:
    """The address of a flight whose three takes are read."""
    ident = httpx.post(f"{fresh.url}/api/flights", json={"name": "Which drive?"}).json()["id"]
    address = f"{fresh.url}/api/flights/{ident}"
    for seed, name in enumerate(("Alder", "Birk", "Corm")):
        body = noise_file(tmp_path / f"{name}.wav", 4.0, seed).read_bytes()
        assert (
            httpx.post(f"{address}/takes", content=body, params={"name": f"{name} - riff.wav"}, timeout=60).status_code
            == 201
        )
    httpx.post(f"{address}/takes/arrange")
    end = time.monotonic() + 120
    while (said := httpx.get(address).json()["progress"])["done"] < 3 or said["auditing"]:
        assert time.monotonic() < end
        time.sleep(0.1)
    return address


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
    check_switches(heard(page), list(files), files, {take["name"]: take["lag_s"] for take in takes})
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
