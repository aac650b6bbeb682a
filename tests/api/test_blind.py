"""What the network gives besides the sound itself: before the reveal nothing of it tells what is in a glass."""

from __future__ import annotations

import io
import re
import time
import zipfile
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
import soundfile
from fastapi.routing import APIRoute
from fastapi.testclient import TestClient
from scipy.stats import binomtest, mannwhitneyu

from cata.api.app import ROUTERS, create_app
from cata.api.browser import HEADER
from cata.api.veil import VEILS
from cata.core.taste.rounds import trial_of
from cata.services.background import runner_for
from cata.services.takes.importing import run_import
from cata.services.tasting.tastings import answers_of, given, rounds_of
from cata.services.workspace import Workspace, open_workspace
from cata.store.tables import Taster, Tasting
from tests.tones import plucks

HOST, GUEST = ({HEADER.decode(): name} for name in ("the-host-of-it", "a-guest-of-it"))
CHANCE = 0.001
"""A guess that is right so often by chance is none; smaller than 5 %, for the test runs every day."""
TELLS_NOTHING = {
    "amount",
    "beds", "beds/{}/audio", "beds/{}/stems", "briefs", "briefs/{}", "cards", "cards/style.css", "cards/{}",
    "cards/{}/file", "deals", "events", "example", "find", "fingerprints", "flights", "flights/{}",
    "flights/{}/order", "flights/{}/plan", "flights/{}/reamp", "flights/{}/recordings", "flights/{}/takes/in-order",
    "gear", "gear-names", "gear/export.{}", "gear/{}", "gear/{}/against/{}", "gear/{}/evidence", "gear/{}/knobs/{}",
    "gear/{}/proof/{}", "gear/{}/strings", "meta", "out/briefs/{}.csv", "out/flights/{}/takes.csv",
    "out/gear/{}/measured.csv", "out/tastings/{}.csv", "pairing", "probes/{}/playing", "rates", "slates/{}",
    "tastings", "tastings/{}", "tastings/{}/revealed", "tastings/{}/tasters/{}/glass/{}",
    "tastings/{}/tasters/{}/trial", "testfile.wav", "undo", "words", "workers", "workshop",
}  # fmt: skip
"""Addresses that say nothing of the takes of a flight: what was entered and planned, and gear measured by itself."""


def addresses() -> Iterator[tuple[APIRoute, str]]:
    for module in ROUTERS:
        for route in module.router.routes:
            if isinstance(route, APIRoute) and "GET" in route.methods:
                yield route, re.sub(r"{\w+}", "{}", route.path.removeprefix("/api/"))


def is_veiled(route: APIRoute) -> bool:
    return any(one.call in VEILS for one in route.dependant.dependencies)


def test_every_address_asks_first_or_is_known_to_tell_nothing() -> None:
    open_ones = {path for route, path in addresses() if not is_veiled(route)}
    assert open_ones == TELLS_NOTHING


@pytest.fixture(scope="module")
def evening(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Workspace]:
    """A flight of two drives: five seconds of one channel, and a minute of two at another rate and level."""
    folder = tmp_path_factory.mktemp("blind")
    (takes := folder / "An evening").mkdir()
    onsets = [0.4, 0.9, 1.3, 1.9, 2.4, 3.1, 3.8]
    short = plucks(onsets, 196.0, 12.0, 5.0)
    soundfile.write(str(takes / "Alder - riff.wav"), short, 48_000, subtype="PCM_16")
    long = np.concatenate([plucks(onsets, 196.0, 12.0, 5.0)[: 5 * 48_000], np.zeros(55 * 48_000)]) * 0.4
    soundfile.write(str(takes / "Birk - riff.flac"), np.stack([long, 0.9 * long]).T, 48_000, subtype="PCM_24")
    ws = open_workspace(folder / "data", workers=2)
    run_import(ws, takes)
    runner_for(ws).run_until_idle(lasting=False)
    yield ws
    ws.close()


@pytest.fixture(scope="module")
def client(evening: Workspace) -> TestClient:
    return TestClient(create_app(evening), base_url="http://127.0.0.1:8765")


def set_up(client: TestClient, *rounds: dict[str, object]) -> str:
    flight = client.get("/api/flights").json()[0]["id"]
    found = client.get(f"/api/flights/{flight}").json()
    asked = {"flight_id": flight, "test_id": found["tests"][0]["id"], "rounds": rounds,
             "contenders": [one["id"] for one in found["contenders"]]}  # fmt: skip
    made = client.post("/api/tastings", json=asked, headers=HOST)
    assert made.status_code == 201, made.text
    return f"/api/tastings/{made.json()['id']}"


def holds(ws: Workspace, tasting: str, taster: int) -> dict[str, int]:
    """What the glasses of the open trial hold, as only the server knows."""
    with ws.reading() as session:
        row, who = session.get_one(Tasting, int(tasting.rsplit("/", 1)[-1])), session.get_one(Taster, taster)
        trial = trial_of(rounds_of(row), row.seed, who.number, given(answers_of(session, [who])[taster]))
    assert trial is not None
    return {glass.label: glass.holds for glass in trial.glasses}


def test_what_would_give_it_away_asks_first_and_says_that_somebody_looked(client: TestClient) -> None:
    tasting = set_up(client, {"kind": "prefer", "of": [0, 1]})
    names = {"flight_id": 1, "test_id": 1, "take_id": 1, "brief_id": 1, "gear_id": 1, "card_id": 1, "bed_id": 1,
             "contender_id": 1, "recording_id": 1, "word": "warm"}  # fmt: skip
    asked = 0
    for route, _ in addresses():
        path = route.path.format(**{name: names.get(name, 1) for name in route.param_convertors})
        if not is_veiled(route) or "recordings" in path:
            continue
        for who in ({}, GUEST):
            answer = client.get(path, headers=who)
            # What is not asked for rightly is told before that: nothing is shown of a take either way.
            assert answer.status_code in (409, 422), (path, answer.status_code)
            asked += answer.status_code == 409 and answer.json()["code"] == "tasting_running"
        told = client.get(path, headers=HOST)
        assert b"tasting_running" not in told.content
    assert asked > 30
    assert client.get("/api/find?q=less+boxy+than+alder", headers=GUEST).status_code in (200, 409)
    assert client.get(tasting).json()["looked"] == 0
    client.post(f"{tasting}/look", headers=GUEST)
    assert client.get("/api/flights/1/tray/1", headers=GUEST).status_code == 200
    assert (
        client.get("/api/flights/1/tray/1", headers={"cookie": f"cata-browser={GUEST[HEADER.decode()]}"}).status_code
        == 200
    )
    assert client.get("/api/flights/1/tray/1").status_code == 409
    told = client.post(f"{tasting}/reveal").json()
    assert told["tasting"]["looked"] == 1
    assert client.get("/api/flights/1/tray/1").status_code == 200
    assert client.post(f"{tasting}/look", headers=GUEST).status_code == 409


@pytest.mark.parametrize("trials", [12, pytest.param(50, marks=pytest.mark.certify)])
def test_neither_sizes_nor_heads_nor_times_tell_a_glass(client: TestClient, evening: Workspace, trials: int) -> None:
    tasting = set_up(client, {"kind": "identify", "of": [0, 1], "trials": trials},
                     {"kind": "rate", "of": [0, 1], "reference": 0, "trials": trials // 3})  # fmt: skip
    taster = client.post(f"{tasting}/tasters", json={"name": "Ida"}, headers=GUEST).json()["id"]
    here = f"{tasting}/tasters/{taster}"
    asked, times = [], {0: [], 1: [], -1: [], -2: [], -3: []}  # type: ignore[var-annotated]
    sizes, heads, guessed = set(), set(), {"time": 0, "trial": 0}
    shown = client.get(f"{here}/trial", headers=GUEST).json()
    last = 0.0
    while shown["kind"]:
        inside, took = holds(evening, tasting, taster), {}
        for glass in shown["glasses"]:
            begun = time.perf_counter()
            sound = client.get(glass["url"], headers=GUEST)
            took[glass["label"]] = time.perf_counter() - begun
            times[inside[glass["label"]]].append(took[glass["label"]])
            sizes.add(len(sound.content))
            heads.add(tuple(sorted((key, value) for key, value in sound.headers.items() if key != "date")))
        if shown["kind"] == "identify":
            near = min("12", key=lambda label, took=took: abs(took[label] - took["X"]))  # type: ignore[misc]
            guessed["time"] += inside[near] == inside["X"]
            # Whether the trial itself was longer in coming.
            guessed["trial"] += (last > float(np.median(asked) if asked else 0)) == (inside["X"] == 1)
            said: dict[str, object] = {"glass": "1"}
        else:
            said = {"points": {label: 50.0 for label in inside if label.isdigit()}}
        begun = time.perf_counter()
        reply = {"round": shown["round"], "number": shown["number"], **said}
        shown = client.post(f"{here}/answers", json=reply, headers=GUEST).json()
        last = time.perf_counter() - begun
        asked.append(last)
    assert len(sizes) == 1
    assert len(heads) == 1
    for how, right in guessed.items():
        assert binomtest(right, trials, 0.5).pvalue > CHANCE, (how, right)
    # The short take of one channel against the long one of two, the hidden reference against the dulled one.
    for one, other in ((0, 1), (-1, -2)):
        apart = abs(float(np.median(times[one]) - np.median(times[other])))
        scatter = float(np.subtract(*np.percentile(times[one] + times[other], (75, 25))))
        # On a machine that is busy with other tests the medians of few wander, too.
        assert apart < 2 * scatter, (one, apart, scatter)
        assert mannwhitneyu(times[one], times[other]).pvalue > CHANCE


def test_nothing_that_holds_a_seed_or_an_answer_leaves_before_the_reveal(
    client: TestClient, evening: Workspace, tmp_path: Path
) -> None:
    tasting = set_up(client, {"kind": "identify", "of": [0, 1], "trials": 5})
    taster = client.post(f"{tasting}/tasters", json={"name": "Ida"}).json()["id"]
    client.post(f"{tasting}/tasters/{taster}/answers", json={"round": 1, "number": 1, "glass": "1"})
    with evening.reading() as session:
        seed = session.get_one(Tasting, int(tasting.rsplit("/", 1)[-1])).seed
    bundle = client.get("/api/bundle", headers=HOST).content
    with zipfile.ZipFile(io.BytesIO(bundle)) as archive:
        texts = b"".join(archive.read(name) for name in archive.namelist() if name.endswith((".csv", ".json")))
    assert seed.encode() not in texts
    assert b"Ida" not in texts
    assert client.get(f"{tasting}/revealed").status_code == 409
    assert client.get(f"/api/out/{tasting.removeprefix('/api/')}.csv").status_code == 409
    client.post(f"{tasting}/reveal")
    with zipfile.ZipFile(io.BytesIO(client.get("/api/bundle", headers=HOST).content)) as archive:
        assert b"Ida" in archive.read("data/taster.csv")
