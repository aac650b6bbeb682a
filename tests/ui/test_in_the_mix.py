"""In the mix: a bed beside the takes at a steady relation, alone or with it by one key, and what is said of it."""

from __future__ import annotations

from pathlib import Path

import httpx
import numpy as np
import pytest
import soundfile
from playwright.sync_api import Browser, Page, expect

from tests.conftest import Server, until
from tests.tones import pink, plucks
from tests.ui.conftest import heard, new_page
from tests.ui.hearing import hear_again, hear_for
from tests.ui.test_listening import flown
from tests.ui.test_pages import serious

RATE_HZ = 48_000


def level(page: Page) -> float:
    """How loud what is heard now is, in dB."""
    hear_again(page, 0.7)
    sound = heard(page)
    assert np.abs(sound).max() < 1.0
    return float(10 * np.log10(np.mean(sound**2) + 1e-12))


@pytest.mark.certify
def test_takes_are_heard_alone_or_with_a_bed_by_one_key(browser: Browser, fresh: Server, tmp_path: Path) -> None:
    files = []
    for name, hz, loud in (("Alder", 196.0, 0.5), ("Birk", 784.0, 0.2)):
        files.append(tmp_path / f"{name} - riff.wav")
        soundfile.write(
            files[-1], loud * plucks([0.1 + 0.3 * n for n in range(27)], hz, 4.0, 8.2), RATE_HZ, subtype="PCM_24"
        )
    address = flown(fresh, files)
    bed = tmp_path / "Slow bed.wav"
    soundfile.write(bed, np.stack([pink(-20, 3.0, seed=3), pink(-20, 3.0, seed=4)]).T, RATE_HZ, subtype="PCM_24")
    page = new_page(browser, fresh.url, tapped=True)
    page.goto("/flights/1/listen")
    page.get_by_label("Add a bed").set_input_files(bed)
    told = page.get_by_role("list", name="How well each is heard").get_by_role("listitem")
    expect(told).to_have_count(2)
    expect(told.first).to_contain_text("% of its loudness is left")
    assert serious(page, "bed") == []
    page.keyboard.press("1")
    page.keyboard.press("Space")
    expect(page.get_by_role("button", name="Pause the music")).to_be_visible()
    both = level(page)
    page.keyboard.press("m")
    expect(page.get_by_role("button", name="Alone", exact=True)).to_be_visible()
    alone = level(page)
    assert 1.0 < both - alone < 6.0
    page.keyboard.press("m")
    assert abs(level(page) - both) < 1.0
    beside = httpx.get(f"{address}/beside/1", params={"bed": 1, "relation": 0}, timeout=60).json()
    under = httpx.get(f"{address}/beside/1", params={"bed": 1, "relation": -10}, timeout=60).json()
    assert under["gain_db"] - beside["gain_db"] == 10.0
    assert all(less["share"] < more["share"] for less, more in zip(under["heard"], beside["heard"], strict=True))
    # The loop is shorter than the takes: it begins again, and nothing stops.
    page.keyboard.press("Home")
    page.evaluate("window.heard = []")
    hear_for(page, 4.0)
    blocks = heard(page)[: 4 * RATE_HZ].reshape(-1, RATE_HZ // 10)
    assert (10 * np.log10(np.mean(blocks[3:] ** 2, axis=1)) > both - 12).all()
    page.get_by_text("Stems of this bed", exact=True).press("Enter")
    expect(page.get_by_text("It is one recording.")).to_be_visible()
    page.get_by_label("Add a stem").set_input_files(files[1])
    stems = page.get_by_role("list", name="Stems").get_by_role("listitem")
    expect(stems).to_have_count(2)
    # Where they meet at their levels is not told here; the second is made so soft that the bed is what it was.
    soft = page.get_by_label("Level of Birk - riff")
    for key in ("Home", "ArrowRight", "ArrowRight", "Home"):
        soft.press(key)
    expect(stems.nth(1)).to_contain_text("−30 dB")
    until(lambda: [one["gain_db"] for one in httpx.get(f"{fresh.url}/api/beds/1/stems").json()], [0.0, -30.0].__eq__)
    # Who moves a fader by keys stays on it while the bed is laid anew.
    expect(soft).to_be_focused()
    assert serious(page, "bed") == []
    page.get_by_role("button", name="Remove Birk - riff").click()
    expect(stems).to_have_count(1)
    page.get_by_role("button", name="remove this bed").click()
    expect(told).to_have_count(0)
    assert page.problems == []  # type: ignore[attr-defined]


def test_what_is_no_bed_is_refused_in_words(fresh: Server, tmp_path: Path) -> None:
    silent = tmp_path / "silent.wav"
    soundfile.write(silent, np.zeros(RATE_HZ), RATE_HZ)
    for path, code in ((silent, 422), (tmp_path / "none.wav", 422)):
        content = path.read_bytes() if path.exists() else b"nothing to hear"
        answer = httpx.post(f"{fresh.url}/api/beds", content=content, params={"name": path.name}, timeout=60)
        assert answer.status_code == code, answer.text
        assert answer.json()["detail"]
    assert httpx.get(f"{fresh.url}/api/beds").json() == []
