"""Measuring in the browser: the file downloaded, played through a device, its recording dropped, four answers read."""

from __future__ import annotations

import re
from pathlib import Path

import httpx
import numpy as np
import pytest
import soundfile
from playwright.sync_api import Browser, Page, expect

from cata.core.bench.pedals import PEDALS
from tests.bench import rehearse_strings
from tests.conftest import Server
from tests.ui.conftest import heard, new_page
from tests.ui.hearing import hear_for

SETTINGS = (
    {"Drive": "0", "Tone": "5"},
    {"Drive": "10", "Tone": "5"},
    {"Drive": "0", "Tone": "0"},
    {"Drive": "0", "Tone": "10"},
)


def make_item(page: Page) -> None:
    page.goto("/gear")
    page.get_by_placeholder("its name").fill("Quillon Ridge")
    page.get_by_label("Kind of the new item").select_option("pedal")
    page.get_by_role("button", name="Add", exact=True).click()
    expect(page.get_by_label("New knob")).to_be_visible()
    for knob in ("Drive", "Tone"):
        page.get_by_label("New knob").fill(knob)
        page.get_by_role("button", name="Add knob").click()
        expect(page.get_by_role("slider", name=knob)).to_be_visible()


def play_through(sent: Path, returned: Path, settings: dict[str, str], seed: int) -> None:
    """The world outside: an interface with latency and hiss, and a pedal between its sockets."""
    samples, rate = soundfile.read(str(sent), dtype="float32")
    assert rate == 48000
    rng = np.random.default_rng(seed)
    knobs = {key.lower(): float(value) / 10 for key, value in settings.items()}
    through = PEDALS["mid-hump"].render(np.pad(samples, (7_000 + 900 * seed, 20_000)), knobs)
    hiss = rng.standard_normal(len(through)) * 3e-4
    soundfile.write(str(returned), (through * 0.3 + hiss).astype(np.float32), rate, subtype="PCM_24")


@pytest.mark.certify
def test_a_new_user_measures_a_pedal_and_reads_the_four_questions(
    browser: Browser, fresh: Server, tmp_path: Path
) -> None:
    page = new_page(browser, fresh.url, tapped=True)
    make_item(page)
    page.get_by_role("link", name="Measure it").click()
    expect(page.get_by_role("heading", name="Quillon Ridge, measured")).to_be_visible()
    expect(page.get_by_role("img", name="Interface output to the device")).to_be_visible()
    with page.expect_download() as download:
        page.get_by_role("link", name="Test file, 48 kHz").click()
    sent = tmp_path / "sent.wav"
    download.value.save_as(sent)
    for number, settings in enumerate(SETTINGS):
        returned = tmp_path / f"{number}.wav"
        play_through(sent, returned, settings, number)
        for knob, text in settings.items():
            typed = page.get_by_label(f"{knob} of Quillon Ridge, typed")
            typed.fill(text)
            typed.press("Enter")
        page.get_by_label("Choose the recording").set_input_files(str(returned))
        expect(page.locator("details[data-probe]")).to_have_count(number + 1)
    expect(page.locator("details[data-probe=read]")).to_have_count(len(SETTINGS), timeout=90_000)
    most = page.locator("[data-question=most]")
    expect(most).to_contain_text("Drive 10")
    expect(most).to_contain_text("% of distortion")
    expect(page.locator("[data-question=clean]")).to_contain_text("Cleanest at Drive 0")
    expect(page.locator("[data-question=controls]")).to_contain_text("Tone lifts the")
    expect(page.locator("[data-question=pleasant]")).to_contain_text("breaks up")
    drive = page.get_by_label("A place of Drive")
    drive.fill("0.3")
    status = page.get_by_role("status").filter(has_text="At ")
    expect(status).to_have_text("At 3 drawn between measured places")
    drive.press("End")
    expect(status).to_have_text("At 10 measured")
    most.get_by_role("button", name="Hear the two settings").click()
    tray = page.get_by_role("region", name="The tray")
    expect(tray.get_by_role("button", name="Pause")).to_be_visible()
    expect(tray).to_contain_text("Drive 10")
    hear_for(page, 2.0)
    loud = heard(page)
    assert np.sqrt(np.mean(loud[-24000:] ** 2)) > 1e-3
    page.keyboard.press("ArrowRight")
    page.keyboard.press("t")
    expect(tray.get_by_label("Test")).to_have_value("pleasant")
    page.locator("details[data-probe]").first.locator("summary").click()
    expect(page.locator("details[data-probe]").first).to_contain_text("Headroom")
    page.get_by_role("button", name="Remove Drive 0, Tone 10").click()
    expect(page.locator("details[data-probe]")).to_have_count(len(SETTINGS) - 1)
    page.keyboard.press("Control+z")
    expect(page.locator("details[data-probe]")).to_have_count(len(SETTINGS))
    page.get_by_role("link", name="What each reading means").click()
    expect(page.get_by_role("heading", name="Readings: what they mean")).to_be_visible()
    expect(page.get_by_role("cell", name=re.compile("^breakup")).first).to_be_visible()
    assert page.problems == []  # type: ignore[attr-defined]


@pytest.mark.certify
def test_a_wrong_recording_says_what_is_wrong_and_the_bench_stands_in(
    browser: Browser, fresh: Server, tmp_path: Path
) -> None:
    page = new_page(browser, fresh.url)
    make_item(page)
    page.get_by_label("Description").fill("A mid-hump drive")
    page.get_by_label("Description").blur()
    page.get_by_role("link", name="Measure it").click()
    wrong = tmp_path / "wrong.wav"
    soundfile.write(str(wrong), np.random.default_rng(1).standard_normal(200_000) * 0.1, 48000)
    page.get_by_label("Choose the recording").set_input_files(str(wrong))
    expect(page.get_by_role("alert")).to_contain_text("no slate found")
    text = tmp_path / "text.wav"
    text.write_text("no sound at all")
    page.get_by_label("Choose the recording").set_input_files(str(text))
    expect(page.get_by_text("not a readable WAV").first).to_be_visible()
    page.get_by_role("button", name="Measure its stand-in on the bench").click()
    expect(page.locator("details[data-probe=read]")).to_have_count(1, timeout=90_000)
    expect(page.locator("details[data-probe=read]")).to_contain_text("bench stand-in")
    assert page.problems == []  # type: ignore[attr-defined]


@pytest.mark.certify
def test_the_demo_compares_two_measured_items_in_words(browser: Browser, demo: Server) -> None:
    page = new_page(browser, demo.url)
    page.goto("/gear/1/measure")
    choose = page.get_by_label("Aldermoor Hump against")
    expect(choose.get_by_role("option", name="Birkwater Clearing")).to_be_attached(timeout=180_000)
    choose.select_option(label="Birkwater Clearing")
    table = page.get_by_role("region", name="Against another").get_by_role("table")
    expect(table).to_contain_text("Birkwater Clearing: ")
    expect(table.get_by_role("row").nth(1)).not_to_contain_text("no difference you can trust")
    page.goto("/gear")
    row = page.get_by_role("row").filter(has_text="Aldermoor Hump")
    expect(row.get_by_role("img", name="Fingerprint")).to_be_visible()
    assert page.problems == []  # type: ignore[attr-defined]


@pytest.mark.certify
def test_a_pickup_is_heard_by_its_strings_and_raised(browser: Browser, fresh: Server, tmp_path: Path) -> None:
    specs = {"coils": 1, "inductance_h": 2.5, "dc_resistance_kohm": 6.5, "position": "bridge"}
    httpx.post(f"{fresh.url}/api/gear", json={"kind": "pickup", "name": "Reed Single", "specs": specs})
    page = new_page(browser, fresh.url, tapped=True)
    page.goto("/gear/1/measure")
    expect(page.get_by_label("Position")).to_have_value("bridge")
    for number, height in enumerate(("3.0", "1,4")):
        path = tmp_path / f"strings {number}.wav"
        millimetres = float(height.replace(",", "."))
        rehearse_strings(specs, {"bass_mm": millimetres, "treble_mm": millimetres}, path, number + 1)
        for side in ("Bass side, mm", "Treble side, mm"):
            page.get_by_label(side).fill(height)
            page.get_by_label(side).blur()
        page.get_by_label("Choose the recording of the strings").set_input_files(str(path))
        table = page.get_by_role("table", name="Pickups by their strings")
        expect(table.get_by_role("row")).to_have_count(number + 2)
    expect(table.get_by_text("the others are held against it")).to_be_visible()
    near = table.get_by_role("row").filter(has_text="1.4 / 1.4 mm")
    expect(near).to_contain_text("dB ±")
    expect(near).to_contain_text("cents")
    expect(page.get_by_text("At 1.4 mm the strings waver")).to_be_visible()
    near.get_by_role("radio").check()
    expect(near).to_contain_text("the others are held against it")
    page.get_by_role("button", name="Hear them").click()
    tray = page.get_by_role("region", name="The tray")
    expect(tray.get_by_role("button", name="Pause")).to_be_visible()
    expect(tray).to_contain_text("Reed Single, bridge, 1.4/1.4 mm")
    hear_for(page, 2.5)
    assert np.sqrt(np.mean(heard(page)[-24000:] ** 2)) > 1e-3
    page.get_by_role("button", name="Remove Reed Single 1.4 / 1.4 mm").click()
    expect(table.get_by_role("row")).to_have_count(2)
    page.keyboard.press("Control+z")
    expect(table.get_by_role("row")).to_have_count(3)
    before = page.get_by_text("of cable (450 pF) it rings at")
    expect(before).to_be_visible()
    page.get_by_label("Cable:").press("End")
    expect(page.get_by_text("With 15 m of cable (1500 pF)")).to_be_visible()
    page.get_by_role("button", name="Cable as it was").click()
    expect(before).to_be_visible()
    assert page.problems == []  # type: ignore[attr-defined]
