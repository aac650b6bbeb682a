"""From recordings to a ranking through the services; crashes, cancelling, and lists that stay fast."""

from __future__ import annotations

import shutil
import signal
import time
from pathlib import Path

import httpx
import pytest
from sqlmodel import select

from cata.core.measure.registry import BY_KEY
from cata.demo.scenario import FLIGHTS, PICKUPS
from cata.demo.shelf import SHELF
from cata.errors import NotFound
from cata.services.background import runner_for
from cata.services.choice import choosing
from cata.services.evidence import readings
from cata.services.flights.table import FlightIn, FlightPatch, add_flight, change_flight
from cata.services.listen import tray
from cata.services.match import accepting, findings
from cata.services.standing import flight as standing_of
from cata.services.takes import importing, placing, receiving
from cata.services.takes.rows import readings_of
from cata.services.verdict import teaching
from cata.services.workspace import Workspace, open_workspace
from cata.store.tables import Analysed, Heard, Reading
from tests.conftest import SOME_FACTS, declines, noise_file, running, write_take


def folder_of(tmp_path: Path) -> Path:
    folder = tmp_path / "An afternoon"
    folder.mkdir()
    for name, level in (("Alder", 1.0), ("Birk", 0.5)):
        write_take(folder / f"{name} - riff.wav", level=level)
        write_take(folder / f"{name} - lead.wav", hz=330, level=level)
    (folder / "notes.txt").write_text("nothing to hear")
    (folder / "bad - riff.wav").write_text("nothing to hear either")
    return folder


@pytest.fixture(scope="module")
def afternoon(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Data with the folder of an afternoon read in."""
    folder = tmp_path_factory.mktemp("afternoon")
    ws = open_workspace(folder / "data", workers=2)
    importing.run_import(ws, folder_of(folder))
    runner_for(ws).run_until_idle()
    ws.close()
    return folder / "data"


@pytest.fixture
def data_dir(request: pytest.FixtureRequest, tmp_path: Path) -> Path:
    source = "afternoon" if "imported" in request.fixturenames else "empty"
    return Path(shutil.copytree(request.getfixturevalue(source), tmp_path / "data"))


@pytest.fixture
def imported(ws: Workspace) -> int:
    return standing_of.list_flights(ws)[0].id


def test_a_folder_becomes_a_flight_that_is_read_and_matched(ws: Workspace, tmp_path: Path) -> None:
    result = importing.run_import(ws, folder_of(tmp_path))
    assert result.taken == 4
    assert [path.name for path, _ in result.refused] == ["bad - riff.wav"]
    runner_for(ws).run_until_idle()
    imported = result.flight_id
    flight = standing_of.get_flight(ws, imported)
    assert flight.name == "An afternoon"
    assert {c.name for c in flight.contenders} == {"Alder", "Birk"}
    assert {t.name for t in flight.tests} == {"Riff", "Lead"}
    assert all(take.state == "ready" for take in flight.takes)
    match = findings.get_match(ws, imported)
    assert not match.pending
    assert match.summary.code in ("match", "look_at", "redo")
    assert [f.rule for f in match.findings if f.severity == "fault"] == []


def test_where_a_method_changed_that_reading_alone_is_read_again(ws: Workspace, imported: int) -> None:
    with ws.writing() as session:
        for row in session.exec(select(Reading).where(Reading.take_id == 1)).all():
            # Not what was read: it stays where the method is the same.
            row.result = {"value": 99.0, "version": row.version}
            row.version -= row.key == "crest_db"
        session.get_one(Analysed, 1).method = "of yesterday"
    assert standing_of.get_flight(ws, imported).takes[0].state == "waiting"
    runner_for(ws).run_until_idle()
    with ws.reading() as session:
        known = readings_of(session, [1])[1]
        assert session.get_one(Analysed, 1).outline
    assert {key for key, one in known.items() if one.value != 99.0} == {"crest_db"}
    assert known["crest_db"].version == BY_KEY["crest_db"].version


def test_the_tray_sets_equal_loudness_and_lines_up(ws: Workspace, imported: int) -> None:
    test = standing_of.get_flight(ws, imported).tests[0]
    poured = tray.get_tray(ws, imported, test.id)
    gains = {take.name: take.gain_db for take in poured.takes}
    assert gains["Birk"] - gains["Alder"] == pytest.approx(6.02, abs=0.05)
    assert all(take.lined_up and abs(take.lag_s) < 0.001 for take in poured.takes)
    as_set = tray.get_tray(ws, imported, test.id, "as_set")
    assert len({take.gain_db for take in as_set.takes}) == 1
    change_flight(ws, imported, FlightPatch(school="as_set"))
    assert tray.get_tray(ws, imported, test.id).school == "as_set"
    assert tray.listening_copy(ws, poured.takes[0].take_id).stat().st_size > 1000


def test_takes_are_equal_to_the_ear_once_they_were_listened_to(ws: Workspace, imported: int) -> None:
    test = standing_of.get_flight(ws, imported).tests[0]
    heard = tray.get_tray(ws, imported, test.id, "by_ear")
    # One take at two levels: what is equal in LUFS is equal to the ear.
    gains = {take.name: take.gain_db for take in heard.takes}
    assert gains["Birk"] - gains["Alder"] == pytest.approx(6.02, abs=0.05)
    assert all(take.loudness_phon and 60 < take.loudness_phon < 100 for take in heard.takes)
    with ws.writing() as session:
        session.delete(session.get_one(Heard, heard.takes[0].take_id))
    waiting = tray.get_tray(ws, imported, test.id, "by_ear")
    assert "1 take still" in waiting.school_text
    assert [one.loudness_phon is None for one in waiting.takes] == [True, False]
    runner_for(ws).run_until_idle()
    assert "loop" in tray.get_tray(ws, imported, test.id, "by_ear", 0.1, 0.4).school_text


def test_drive_is_kept_among_the_readings_and_goes_with_the_cell(ws: Workspace, imported: int) -> None:
    flight = standing_of.get_flight(ws, imported)
    with ws.reading() as session:
        known = readings_of(session, [take.id for take in flight.takes], ["equivalent_drive"])
    # A plucked tone that is all there is of a test is no proof that anything is clean.
    assert {one["equivalent_drive"].evidence for one in known.values()} <= {"played", "re-amped"}
    assert all(one["equivalent_drive"].value or one["equivalent_drive"].refusal for one in known.values())
    placing.place_take(ws, flight.takes[0].id, None, None)
    runner_for(ws).run_until_idle()
    with ws.reading() as session:
        left = readings_of(session, [take.id for take in flight.takes], ["equivalent_drive"])
    assert [bool(one) for one in left.values()] == [False, *[True] * (len(left) - 1)]


def test_a_flight_says_what_it_taught(ws: Workspace, imported: int) -> None:
    verdict = teaching.get_verdict(ws, imported)
    assert verdict.code == "taught"
    assert {one.said.code for one in verdict.sentences} == {"alike", "record_repeats"}
    alike = verdict.sentences[0]
    assert alike.proof
    place = teaching.find_place(ws, imported, alike.proof)
    assert 0 <= place.start_s < place.end_s
    with declines(NotFound, "not_found"):
        teaching.find_place(ws, imported, alike.proof.model_copy(update={"other_id": 99}))
    empty = add_flight(ws, FlightIn(name="Empty"))
    assert teaching.get_verdict(ws, empty).code == "nothing_yet"


def test_readings_say_what_can_be_heard_and_what_cannot(ws: Workspace, imported: int) -> None:
    flight = standing_of.get_flight(ws, imported)
    alder = next(c.id for c in flight.contenders if c.name == "Alder")
    view = readings.get_readings(ws, imported, flight.tests[0].id, against=alder)
    rows = {row.key: row for row in view.rows}
    louder = next(cell for cell in rows["loudness_lufs"].cells if cell.contender_id != alder)
    assert louder.trust == "heard"
    assert "quieter" in louder.difference_text
    same = next(cell for cell in rows["centroid_hz"].cells if cell.contender_id != alder)
    assert same.trust == "unsure"
    assert all(cell.refusal for cell in rows["chord_dirt_db"].cells)


def test_a_finding_that_was_looked_at_no_longer_asks(ws: Workspace, tmp_path: Path) -> None:
    flight_id = add_flight(ws, FlightIn(name="F"))
    for name, hz in (("Alder - riff", 196), ("Birk - riff", 196 * 2 ** (40 / 1200))):
        path = write_take(tmp_path / f"{name}.wav", hz=hz)
        with ws.vault.receive() as incoming:
            incoming.write(path.read_bytes())
            facts = receiving.check_incoming(ws, incoming)
            receiving.add_take(ws, flight_id, path.name, ws.vault.keep(incoming), facts)
    placing.arrange(ws, flight_id)
    runner_for(ws).run_until_idle()
    found = next(f for f in findings.get_match(ws, flight_id).findings if f.rule == "other_tuning")
    assert len(findings.get_match(ws, flight_id).redo) == 1
    accepting.accept_finding(ws, found.take_id, found.rule, True)
    assert standing_of.get_flight(ws, flight_id).next_code != "redo"
    assert choosing.choose(ws, flight_id=flight_id).ranked


def test_swapping_takes_leaves_no_cell_twice(ws: Workspace, imported: int) -> None:
    flight = standing_of.get_flight(ws, imported)
    first, second = flight.takes[0], flight.takes[1]
    placing.place_take(ws, first.id, second.contender_id, second.test_id)
    after = {t.id: (t.contender_id, t.test_id) for t in standing_of.get_flight(ws, imported).takes}
    assert after[second.id] == (first.contender_id, first.test_id)
    assert len(set(after.values())) == len(after)


def test_work_can_be_cancelled_and_goes_on(ws: Workspace, tmp_path: Path) -> None:
    flight_id = add_flight(ws, FlightIn(name="F"))
    kept = ws.vault.add(write_take(tmp_path / "a.wav"))
    receiving.add_take(ws, flight_id, "a.wav", kept, SOME_FACTS)
    analyst = runner_for(ws)
    analyst.pause(flight_id)
    analyst.run_until_idle()
    assert standing_of.get_flight(ws, flight_id, paused=analyst.is_paused(flight_id)).progress.paused
    analyst.resume(flight_id)
    analyst.run_until_idle()
    assert standing_of.get_flight(ws, flight_id).takes[0].state == "ready"


def test_work_goes_on_where_house_keeping_fails(ws: Workspace, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(ws.vault, "sweep", lambda wanted, **_more: (tmp_path / "gone").stat())
    flight_id = add_flight(ws, FlightIn(name="F"))
    receiving.add_take(ws, flight_id, "a.wav", ws.vault.add(write_take(tmp_path / "a.wav")), SOME_FACTS)
    analyst = runner_for(ws)
    analyst.start()
    end = time.monotonic() + 60
    while standing_of.get_flight(ws, flight_id).takes[0].state != "ready" and time.monotonic() < end:
        time.sleep(0.05)
    analyst.stop()
    assert standing_of.get_flight(ws, flight_id).takes[0].state == "ready"


@pytest.mark.certify
def test_a_killed_server_loses_nothing_that_was_acknowledged(tmp_path: Path) -> None:
    body = noise_file(tmp_path / "n.wav", 20.0).read_bytes()
    data = tmp_path / "data"
    with running("serve", data) as server:
        flight = httpx.post(f"{server.url}/api/flights", json={"name": "F"}).json()
        taken = [
            httpx.post(f"{server.url}/api/flights/{flight['id']}/takes", params={"name": f"{n}.wav"}, content=body)
            for n in range(4)
        ]
        assert [answer.status_code for answer in taken] == [201] * 4
        server.stop(signal.SIGKILL)
    with running("serve", data) as server:
        end = time.monotonic() + 60
        while time.monotonic() < end:
            states = [t["state"] for t in httpx.get(f"{server.url}/api/flights/{flight['id']}").json()["takes"]]
            if states == ["ready"] * 4:
                break
            time.sleep(0.2)
        assert states == ["ready"] * 4
        assert server.stop(signal.SIGTERM) == 0


def test_the_demo_scenario_is_complete() -> None:
    assert len(SHELF) >= 24
    assert len({item.key for item in SHELF}) == len(SHELF)
    keys = {item.key for item in SHELF} | {"bypass"}
    assert all(row in keys for flight in FLIGHTS for row, _, _ in flight.contenders)
    assert len(PICKUPS.faults) == 3
