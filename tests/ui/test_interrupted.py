"""Recording that is interrupted: every finished take is kept, and what is missing is said."""

from __future__ import annotations

import base64
import json
import re
import signal
from collections.abc import Iterator
from pathlib import Path

import httpx
import numpy as np
import pytest
import soundfile
from playwright.sync_api import Browser, Page, Playwright, expect

from tests.conftest import Server
from tests.ui.conftest import interface_playing, new_page


@pytest.fixture
def interface(driver: Playwright, tmp_path: Path) -> Iterator[Browser]:
    wire = tmp_path / "wire.wav"
    soundfile.write(wire, np.random.default_rng(1).normal(0, 0.05, 48_000 * 4), 48_000, subtype="PCM_16")
    with interface_playing(driver, wire) as browser:
        yield browser


def a_flight(url: str) -> None:
    """Two contenders in one test, in an order of two takes."""
    httpx.post(f"{url}/api/flights", json={"name": "Drives", "link": "pedal"})
    for name in ("Alder", "Birk"):
        httpx.post(f"{url}/api/flights/1/contenders", json={"name": name})
    httpx.post(f"{url}/api/flights/1/tests", json={"name": "Riff"})
    httpx.post(f"{url}/api/flights/1/order", json={"anchors": False}, timeout=60)


def begin(page: Page) -> None:
    expect(page.get_by_role("button", name="Record")).to_be_visible()
    page.keyboard.press("r")
    expect(page.get_by_role("status").filter(has_text=re.compile(r"^[1-9]\.\d s"))).to_be_visible(timeout=30_000)


@pytest.mark.certify
def test_a_closed_tab_keeps_the_finished_takes_and_the_next_one_says_what_is_missing(
    interface: Browser, fresh: Server
) -> None:
    a_flight(fresh.url)
    page = new_page(interface, fresh.url)
    page.goto("/flights/1/next")
    begin(page)
    page.keyboard.press("r")
    expect(page.get_by_text("Take 1 is safe.")).to_be_visible()
    expect(page.get_by_label("Take 2", exact=True)).to_be_visible()
    begin(page)
    page.context.close()
    again = new_page(interface, fresh.url)
    again.goto("/flights/1/next")
    expect(again.get_by_label("Take 2", exact=True)).to_be_visible()
    expect(again.get_by_text("1 still to record")).to_be_visible()
    takes = httpx.get(f"{fresh.url}/api/flights/1").json()["takes"]
    assert len(takes) == 1


@pytest.mark.certify
def test_a_take_that_a_killed_server_could_not_receive_is_kept_and_sent_when_it_is_back(
    interface: Browser, tmp_path: Path
) -> None:
    server = Server("serve", tmp_path / "data")
    server.wait()
    a_flight(server.url)
    page = new_page(interface, server.url)
    page.goto("/flights/1/next")
    begin(page)
    server.stop(signal.SIGKILL)
    page.keyboard.press("r")
    expect(page.get_by_role("alert").filter(has_text="1 take not sent yet")).to_be_visible()
    back = Server("serve", tmp_path / "data", port=server.port)
    try:
        back.wait()
        expect(page.get_by_text("1 take not sent yet")).to_have_count(0, timeout=60_000)
        assert len(httpx.get(f"{back.url}/api/flights/1").json()["takes"]) == 1
    finally:
        page.context.close()
        back.stop(signal.SIGKILL)


@pytest.mark.certify
def test_a_full_disk_is_told_and_the_take_can_be_sent_again(interface: Browser, fresh: Server) -> None:
    a_flight(fresh.url)
    page = new_page(interface, fresh.url)
    full = '{"detail": "The disk is full. Nothing that was taken before is lost; make room and try again."}'
    page.route("**/takes?**", lambda route: route.fulfill(status=507, body=full))
    page.goto("/flights/1/next")
    begin(page)
    page.keyboard.press("r")
    expect(page.get_by_role("alert").filter(has_text="The disk is full").first).to_be_visible()
    expect(page.get_by_text("1 take not sent yet")).to_be_visible()
    page.unroute("**/takes?**")
    page.get_by_role("button", name="Send again").click()
    expect(page.get_by_text("1 take not sent yet")).to_have_count(0)
    assert len(httpx.get(f"{fresh.url}/api/flights/1").json()["takes"]) == 1


@pytest.mark.certify
def test_a_shelf_of_a_thousand_items_comes_in_pages(browser: Browser, fresh: Server) -> None:
    knob = {"key": "drive", "name": "Drive"}
    rows = [{"kind": "pedal", "name": f"Item {i:04d}", "controls": [knob]} for i in range(1000)]
    content = base64.b64encode(json.dumps(rows).encode()).decode()
    httpx.post(f"{fresh.url}/api/gear/import", json={"content": content, "dry_run": False}, timeout=60)
    page = new_page(browser, fresh.url)
    page.goto("/gear")
    expect(page.get_by_text("1–100 of 1000")).to_be_visible()
    expect(page.get_by_role("row")).to_have_count(101)
    page.get_by_role("button", name="Later").click()
    expect(page.get_by_role("link", name="Item 0100")).to_be_visible()
    page.get_by_label("Search").fill("0777")
    expect(page.get_by_role("link", name="Item 0777")).to_be_visible()
    expect(page.get_by_role("row")).to_have_count(2)
    page.context.close()
