"""A blind tasting from setting up to the reveal: nothing gives a glass away before, all is told after."""

from __future__ import annotations

import io
import shutil
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import soundfile
from fastapi.testclient import TestClient

from cata.core.taste.rounds import Round, trial_of
from cata.errors import Conflict, Invalid
from cata.services.background import runner_for
from cata.services.bundle.merging import import_bundle
from cata.services.bundle.packing import export_bundle
from cata.services.flights.table import ContenderPatch, change_contender, remove_contender, remove_test
from cata.services.shelf.gear import GearIn, add_gear
from cata.services.shelf.prices import PriceIn, add_price
from cata.services.standing.flight import get_flight, list_flights
from cata.services.takes.importing import run_import
from cata.services.tasting.pouring import answer, get_trial, pour
from cata.services.tasting.revealing import get_revealed, reveal
from cata.services.tasting.tastings import add_taster, add_tasting, answers_of, given, list_tastings
from cata.services.tasting.telling import blind_of
from cata.services.tasting.views import AnswerIn, TasterIn, TastingIn, TrialView
from cata.services.upkeep.sweeping import sweep
from cata.services.upkeep.undoing import undo
from cata.services.verdict.teaching import get_verdict
from cata.services.workspace import Workspace, open_workspace
from cata.store.tables import Taster, Tasting
from tests.conftest import declines, write_take
from tests.tones import plucks

Flight = tuple[int, int, list[int]]
"""A flight, its test, and its contenders by name."""
NAMES = ("Alder", "Birk", "Corm")
GIVE_AWAY = (
    *NAMES,
    *(name.lower() for name in NAMES),
    "digest",
    "seed",
    "gain",
    "price",
    "colour",
    "contender",
    ".wav",
)


@pytest.fixture(scope="module")
def read(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A flight of three pedals: another level, two channels at another rate, and another length."""
    folder = tmp_path_factory.mktemp("tasting")
    takes = folder / "An evening"
    takes.mkdir()
    write_take(takes / "Alder - riff.wav")
    write_take(takes / "Birk - riff.wav", level=0.4, subtype="PCM_24")
    # Two channels, another rate and a longer file would tell at once which it is.
    other = plucks([0.4, 0.9, 1.3, 1.9, 2.4], 196.0, 12.0, 3.5)[: round(3.5 * 48_000)]
    soundfile.write(str(takes / "Corm - riff.wav"), np.stack([other, 0.9 * other]).T, 48_000, subtype="PCM_24")
    ws = open_workspace(folder / "data", workers=2)
    run_import(ws, takes)
    runner_for(ws).run_until_idle()
    ws.close()
    return folder / "data"


@pytest.fixture
def data_dir(read: Path, tmp_path: Path) -> Path:
    return Path(shutil.copytree(read, tmp_path / "data"))


@pytest.fixture
def flight(ws: Workspace) -> Flight:
    found = get_flight(ws, list_flights(ws)[0].id)
    return found.id, found.tests[0].id, [one.id for one in sorted(found.contenders, key=lambda one: one.name)]


def set_up(ws: Workspace, flight: Flight, *rounds: Round) -> int:
    ident, test, contenders = flight
    return add_tasting(ws, TastingIn(flight_id=ident, test_id=test, contenders=contenders, rounds=list(rounds))).id


def held(ws: Workspace, tasting: int, taster: int) -> dict[str, int]:
    """What the glasses of the open trial hold, as only the server knows."""
    with ws.reading() as session:
        row, who = session.get_one(Tasting, tasting), session.get_one(Taster, taster)
        rounds = [Round.model_validate(one) for one in row.rounds]
        trial = trial_of(rounds, row.seed, who.number, given(answers_of(session, [who])[taster]))
    assert trial is not None
    return {glass.label: glass.holds for glass in trial.glasses}


def taste(ws: Workspace, tasting: int, name: str, likes: list[int], *, ears: bool = True) -> int:
    """Somebody who likes contenders in this order, and tells them apart or not, answers everything."""
    taster = add_taster(ws, tasting, TasterIn(name=name)).id
    while (trial := get_trial(ws, tasting, taster)).kind:
        answer(ws, tasting, taster, answer_to(trial, held(ws, tasting, taster), likes, ears=ears))
    return taster


def answer_to(trial: TrialView, holds: dict[str, int], likes: list[int], *, ears: bool) -> AnswerIn:
    numbered = {label: one for label, one in holds.items() if label.isdigit()}
    said: dict[str, Any] = {}
    if trial.kind == "identify":
        said["glass"] = next(label for label, one in numbered.items() if (one == holds["X"]) == ears)
    elif trial.kind == "prefer":
        said["glass"] = min(numbered, key=lambda label: likes.index(numbered[label]))
    elif trial.kind == "rate":
        points = {-1: 100.0, -2: 15.0, -3: 40.0}
        said["points"] = {label: points.get(one, 70.0 - 10 * likes.index(one) if one >= 0 else 0) for label, one in
                          numbered.items()}  # fmt: skip
    else:
        said["notes"] = {label: f"glass {label} is boomy" for label in numbered}
    return AnswerIn(round=trial.round, number=trial.number, **said)


EVERY = (
    Round(kind="identify", of=[0, 1], trials=5), Round(kind="prefer", of=[0, 1, 2], trials=6),
    Round(kind="rate", of=[0, 1, 2], reference=0, trials=1), Round(kind="notes", of=[0, 1, 2]),
)  # fmt: skip


def test_nothing_gives_a_glass_away_before_the_reveal(data_dir: Path, client: TestClient) -> None:
    flight = client.get("/api/flights").json()[0]["id"]
    found = client.get(f"/api/flights/{flight}").json()
    poured = [one["id"] for one in found["contenders"]]
    asked = {"flight_id": flight, "test_id": found["tests"][0]["id"], "contenders": poured,
             "rounds": [one.model_dump() for one in EVERY]}  # fmt: skip
    answers = [made := client.post("/api/tastings", json=asked)]
    assert made.status_code == 201, made.text
    base = f"/api/tastings/{made.json()['id']}"
    answers.append(sat := client.post(f"{base}/tasters", json={"name": "Ida"}))
    mine = f"{base}/tasters/{sat.json()['id']}"
    tickets: list[str] = []
    sounds: list[bytes] = []
    trial = client.get(f"{mine}/trial")
    while trial.json()["kind"]:
        answers += [trial, client.get(base), client.get("/api/tastings")]
        shown = trial.json()
        for glass in shown["glasses"]:
            sound = client.get(glass["url"])
            assert sound.status_code == 200
            assert not {"etag", "last-modified", "content-disposition", "x-file"} & set(sound.headers)
            assert sound.headers["cache-control"] == "no-store"
            tickets.append(glass["url"])
            sounds.append(sound.content)
        labels = [glass["label"] for glass in shown["glasses"] if glass["label"].isdigit()]
        said = {"rate": {"points": dict.fromkeys(labels, 50.0)}, "notes": {"notes": dict.fromkeys(labels, "warm")}}
        reply = {"round": shown["round"], "number": shown["number"], **said.get(shown["kind"], {"glass": labels[0]})}
        trial = client.post(f"{mine}/answers", json=reply)
        assert trial.status_code == 200, trial.text
    answers.append(trial)
    for one in answers:
        assert not [word for word in GIVE_AWAY if word in one.text], one.text
    # No address comes twice, none works after its trial; all pourings are of one size, and no two of the same bytes.
    assert len(set(tickets)) == len(tickets)
    assert client.get(tickets[0]).status_code == 404
    assert len({len(sound) for sound in sounds}) == 1
    assert len(set(sounds)) == len(sounds)
    for sound in sounds[:6]:
        with soundfile.SoundFile(io.BytesIO(sound)) as file:
            assert (file.channels, file.samplerate, file.subtype) == (2, 48_000, "PCM_24")
            assert not file.copy_metadata()
        assert [sound[at : at + 4] for at in (0, 8, 12, 36)] == [b"RIFF", b"WAVE", b"fmt ", b"data"]
    for path in ("revealed", ".csv"):
        there = f"{base}/revealed" if path == "revealed" else f"/api/out/tastings/{made.json()['id']}.csv"
        assert client.get(there).status_code == 409


def test_what_is_liked_and_told_apart_is_revealed_with_what_it_costs(ws: Workspace, flight: Flight) -> None:
    pedals = []
    for contender, price in zip(flight[2], ("300", "100", "150"), strict=True):
        pedals.append(add_gear(ws, GearIn(kind="pedal", name=f"Drive {price}")).id)
        add_price(ws, pedals[-1], PriceIn(kind="new", text=price))
        change_contender(ws, contender, ContenderPatch(gear_id=pedals[-1]))
    tasting = set_up(
        ws, flight, Round(kind="identify", of=[0, 1]), Round(kind="prefer", of=[0, 1, 2], trials=12), *EVERY[2:]
    )
    taste(ws, tasting, "Ida", [1, 2, 0])
    taste(ws, tasting, "Oda", [1, 2, 0], ears=False)
    with declines(Conflict, "not_revealed"):
        get_revealed(ws, tasting)
    assert get_verdict(ws, flight[0]).tasted == []
    told = reveal(ws, tasting)
    apart, liked, near, notes = told.rounds
    assert (apart.said.code, apart.said.numbers["names"]) == ("told_apart", "Ida")
    assert [one.code for one in apart.by_taster] == ["told_apart", "not_told_apart"]
    assert (liked.said.code, [one.name for one in liked.glasses]) == ("preferred", ["Birk", "Corm", "Alder"])
    costs = [one for one in liked.more if one.code == "name_costs"]
    assert [one.numbers["more"] for one in costs] == [20_000, 15_000, 5_000]
    assert next(one for one in liked.more if one.code == "agreement").numbers == {"same": 3, "of": 3}
    assert near.said.code == "nearest"
    assert [one.points for one in near.glasses] == [70.0, 60.0, None]
    assert [len(one.notes) for one in notes.glasses] == [2, 2, 2]
    assert [[(word.word, word.said) for word in one.words] for one in notes.glasses] == [[("boomy", 2)]] * 3
    with declines(Conflict, "revealed"):
        add_taster(ws, tasting, TasterIn(name="Late"))
    assert [one.said.code for one in get_verdict(ws, flight[0]).tasted] == ["told_apart", "preferred", "nearest"]
    with ws.reading() as session:
        blind = blind_of(session, pedals)
    assert [[one.code for one in blind[gear]] for gear in pedals] == [
        ["liked_less_blind"], ["liked_blind"], ["liked_blind", "liked_less_blind"],
    ]  # fmt: skip


def test_a_tasting_goes_on_where_it_was_left_and_no_trial_is_answered_twice(ws: Workspace, flight: Flight) -> None:
    # Of eight seven are needed: one wrong answer decides nothing.
    tasting = set_up(ws, flight, Round(kind="identify", of=[0, 1], trials=8))
    taster = add_taster(ws, tasting, TasterIn()).id
    first = get_trial(ws, tasting, taster)
    said = AnswerIn(round=1, number=1, glass="1")
    second = answer(ws, tasting, taster, said)
    with declines(Conflict, "answered"):
        answer(ws, tasting, taster, said)
    assert get_trial(ws, tasting, taster) == second
    assert (second.number, second.back) == (2, True)
    assert first.glasses != second.glasses
    with declines(Invalid, "no_answer"):
        answer(ws, tasting, taster, AnswerIn(round=1, number=2, glass="7"))
    assert answer(ws, tasting, taster, AnswerIn(round=1, number=2, enough=True)).kind == ""
    assert list_tastings(ws)[0].tasters[0].done
    # Who stops early has shown nothing, whatever was right so far.
    assert reveal(ws, tasting).rounds[0].said.code == "left_early"


def test_a_table_that_is_set_stays_as_it_was_whatever_becomes_of_its_flight(ws: Workspace, flight: Flight) -> None:
    tasting = set_up(ws, flight, *EVERY)
    before = sounds(ws, tasting, taster := add_taster(ws, tasting, TasterIn()).id)
    remove_contender(ws, flight[2][0])
    change_contender(ws, flight[2][1], ContenderPatch(name="Another name"))
    remove_test(ws, flight[1])
    sweep(ws)
    shutil.rmtree(ws.data_dir / "poured")
    after = sounds(ws, tasting, taster)
    assert [np.abs(one - other).max() < 0.02 for one, other in zip(before, after, strict=True)] == [True] * len(before)
    taste(ws, tasting, "Ida", [2, 0, 1])
    told = reveal(ws, tasting)
    assert {glass.name for one in told.rounds for glass in one.glasses} == set(NAMES)
    for _ in range(3):
        undo(ws)
    again = get_revealed(ws, tasting)
    assert [one.model_dump(exclude={"glasses"}) for one in again.rounds] == [
        one.model_dump(exclude={"glasses"}) for one in told.rounds
    ]
    # Where a recording itself is gone, nothing is poured in its place.
    again = set_up(ws, flight, EVERY[1])
    taster = add_taster(ws, again, TasterIn()).id
    shutil.rmtree(ws.vault.copies)
    with declines(Conflict, "no_recording"):
        get_trial(ws, again, taster)


def sounds(ws: Workspace, tasting: int, taster: int) -> list[np.ndarray]:
    """What the glasses of the open trial sound like."""
    urls = [glass.url for glass in get_trial(ws, tasting, taster).glasses]
    return [soundfile.read(io.BytesIO(pour(ws, tasting, taster, url.rsplit("/", 1)[-1])))[0] for url in urls]


@pytest.mark.parametrize(("contenders", "code"), [("one", "not_poured"), ("twice", "twice"), ("gone", "no_take")])
def test_what_cannot_be_poured_is_refused(ws: Workspace, flight: Flight, contenders: str, code: str) -> None:
    ident, test, rows = flight
    poured = [rows[0], *{"one": [], "twice": [rows[0]], "gone": [999]}[contenders]]
    with declines(Invalid, code):
        add_tasting(ws, TastingIn(flight_id=ident, test_id=test, contenders=poured, rounds=[EVERY[0]]))


def test_a_tasting_goes_into_a_bundle_and_comes_out_the_same(
    ws: Workspace, flight: Flight, empty: Path, tmp_path: Path
) -> None:
    tasting = set_up(ws, flight, *EVERY)
    taste(ws, tasting, "Ida", [2, 0, 1])
    there = reveal(ws, tasting)
    export_bundle(ws, tmp_path / "b.zip")
    other = open_workspace(Path(shutil.copytree(empty, tmp_path / "other")), workers=1)
    assert import_bundle(other, tmp_path / "b.zip").added["answer"] == 13
    assert import_bundle(other, tmp_path / "b.zip").added == {}
    # What words are held against is read again there.
    runner_for(other).run_until_idle(lasting=False)
    assert get_revealed(other, list_tastings(other)[0].id) == there
    other.close()
