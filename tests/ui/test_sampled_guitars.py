"""Six sampled guitars in three phrases with three faults: what is said of them is true, from the drop to the choice."""

from __future__ import annotations

import random
import re
from pathlib import Path

import httpx
import numpy as np
import pytest
import soundfile
from playwright.sync_api import Browser, expect

from tests.conftest import Server
from tests.corpus.parts import RATE_HZ, gain
from tests.corpus.playing import play
from tests.ui.conftest import new_page
from tests.ui.test_first_flight import drop

GUITARS = {"Nylon": 24, "Steel": 25, "Warm": 26, "Bright": 27, "Pushed": 29, "Heavy": 30}
"""Programmes of General MIDI; the last two are driven."""
PHRASES = ("soft to hard", "offbeats", "arpeggio")
FAULTS = {("Steel", "offbeats"): "tuning", ("Warm", "arpeggio"): "clipped", ("Bright", "soft to hard"): "phrase"}
NOISE_DBFS = -78.0


@pytest.fixture
def recordings(tmp_path: Path) -> list[Path]:
    hands, files = random.Random(7), []
    for guitar, programme in GUITARS.items():
        for phrase in PHRASES:
            fault = FAULTS.get((guitar, phrase))
            tuned = -22.0 if fault == "tuning" else 0.0
            dry = play("muted riff" if fault == "phrase" else phrase, hands, cents=tuned, programme=programme)
            take = dry / np.abs(dry).max() / 2 + np.random.default_rng(programme).normal(0, gain(NOISE_DBFS), len(dry))
            if fault == "clipped":
                take = np.clip(take / np.quantile(np.abs(take), 0.995), -1, 1) * 0.9999
            files.append(tmp_path / f"{guitar} - {phrase}.wav")
            soundfile.write(files[-1], take, RATE_HZ, subtype="PCM_24")
    return files


def _more(files: list[Path], phrase: str, first: str, low_hz: float, high_hz: float) -> float:
    """By how many decibels a guitar has more in a band than the middle of the others, loudness aside."""
    found = {}
    for file in files:
        if phrase in file.stem:
            samples = soundfile.read(file)[0]
            power = np.square(np.abs(np.fft.rfft(samples)))
            hz = np.fft.rfftfreq(len(samples), 1 / RATE_HZ)
            band = power[(hz > low_hz) & (hz < high_hz)].sum()
            found[file.stem.split(" - ")[0]] = 10 * np.log10(band / power[hz > 60].sum())
    return float(found[first] - np.median([db for name, db in found.items() if name != first]))


def _band(words: str) -> tuple[float, float]:
    """The band that a sentence speaks of."""
    ends = [float(n) * (1000 if unit == "kHz" else 1) for n, unit in re.findall(r"([\d.]+) (k?Hz)", words)]
    if len(ends) == 2:
        return ends[0], ends[1]
    return (ends[0], 8000.0) if " above " in words else (60.0, ends[0])


@pytest.mark.certify
def test_six_sampled_guitars_are_told_truly(browser: Browser, fresh: Server, recordings: list[Path]) -> None:
    page = new_page(browser, fresh.url, tapped=True)
    page.goto("/flights")
    page.get_by_label("New flight").fill("Which guitar?")
    page.get_by_label("New flight").press("Enter")
    drop(page, recordings)
    expect(page.get_by_text("18 taken")).to_be_visible(timeout=60_000)

    page.get_by_role("link", name=re.compile("^Match")).click()
    expect(page.get_by_text(re.compile("3 takes to redo"))).to_be_visible(timeout=120_000)
    told = httpx.get(f"{fresh.url}/api/flights/1/match").json()["findings"]
    flight = httpx.get(f"{fresh.url}/api/flights/1").json()
    guitars = {one["id"]: one["name"] for one in flight["contenders"]}
    phrases = {one["id"]: one["name"].lower() for one in flight["tests"]}
    faults = {(guitars[f["contender_id"]], phrases[f["test_id"]]) for f in told if f["severity"] == "fault"}
    assert faults == set(FAULTS)

    page.get_by_role("link", name=re.compile("^Readings")).click()
    page.get_by_label(re.compile("^Test")).first.select_option(label="Arpeggio")
    first = page.get_by_role("region", name="What is different").get_by_role("listitem").first
    words = first.inner_text()
    found = _more(recordings, "arpeggio", words.split(" ")[0], *_band(words))
    assert abs(found) > 1.5, words
    assert (found > 0) == bool(re.search("brighter|fuller|stronger", words)), words
    first.get_by_role("button", name=re.compile("^Hear it")).click()
    page.wait_for_function("window.heard.some((part) => part.some((sample) => Math.abs(sample) > 1e-6))")

    page.get_by_role("link", name="Choose").click()
    page.get_by_role("button", name="Write a brief").click()
    expect(page.get_by_text("The brief names no sounds yet")).to_be_visible()
    page.get_by_role("link", name="Brief", exact=True).click()
    page.get_by_role("button", name=re.compile("^Clean rhythm")).click()
    page.get_by_label("Add a sound", exact=True).select_option(label="Edge of breakup")
    expect(page.get_by_role("article", name="Edge of breakup")).to_be_visible()
    page.get_by_role("link", name="Choose", exact=True).click()
    ranking = page.get_by_role("region", name="Ranking")
    expect(ranking.get_by_role("status")).to_contain_text("comes first")
    assert not re.match("Pushed|Heavy", ranking.get_by_role("status").inner_text())
    expect(ranking.get_by_text(re.compile("^(Clear|Likely|Open):")).first).to_be_visible()
    assert page.problems == []  # type: ignore[attr-defined]
    page.context.close()
