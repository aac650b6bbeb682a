"""One blind tasting by keyboard from setting the table to the reveal: nothing on the way says what is poured."""

from __future__ import annotations

import re

import numpy as np
from playwright.sync_api import Browser, Response, expect

from tests.conftest import Server
from tests.ui.conftest import heard, new_page
from tests.ui.hearing import MAX_SILENCE_S, hear_for, longest_silence
from tests.ui.test_keyboard import Hands
from tests.ui.test_pages import serious

TELLS = re.compile(r"Ebbingham|Rushlight|Platform|digest|\bseed\b|gain_db|price_minor|contender_id", re.IGNORECASE)


# The next answer comes a second after the server gave it: by then the page has heard that something changed.
LATE = """() => {
  const ask = window.fetch;
  window.fetch = async (...what) => {
    const answer = await ask(...what);
    if (what[0].method !== 'POST') return answer;
    window.fetch = ask;
    await new Promise((go) => setTimeout(go, 1000));
    return answer;
  };
}"""


def test_a_tasting_by_keyboard_from_the_table_to_the_reveal(browser: Browser, demo: Server) -> None:
    page = new_page(browser, demo.url, tapped=True)
    hands = Hands(page)
    page.goto("/tastings")
    hands.to(page.get_by_label("Can it be told at all?"))
    hands.press("Space")
    hands.to(page.get_by_label("Which is liked more?"))
    hands.press("Space")
    clear = page.get_by_label("How clear a difference")
    hands.to(clear)
    clear.select_option(label="heard nearly always")
    answers: list[Response] = []
    hands.push("Set the table")
    hands.to(page.get_by_label("Who listens"))
    page.on("response", lambda one: answers.append(one) if "/api/" in one.url and "events" not in one.url else None)
    page.keyboard.type("Ida")
    hands.press("Enter")
    number = page.get_by_role("status").first
    for trial in range(1, 9):
        expect(number).to_have_text(f"Ida · trial {trial} of 8")
        expect(page.get_by_role("button", name="1", exact=True)).to_be_enabled()
        assert not TELLS.search(page.content())
        if trial == 1:
            assert serious(page, "trial") == []
            hands.press("1")
            expect(page.get_by_role("button", name="Pause the music")).to_be_visible()
            hear_for(page, 0.3)
            page.evaluate("window.heard = []")
            for key in ("2", "0", "1", "ArrowRight", "2"):
                hands.press(key)
                hear_for(page, 0.3)
            sound = heard(page)
            # Through every change of glass the music goes on.
            assert longest_silence(sound) < MAX_SILENCE_S
            assert np.abs(sound).max() > 0.01
        hands.press("2")
        expect(page.get_by_role("button", name="X is 2")).to_be_enabled()
        if trial == 3:
            page.evaluate(LATE)
        hands.press("Enter")
        if trial == 3:
            # A slip is taken back, and the same glasses stand there again.
            expect(number).to_have_text("Ida · trial 4 of 8")
            hands.press("Backspace")
            expect(number).to_have_text("Ida · trial 3 of 8")
            expect(page.get_by_role("button", name="1", exact=True)).to_be_enabled()
            hands.press("2")
            hands.press("Enter")
    expect(page.get_by_role("heading", name="That is all, Ida")).to_be_visible()
    for one in answers:
        if "json" in one.headers.get("content-type", "") and "/api/undo" not in one.url:
            assert not TELLS.search(one.text()), one.url
    poured = [one.url for one in answers if "/glass/" in one.url]
    # Three glasses a trial, those of two trials once more where an answer was taken back: no other address comes twice.
    assert len(set(poured)) == 3 * 8
    twice = {url for url in poured if poured.count(url) > 1}
    assert len(twice) <= 3 * 2
    hands.push("Back to the table")
    hands.push("Reveal…")
    hands.push("Reveal it now")
    expect(page.get_by_text(re.compile("were (not )?told apart")).first).to_be_visible()
    expect(page.get_by_text("Ebbingham Platform 22").first).to_be_visible()
    assert page.problems == []  # type: ignore[attr-defined]


def test_who_would_look_while_a_tasting_runs_is_asked_first(browser: Browser, demo: Server) -> None:
    host, guest = (new_page(browser, demo.url) for _ in range(2))
    host.goto("/flights/1/listen")
    expect(host.get_by_role("button", name="Play the music").first).to_be_visible()  # it has a name by now
    flight = host.request.get("/api/flights/1").json()
    named = {"x-cata-browser": str(host.evaluate("localStorage.getItem('cata-browser')"))}
    poured = [one["id"] for one in flight["contenders"]][:2]
    asked = {"flight_id": 1, "test_id": flight["tests"][0]["id"], "contenders": poured, "name": "Sunday ears",
             "rounds": [{"kind": "prefer", "of": [0, 1], "trials": 8}]}  # fmt: skip
    tasting = host.request.post("/api/tastings", data=asked, headers=named).json()["id"]
    host.reload()
    expect(host.get_by_role("button", name="Play the music").first).to_be_visible()
    for page in ("readings", "verdict", "listen"):
        guest.goto(f"/flights/1/{page}")
        expect(guest.get_by_text("is running: this would give it away").first).to_be_visible()
        assert serious(guest, page) == []
    guest.get_by_role("button", name="Look anyway").click()
    expect(guest.get_by_role("button", name="Play the music").first).to_be_visible()
    host.request.post(f"/api/tastings/{tasting}/reveal")
    guest.goto(f"/tastings/{tasting}")
    expect(guest.get_by_text("Somebody looked at the takes while it ran")).to_be_visible()
