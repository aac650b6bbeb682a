"""Words on takes of flights: who is the most of one, what is learnt from pointing and notes, what a search finds."""

from __future__ import annotations

from hashlib import sha256
from pathlib import Path

import pytest
from fastapi.testclient import TestClient
from sqlmodel import select

from cata.core.measure.registry import BY_KEY, METHOD
from cata.core.vocabulary.ears import EVERYBODY
from cata.core.vocabulary.leaning import step_of
from cata.errors import Conflict, NotFound
from cata.services.bundle.merging import import_bundle
from cata.services.bundle.packing import export_bundle
from cata.services.flights import table
from cata.services.flights.table import ContenderIn, FlightIn, TestIn
from cata.services.shelf.gear import GearIn, add_gear
from cata.services.tasting.tastings import set_glasses
from cata.services.upkeep.finding import find
from cata.services.vocabulary.seeking import seek
from cata.services.vocabulary.teaching import PointIn, point
from cata.services.vocabulary.views import AS_USUAL
from cata.services.vocabulary.words import by_word, list_words
from cata.services.workspace import Workspace
from cata.store.tables import Analysed, Answer, Reading, Take, Taster, Tasting
from tests.conftest import declines

STEP = step_of("regions_db.lows")
REGIONS = ("lows", "low_mids", "mids", "upper_mids", "presence", "air")
Flight = tuple[int, list[int], dict[str, int]]
"""A flight, its tests, and its contenders by name."""


def fly(ws: Workspace, items: dict[str, int], *tests: dict[str, tuple[float, ...]]) -> Flight:
    """A flight of items of the shelf; in each test how many steps each has in the regions, from the lows up."""
    ident = table.add_flight(ws, FlightIn(name="An evening", link="pedal"))
    rows = {name: table.add_contender(ws, ident, ContenderIn(gear_id=gear)) for name, gear in items.items()}
    columns = [table.add_test(ws, ident, TestIn(name=f"Test {at}")) for at, _ in enumerate(tests)]
    with ws.writing() as session:
        for column, heard in zip(columns, tests, strict=True):
            for name, steps in heard.items():
                digest = sha256(f"{name}{column}".encode()).hexdigest()
                take = Take(flight_id=ident, contender_id=rows[name], test_id=column, digest=digest,
                            filename="x.wav", size_bytes=1)  # fmt: skip
                session.add(take)
                session.flush()
                value = {region: STEP * one for region, one in zip(REGIONS, steps, strict=False)}
                session.add(Analysed(take_id=take.id or 0, method=METHOD, spectrum=[0.0], outline=[0.5]))
                session.add(Reading(take_id=take.id or 0, key="regions_db", version=BY_KEY["regions_db"].version,
                                    result={"value": value}))  # fmt: skip
    return ident, columns, rows


@pytest.fixture
def shelf(ws: Workspace) -> dict[str, int]:
    return {name: add_gear(ws, GearIn(kind="pedal", name=name)).id for name in ("Alder", "Birk", "Corm", "Dapp")}


def take_of(ws: Workspace, contender: int, test: int) -> int:
    with ws.reading() as session:
        return session.exec(select(Take.id).where(Take.contender_id == contender, Take.test_id == test)).one() or 0


FLAT = (0.0,) * 6


def test_takes_are_told_by_a_word_and_a_search_finds_what_has_less_of_it(
    client: TestClient, ws: Workspace, shelf: dict[str, int]
) -> None:
    heard = {"Alder": (5.0, *FLAT[1:]), "Birk": FLAT, "Corm": (-5.0, *FLAT[1:]), "Dapp": FLAT}
    ident, (test, _), rows = fly(ws, shelf, heard, heard)
    told = by_word(ws, ident, test, "bassy")
    assert told.said.words == "Alder is the most bassy of them, Corm the least."
    assert [one.contender_id for one in told.contenders][0::3] == [rows["Alder"], rows["Corm"]]
    assert (told.ears, told.all_ears, told.learned) == (AS_USUAL, [], None)
    less = seek(ws, "less bassy than Alder")
    assert less[0].name == "Corm"
    assert {one.name for one in less} == {"Birk", "Corm", "Dapp"}
    assert {one.tests for one in less} == {2}
    assert seek(ws, "bassier than alder") == []
    assert [one.name for one in seek(ws, "more bassy than Birk")] == ["Alder"]
    assert [(one.title, one.address) for one in find(ws, "bassier than Corm")][:1] == [
        ("Alder", f"/gear/{shelf['Alder']}")
    ]
    assert client.get("/api/find", params={"q": "less bassy than Birk"}).json()[0]["where"] == (
        "less bassy than Birk by 4.0 steps, in 2 tests"
    )
    assert find(ws, "less bassy than nothing here") == []
    assert seek(ws, "less boxy than Alder") == []


def test_what_differs_both_ways_is_not_said_to_differ(ws: Workspace, shelf: dict[str, int]) -> None:
    up, down = {"Alder": (5.0, *FLAT[1:]), "Birk": FLAT}, {"Alder": FLAT, "Birk": (5.0, *FLAT[1:])}
    fly(ws, shelf, up, down)
    assert seek(ws, "less bassy than Alder") == seek(ws, "more bassy than Alder") == []


def test_a_word_is_learnt_from_what_is_pointed_at_and_taken_back(
    client: TestClient, ws: Workspace, shelf: dict[str, int]
) -> None:
    heard = {"Alder": (5.0, *FLAT[1:]), "Birk": FLAT, "Corm": FLAT, "Dapp": (0.0, 0.0, 5.0, 2.0, 0.0, 0.0)}
    flights = [fly(ws, shelf, heard) for _ in range(5)]
    ident, (test,), rows = flights[0]
    assert by_word(ws, ident, test, "boxy").contenders[0].name == "Dapp"
    # To this person boxy is what has lows.
    for _, (column,), there in flights:
        for name, contender in there.items():
            body = {"take_id": take_of(ws, contender, column), "said": name == "Alder", "who": " Ida "}
            assert client.put("/api/words/boxy/said", json=body).status_code == 204
    there = {"flight": ident, "test": test}
    told = client.get("/api/words/boxy", params=there).json()
    assert (told["ears"], told["all_ears"]) == (EVERYBODY, [EVERYBODY, "Ida"])
    assert told["contenders"][0] | {"score": 0} == {
        "contender_id": rows["Alder"], "take_id": take_of(ws, rows["Alder"], test), "name": "Alder", "score": 0,
        "pointed": "yes",
    }  # fmt: skip
    assert told["said"]["words"].startswith("Alder is the most boxy of them")
    assert told["learned"]["said"]["words"].startswith("Learnt from 20 takes: more lows")
    assert told["learned"]["agreeing"] == 20
    usual = client.get("/api/words/boxy", params=there | {"ears": ""}).json()
    assert (usual["contenders"][0]["name"], usual["learned"]) == ("Dapp", None)
    assert client.get("/api/words/boxy", params=there | {"ears": "Oda"}).json()["learned"] is None
    assert {one.key: one.takes for one in list_words(ws) if one.takes} == {"boxy": 20}
    # A search uses the word as it is used here.
    assert seek(ws, "less boxy than Alder")[0].tests == 5
    for _, (column,), everyone in flights:
        for contender in everyone.values():
            point(ws, "boxy", PointIn(take_id=take_of(ws, contender, column), said=None, who="Ida"))
    assert by_word(ws, ident, test, "boxy").all_ears == []
    client.post("/api/undo")
    assert by_word(ws, ident, test, "boxy").all_ears == [EVERYBODY, "Ida"]


def test_notes_of_a_tasting_teach_after_its_reveal_and_what_is_pointed_at_counts_more(
    ws: Workspace, shelf: dict[str, int]
) -> None:
    ident, (test,), rows = fly(ws, shelf, {"Alder": (5.0, *FLAT[1:]), "Birk": FLAT, "Corm": FLAT})
    with ws.writing() as session:
        tasting = Tasting(flight_id=ident, test_id=test, name="One", seed="s")
        session.add(tasting)
        session.flush()
        takes = {take.contender_id: take.id or 0 for take in session.exec(select(Take)).all()}
        set_glasses(session, tasting, [(takes[rows[name]], 0.0, 0.0) for name in ("Birk", "Alder")])
        taster = Taster(tasting_id=tasting.id or 0, number=0, name="Oda")
        session.add(taster)
        session.flush()
        notes = {"notes": {"0": "not bassy, dull", "1": "Bassy!"}}
        session.add(Answer(taster_id=taster.id or 0, round=0, trial=0, what=notes))
    assert by_word(ws, ident, test, "bassy").all_ears == []
    with ws.writing() as session:
        session.exec(select(Tasting)).one().revealed_at = "2026-11-01T20:00:00Z"
    told = by_word(ws, ident, test, "bassy")
    assert {one.name: one.pointed for one in told.contenders} == {"Alder": "yes", "Birk": "no", "Corm": ""}
    assert told.all_ears == [EVERYBODY, "Oda"]
    assert {one.key for one in list_words(ws) if one.takes} == {"bassy", "dull"}
    take = take_of(ws, rows["Birk"], test)
    point(ws, "bassy", PointIn(take_id=take, said=True, who="Oda"))
    assert {one.pointed for one in by_word(ws, ident, test, "bassy", "Oda").contenders[:2]} == {"yes"}
    # One says so, another denies it: of everybody nothing is known.
    point(ws, "bassy", PointIn(take_id=take, said=False, who="Ida"))
    assert {one.name: one.pointed for one in by_word(ws, ident, test, "bassy").contenders}["Birk"] == ""


def test_a_sound_in_words_becomes_ranges_of_a_brief(client: TestClient) -> None:
    found = client.post("/api/words/sound", json={"text": "warm, not fizzy"}).json()
    assert found["said"]["words"] == "Understood: warm, not fizzy."
    sound = {"key": "mine", "name": "Mine", "targets": found["targets"]}
    made = client.post("/api/briefs", json={"name": "In words", "need": {"sounds": [sound]}})
    assert made.status_code == 201
    kept = made.json()["need"]["sounds"][0]["targets"]
    assert {(one["reading"], one["part"]) for one in kept} >= {("tilt_db_per_oct", ""), ("regions_db", "low_mids")}
    assert client.post("/api/words/sound", json={"text": ""}).status_code == 422


def test_what_is_no_word_or_has_no_place_is_refused(ws: Workspace, shelf: dict[str, int]) -> None:
    ident, (test,), rows = fly(ws, shelf, {"Alder": FLAT, "Birk": FLAT})
    other, _, _ = fly(ws, shelf, {"Alder": FLAT})
    take = take_of(ws, rows["Alder"], test)
    with declines(NotFound, "not_found"):
        by_word(ws, ident, test, "loud")
    with declines(NotFound, "not_found"):
        by_word(ws, other, test, "boxy")
    with declines(NotFound, "not_found"):
        point(ws, "loud", PointIn(take_id=take, said=True))
    with ws.writing() as session:
        session.get_one(Take, take).test_id = None
    with declines(Conflict, "not_placed"):
        point(ws, "boxy", PointIn(take_id=take, said=True))


def test_what_was_said_of_takes_goes_with_them_into_a_bundle(
    client: TestClient, ws: Workspace, shelf: dict[str, int], tmp_path: Path
) -> None:
    _, (test,), rows = fly(ws, shelf, {"Alder": FLAT, "Birk": FLAT})
    point(ws, "boxy", PointIn(take_id=take_of(ws, rows["Alder"], test), said=True, who="Ida"))
    export_bundle(ws, tmp_path / "b.zip")
    assert import_bundle(ws, tmp_path / "b.zip", dry_run=True).added == {}
    client.post("/api/undo")
    assert import_bundle(ws, tmp_path / "b.zip").added == {"pointed": 1}
