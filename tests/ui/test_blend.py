"""Two sources mixed in the browser: what is heard is the sum that the fader and the two switches say."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import soundfile
from playwright.sync_api import Browser, Page, expect

from tests.conftest import Server
from tests.tones import plucks
from tests.ui.conftest import heard, new_page
from tests.ui.hearing import hear_again
from tests.ui.test_listening import flown
from tests.ui.test_pages import serious

RATE_HZ, LAG = 48_000, 240


def level(page: Page) -> float:
    """How loud what is heard now is, in dB; at rest for a moment first, so that no fade is in it."""
    hear_again(page, 0.6)
    return float(10 * np.log10(np.mean(heard(page) ** 2) + 1e-12))


def test_a_blend_is_heard_while_its_fader_moves_and_finds_its_target(
    browser: Browser, fresh: Server, tmp_path: Path
) -> None:
    # A tone that goes on: how loud the sum is says what is in it.
    one = np.concatenate([plucks([0.1 + 0.4 * n for n in range(20)], 196.0, 3.0, 8.1)])
    other = -0.5 * np.concatenate((np.zeros(LAG), one))[: len(one)]
    target = one - 0.7 * np.concatenate((other[LAG:], np.zeros(LAG)))
    files = []
    for name, samples in (("Alder", one), ("Birk", other), ("Corm", 0.5 * target)):
        files.append(tmp_path / f"{name} - riff.wav")
        soundfile.write(files[-1], 0.4 * samples, RATE_HZ, subtype="PCM_24")
    flown(fresh, files)
    page = new_page(browser, fresh.url, tapped=True)
    page.goto("/flights/1/listen")
    page.get_by_role("link", name="Blend two").click()
    expect(page.get_by_text("The polarities are opposite")).to_be_visible()
    expect(page.get_by_text("The second is 5.00 ms later")).to_be_visible()
    assert serious(page, "blend") == []
    page.keyboard.press("1")
    page.keyboard.press("Space")
    expect(page.get_by_role("button", name="Pause the music")).to_be_visible()
    alone = level(page)
    page.keyboard.press("2")
    assert abs(level(page) - alone + 6.0) < 1.0
    # Lined up at one level and of opposite polarity nothing is left; turned, both add up.
    page.keyboard.press("3")
    page.get_by_label("line it up").check()
    for _ in range(6):
        page.keyboard.press("+")
    expect(page.get_by_text("6.0 dB", exact=True)).to_be_visible()
    assert level(page) < alone - 35
    page.get_by_label("turn its polarity").check()
    assert abs(level(page) - alone - 6.0) < 1.0
    for _ in range(12):
        page.keyboard.press("-")
    assert abs(level(page) - alone - 20 * np.log10(1.25)) < 1.0
    # Left and right they no longer meet; the tap hears the left.
    page.get_by_label("one left, one right").check()
    expect(page.get_by_text("of what they have is their own")).to_be_visible()
    assert abs(level(page) - alone) < 1.0
    page.get_by_label("one left, one right").uncheck()
    page.keyboard.press("Space")
    page.get_by_label("Nearest to").select_option(label="Corm")
    page.get_by_role("button", name="Nearest to the target").click()
    expect(page.get_by_label("turn its polarity")).to_be_checked()
    assert page.problems == []  # type: ignore[attr-defined]


@pytest.mark.certify
def test_what_is_left_after_an_equaliser_is_told_in_the_verdict(browser: Browser, demo: Server) -> None:
    page = new_page(browser, demo.url)
    page.goto("/flights/1/verdict")
    expect(page.get_by_text("Tasted blind")).to_be_visible()
    page.get_by_text("What is left after an equaliser").click()
    page.get_by_label("In the test").select_option(label="Lead line")
    page.get_by_label("Brought to the tone of").select_option(label="Aldermoor Hump")
    expect(page.get_by_text("An equaliser explains").first).to_be_visible()
    with page.expect_download() as download:
        page.get_by_role("link", name="The equaliser for Dapplegrim Wool").click()
    samples, rate = soundfile.read(download.value.path())
    assert (rate, len(samples)) == (RATE_HZ, 8_192)
    assert int(np.abs(samples).argmax()) < 50
