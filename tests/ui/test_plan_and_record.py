"""Plan and record, as a new user does it: gear from a file, a plan, its order, and takes in five ways."""

from __future__ import annotations

import io
import re
from pathlib import Path

import httpx
import numpy as np
import pytest
import scipy.signal
import soundfile
from playwright.sync_api import Page, Playwright, expect

from cata.core.bench.chain import ChainSettings, record
from cata.core.bench.pedals import PEDALS
from cata.core.signals.slate import SlateMark, slate
from tests.conftest import Server, until
from tests.ui.conftest import interface_playing, new_page

SHELF = """Kind;Name;Description;Knobs;Price;Used;Current draw;Weight
Pedal;Alderfen Hump;mid-hump drive;Drive 0-10 = 4.5; Tone; Level;129,00;80;6 mA;0,4 kg
Pedal;Birkholm Clear;transparent drive;"Gain clock = 12:00; Bass; Treble; Volume";239,00;;9;
Pedal;Cormrigg Slab;hard-clip distortion;"Distortion; Filter; Volume";99;;5 mA;
Pedal;Dunmarsh Wool;fuzz, two stages;"Fuzz percent = 55 %; Tone; Volume";189;;3;
amp;Ebbfield Twenty;clean platform amplifier;"Volume; Bass; Middle; Treble";680;490;;23 kg
toaster;Nothing;;;;;;
"""
DRIVES = ("Alderfen Hump", "Birkholm Clear", "Cormrigg Slab", "Dunmarsh Wool")


def shelf_file(path: Path) -> Path:
    # The first row's knobs are not quoted: a spreadsheet would have done it.
    text = SHELF.replace("Drive 0-10 = 4.5; Tone; Level;", '"Drive 0-10 = 4.5; Tone; Level";')
    path.write_bytes(text.encode("cp1252"))
    return path


def import_gear(page: Page, path: Path) -> None:
    page.goto("/gear")
    page.get_by_role("link", name="Read in a file").click()
    page.get_by_label("Shelf file", exact=True).set_input_files(path)
    expect(page.get_by_role("status").filter(has_text="left out")).to_contain_text("5 new")
    expect(page.get_by_text("'toaster' is no kind of gear")).to_be_visible()
    page.get_by_role("button", name="Put 5 on the shelf").click()
    expect(page.get_by_role("link", name="Dunmarsh Wool")).to_be_visible()


def plan_flight(page: Page) -> None:
    page.goto("/flights")
    page.get_by_label("New flight").fill("Which drive on the clean platform?")
    page.get_by_role("button", name="Start").click()
    page.get_by_role("link", name=re.compile("^Plan")).click()
    page.get_by_label("What is compared").select_option("pedal")
    for name in (*DRIVES, "No pedal"):
        page.get_by_label("New contender").fill(name)
        page.get_by_label("New contender").press("Enter")
        expect(page.get_by_label("New contender")).to_have_value("")
    page.get_by_role("button", name="Add this set").click()
    expect(page.get_by_label("Name of test 7")).to_have_value("Tone up, drive full")
    page.get_by_role("combobox", name="Which amplifier").fill("Ebbfield Twenty")
    page.get_by_role("combobox", name="Which amplifier").press("Enter")
    treble = page.get_by_label("Treble of Ebbfield Twenty, typed")
    treble.fill("6.5")
    treble.press("Enter")
    expect(treble).to_have_value("6.5")


def order_takes(page: Page) -> None:
    page.get_by_role("button", name="Order the takes").click()
    expect(page.get_by_text(re.compile("for 37 takes"))).to_be_visible(timeout=60_000)
    expect(page.get_by_text(re.compile("one more contender"))).to_be_visible()
    expect(page.get_by_role("list", name="Takes in order").get_by_text(re.compile("anchor"))).to_have_count(3)


def steps_of(url: str) -> list[dict]:
    return httpx.get(f"{url}/api/flights/1/order").json()["steps"]


def open_steps(url: str) -> list[dict]:
    return [step for step in steps_of(url) if step["state"] != "done"]


@pytest.mark.certify
def test_from_a_shelf_file_to_a_checked_flight_in_five_ways(driver: Playwright, fresh: Server, tmp_path: Path) -> None:
    heard = record(ChainSettings(phrase="soft-to-hard", pedal="mid-hump"))
    wire = tmp_path / "wire.wav"
    soundfile.write(wire, heard.samples.T, 48_000, subtype="PCM_16")
    with interface_playing(driver, wire) as browser:
        page = new_page(browser, fresh.url)
        import_gear(page, shelf_file(tmp_path / "shelf.csv"))
        plan_flight(page)
        order_takes(page)
        sheet_is_printed(page, tmp_path)
        recorded_here(page, fresh.url, heard.samples[0])
        dropped_in_order(page, fresh.url, tmp_path)
        cut_by_slates(page, fresh.url, tmp_path)
        reamped(page, fresh.url, tmp_path)
        rehearsed(page, fresh.url)
        checked_and_redone(page, fresh.url)
        assert page.problems == []  # type: ignore[attr-defined]


def sheet_is_printed(page: Page, tmp_path: Path) -> None:
    page.get_by_role("link", name="Take sheet").first.click()
    expect(page.get_by_text(re.compile("Valve amplifier: connect its speaker")).first).to_be_visible()
    expect(page.get_by_text(re.compile("Lifting: Ebbfield Twenty weighs 23 kg")).first).to_be_visible()
    pdf = page.pdf()
    # All takes are on paper, not only those that fit on the screen.
    assert len(re.findall(rb"/Type\s*/Page\b", pdf)) >= 3


def recorded_here(page: Page, url: str, wire: np.ndarray) -> None:
    """(c) From the interface, with one key, straight into its place; what came in is what is kept."""
    page.get_by_role("link", name="Next take, large").click()
    first = open_steps(url)[0]
    expect(page.get_by_label(f"Take {first['number']}", exact=True)).to_be_visible()
    page.keyboard.press("r")
    expect(page.get_by_role("button", name="Stop and keep")).to_be_visible()
    expect(page.get_by_role("status").filter(has_text=re.compile(r"^[3-9]\.\d s"))).to_be_visible(timeout=30_000)
    page.keyboard.press("r")
    expect(page.get_by_text(f"Take {first['number']} is safe.")).to_be_visible()
    take = next(step for step in steps_of(url) if step["number"] == first["number"])
    assert take["state"] == "done"
    audio = f"{url}/api/takes/{take['take_id']}/audio"
    kept = until(lambda: httpx.get(audio, timeout=60), lambda answer: answer.status_code != 409)
    correlation, gain = as_it_came(kept.content, wire)
    assert correlation > 0.99
    assert gain == pytest.approx(1.0, abs=0.02)
    # What a busy interface dropped is rightly to be played again: the same playing without it takes the place.
    whole = io.BytesIO()
    soundfile.write(whole, wire, 48_000, format="WAV", subtype="PCM_24")
    place = {"name": "whole.wav", "planned_id": first["planned_id"]}
    httpx.post(f"{url}/api/flights/1/takes", params=place, content=whole.getvalue(), timeout=60).raise_for_status()


def as_it_came(flac: bytes, wire: np.ndarray) -> tuple[float, float]:
    """Correlation and gain of short pieces against the wire at their best place, as three quarters of them have it.

    Gain control, echo cancelling or noise suppression would show in all of them; that the simulated interface of a busy
    machine drops some milliseconds, and often, is its own affair.
    """
    samples, rate = soundfile.read(io.BytesIO(flac), dtype="float32", always_2d=True)
    assert rate == 48_000
    return unchanged(samples[:, 0], wire)


def unchanged(heard: np.ndarray, wire: np.ndarray) -> tuple[float, float]:
    twice = np.concatenate((wire, wire)).astype(np.float64)
    size, found = 1200, []
    energy = np.convolve(twice**2, np.ones(size), "valid")
    for start in range(24_000, 130_000, 4_000):
        cut = heard[start : start + size].astype(np.float64)
        if np.linalg.norm(cut) < 1e-3:
            continue  # a busy machine's simulated interface drops whole stretches
        r = scipy.signal.correlate(twice, cut, "valid") / np.sqrt(np.maximum(energy, 1e-3))
        at = int(np.argmax(r))
        there = twice[at : at + size]
        found.append((r[at] / np.linalg.norm(cut), np.linalg.norm(cut) / np.linalg.norm(there)))
    whole = sorted(found)[len(found) * 3 // 4 :]
    correlation, gain = np.median(np.array(whole), axis=0)
    return float(correlation), float(gain)


def take_file(path: Path, step: dict, seed: int) -> Path:
    clip = record(ChainSettings(phrase=step["phrase"], pedal="hard-clip", seed=seed))
    soundfile.write(path, clip.samples.T, 48_000, subtype="PCM_24")
    return path


def dropped_in_order(page: Page, url: str, tmp_path: Path) -> None:
    """(a) Files whose names say nothing but their order."""
    steps = open_steps(url)[:2]
    files = [take_file(tmp_path / f"REC_{9 + i}.wav", step, 1) for i, step in enumerate(steps)]
    page.goto("/flights/1/takes")
    page.get_by_label("Choose recordings").set_input_files(files)
    expect(page.get_by_text("2 not placed").first).to_be_visible()
    page.get_by_role("button", name="Suggest in the order of the plan").click()
    page.get_by_role("button", name="Take all 2 suggestions").click()
    expect(page.get_by_text("2 not placed")).to_have_count(0)
    done = {step["planned_id"] for step in steps_of(url) if step["state"] == "done"}
    assert {step["planned_id"] for step in steps} <= done


def cut_by_slates(page: Page, url: str, tmp_path: Path) -> None:
    """(b) One long recording with slates, noodling in between, two takes of it slated in the wrong order."""
    steps = open_steps(url)[:3]
    rng = np.random.default_rng(4)
    parts = [rng.normal(0, 1e-4, 48_000)]
    for step in (steps[1], steps[0], steps[2]):
        music = record(ChainSettings(phrase=step["phrase"], pedal="transparent")).samples[0]
        parts += [slate(SlateMark(step["number"])).samples[0] * 0.3, music]
        parts += [slate(SlateMark(step["number"], closes=True)).samples[0] * 0.3, rng.normal(0, 0.01, 96_000)]
    path = tmp_path / "afternoon.flac"
    soundfile.write(path, np.concatenate(parts).astype(np.float32), 48_000, subtype="PCM_24")
    page.goto("/flights/1/takes")
    page.get_by_label("Long recording", exact=True).set_input_files(path)
    expect(page.get_by_role("status").filter(has_text="3 takes found by 6 slates")).to_be_visible()
    start = page.get_by_label(f"Start of take {steps[0]['number']}", exact=True)
    before = start.input_value()
    handle = page.get_by_label(f"Start of take {steps[0]['number']} on the picture")
    handle.focus()
    handle.press("ArrowRight")
    expect(start).not_to_have_value(before)
    page.keyboard.press("Control+z")
    expect(start).to_have_value(before)
    page.get_by_role("button", name="Make 3 takes").click()
    expect(page.get_by_role("button", name="All takes made")).to_be_visible(timeout=60_000)
    done = {step["planned_id"] for step in steps_of(url) if step["state"] == "done"}
    assert {step["planned_id"] for step in steps} <= done


def reamped(page: Page, url: str, tmp_path: Path) -> None:
    """(e) The file is played through a device, upside down and 6 dB down, and cut by its own slates."""
    page.goto("/flights/1/takes")
    page.get_by_text(re.compile("^Other ways")).click()
    page.get_by_label("Contender to re-amp").select_option("Dunmarsh Wool")
    with page.expect_download() as download:
        page.get_by_role("button", name="Download").click()
    download.value.save_as(tmp_path / "sent.wav")
    sent, _ = soundfile.read(tmp_path / "sent.wav", dtype="float32")
    wanted = [step for step in open_steps(url) if step["contender"] == "Dunmarsh Wool"]
    returned = -0.5 * PEDALS["fuzz"].render(np.concatenate((np.zeros(12_345, np.float32), sent)), {})
    path = tmp_path / "returned.wav"
    soundfile.write(path, returned, 48_000, subtype="PCM_24")
    page.get_by_label("it is a re-amped file").check()
    page.get_by_label("Long recording", exact=True).set_input_files(path)
    found = re.compile(f"{len(wanted)} takes found by {2 * len(wanted)} slates")
    expect(page.get_by_role("status").filter(has_text=found)).to_be_visible()
    page.get_by_role("button", name=f"Make {len(wanted)} takes").click()
    expect(page.get_by_role("button", name="All takes made")).to_be_visible(timeout=60_000)
    done = {step["planned_id"] for step in steps_of(url) if step["state"] == "done"}
    assert {step["planned_id"] for step in wanted} <= done


def rehearsed(page: Page, url: str) -> None:
    """(d) The bench plays the rest."""
    page.goto("/flights/1/takes")
    page.get_by_text(re.compile("^Other ways")).click()
    page.get_by_role("button", name="Rehearse").click()
    expect(page.get_by_text(re.compile(r"\d+ takes are being played"))).to_be_visible(timeout=120_000)
    until(lambda: open_steps(url), lambda steps: not steps, seconds=240)
    page.goto("/flights/1/next")
    expect(page.get_by_text("All 37 takes are done.")).to_be_visible()


def checked_and_redone(page: Page, url: str) -> None:
    page.goto("/flights/1/match")
    expect(page.get_by_text("The takes are being compared.")).to_have_count(0, timeout=240_000)
    expect(page.get_by_text(re.compile("From 3 takes of one cell"))).to_be_visible()
    step = steps_of(url)[4]
    httpx.patch(f"{url}/api/planned/{step['planned_id']}", json={"state": "redo"})
    marked = page.get_by_role("listitem").filter(has_text="marked to be done again")
    marked.get_by_role("link", name="redo").click()
    expect(page.get_by_text("To be done again.")).to_be_visible()
    page.keyboard.press("r")
    expect(page.get_by_role("status").filter(has_text=re.compile(r"^[1-9]\.\d s"))).to_be_visible(timeout=30_000)
    page.keyboard.press("r")
    expect(page.get_by_text(f"Take {step['number']} is safe.")).to_be_visible()
    again = steps_of(url)[4]
    assert again["state"] == "done"
    assert again["take_id"] != step["take_id"]
    # The take before is not lost, nor what came through the interface.
    page.goto("/flights/1/takes")
    expect(page.get_by_text("2 set aside").first).to_be_visible()
