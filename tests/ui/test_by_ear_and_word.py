"""Verdict's folds in the browser: a word is taught by keyboard, takes are heard in one tone and beside a target."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import soundfile
from playwright.sync_api import Browser, Page, expect
from scipy import signal

from tests.conftest import Server
from tests.tones import plucks
from tests.ui.conftest import heard, new_page
from tests.ui.hearing import hear_again
from tests.ui.test_listening import flown
from tests.ui.test_pages import serious

RATE_HZ = 48_000


@pytest.fixture
def flight(fresh: Server, tmp_path: Path) -> list[Path]:
    """Two takes of one tune: as it is, and with its lows cut."""
    starts = [0.1 + 0.4 * n for n in range(20)]
    # The same stroke of a string with all its partials again and again: any second of it sounds like any other.
    tune = sum(plucks(starts, 110.0 * n, 5.0, 8.3) / n for n in range(1, 60))
    thin = signal.sosfilt(signal.butter(1, 400, "high", fs=RATE_HZ, output="sos"), tune)
    files = []
    for name, samples in (("Alder", tune), ("Birk", thin)):
        files.append(tmp_path / f"{name} - riff.wav")
        soundfile.write(files[-1], 0.4 * samples / np.abs(samples).max(), RATE_HZ, subtype="PCM_24")
    flown(fresh, files)
    return files


def lows(page: Page) -> float:
    """The share of what is heard now that lies below 300 Hz, in dB."""
    hear_again(page, 1.2)
    power = np.abs(np.fft.rfft(heard(page))) ** 2
    hz = np.fft.rfftfreq(2 * (len(power) - 1), 1 / RATE_HZ)
    return float(10 * np.log10(power[hz < 300].sum() / power.sum()))


def test_a_word_is_taught_in_the_verdict_by_keyboard(browser: Browser, fresh: Server, flight: list[Path]) -> None:
    page = new_page(browser, fresh.url)
    page.goto("/flights/1/verdict")
    page.get_by_text("By a word", exact=True).press("Enter")
    rows = page.get_by_role("list", name="By the word boxy").get_by_role("listitem")
    expect(rows).to_have_count(2)
    page.get_by_label("Who is the most").select_option("bassy")
    expect(page.get_by_text("Alder is the most bassy of them, Birk the least.")).to_be_visible()
    page.get_by_label("as used by").fill("Ida")
    page.get_by_role("button", name="Birk is bassy").focus()
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="Birk is bassy")).to_have_attribute("aria-pressed", "true")
    expect(page.get_by_text("Learnt from one take")).to_be_visible()
    whose = page.locator("label", has_text="The word").locator("select")
    expect(whose).to_have_value("Ida")
    assert serious(page, "words") == []
    page.keyboard.press("Control+z")
    expect(whose).to_have_count(0)
    expect(page.get_by_text("Alder is the most bassy of them, Birk the least.")).to_be_visible()
    assert page.problems == []  # type: ignore[attr-defined]


@pytest.mark.certify
def test_takes_are_heard_in_one_tone_by_one_key_and_beside_a_sound_that_is_sought(
    browser: Browser, fresh: Server, flight: list[Path]
) -> None:
    page = new_page(browser, fresh.url, tapped=True)
    page.goto("/flights/1/verdict")
    page.get_by_text("What is left after an equaliser", exact=True).press("Enter")
    expect(page.get_by_text("differ by their tone only")).to_be_visible()
    page.get_by_role("button", name="Hear them in this tone").click()
    expect(page.get_by_role("button", name="in the tone of A")).to_be_visible()
    page.keyboard.press("1")
    as_it_is = lows(page)
    page.keyboard.press("2")
    assert abs(lows(page) - as_it_is) < 1.0
    page.keyboard.press("q")
    expect(page.get_by_role("button", name="in the tone of A")).to_have_count(0)
    assert lows(page) < as_it_is - 2.5
    page.get_by_text("A sound you are after", exact=True).press("Enter")
    page.get_by_label("Add a recording of it").set_input_files(flight[0])
    expect(page.get_by_text("Alder is nearest to Alder - riff")).to_be_visible(timeout=30_000)
    assert serious(page, "target") == []
    page.get_by_role("button", name="Hear it with them").click()
    expect(page.get_by_role("button", name="with the target")).to_be_visible()
    assert abs(lows(page) - as_it_is) < 1.0
    page.get_by_role("button", name="remove this sound").click()
    expect(page.get_by_role("button", name="with the target")).to_have_count(0)
    assert page.problems == []  # type: ignore[attr-defined]


@pytest.mark.certify
def test_layers_are_heard_together_and_without_one_of_them(browser: Browser, fresh: Server, flight: list[Path]) -> None:
    page = new_page(browser, fresh.url, tapped=True)
    page.goto("/flights/1/blend")
    page.get_by_text("Layers of two to four", exact=True).press("Enter")
    chosen = page.get_by_role("group", name="Laid over each other")
    chosen.get_by_role("button", name="Alder").click()
    chosen.get_by_role("button", name="Birk").click()
    expect(page.get_by_text("upper mids")).to_be_visible()
    page.get_by_role("button", name="Play the layers").click()
    expect(page.get_by_role("button", name="Pause the layers")).to_be_visible()
    both = lows(page)
    page.get_by_role("checkbox", name="Alder").uncheck()
    assert lows(page) < both - 1.0
    page.get_by_role("button", name="Play the music").click()
    expect(page.get_by_role("button", name="Play the layers")).to_be_visible()
    assert serious(page, "layers") == []
    assert page.problems == []  # type: ignore[attr-defined]
