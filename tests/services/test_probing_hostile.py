"""Measuring with hostile hands: double clicks, removed items, crashes, a restart in the middle, a busy machine."""

from __future__ import annotations

import time
from dataclasses import replace
from pathlib import Path

import pytest
from fastapi.testclient import TestClient
from sqlmodel import select

from cata.errors import Conflict, Invalid, NotFound
from cata.services.background import runner_for
from cata.services.evidence import probing
from cata.services.evidence.items import get_evidence
from cata.services.evidence.measuring import BENCH, due_readings
from cata.services.evidence.probing import ProbeIn
from cata.services.shelf.gear import GearIn, add_gear, remove_gear
from cata.services.upkeep.sweeping import retry, sweep, wanted_digests
from cata.services.upkeep.undoing import undo
from cata.services.workspace import Workspace
from cata.store.tables import Gear, Probe, Probed
from cata.tasks.desk import Desk
from cata.tasks.devices import as_text, device_file
from cata.tasks.knowing import EVIDENCE
from cata.tasks.runner import FAILED, Runner
from cata.tasks.shape import Task
from tests.bench import rehearse_device
from tests.conftest import ORIGIN, declines


def sleep_s(seconds: float, _desk: Desk) -> None:
    time.sleep(seconds)


def a_pedal(ws: Workspace, about: str = "clean boost") -> int:
    return add_gear(ws, GearIn(kind="pedal", name="Wendle", about=about, controls=[])).id


def a_probe(ws: Workspace, gear: int, tmp_path: Path, part: str = "bursts") -> int:
    path = tmp_path / f"{part}.wav"
    rehearse_device("boost", {}, part, path, 1)
    return probing.add_probe(ws, gear, path.name, ws.vault.add(path), ProbeIn())


@pytest.mark.certify
def test_a_double_click_makes_two_measurements_and_each_can_be_taken_back(ws: Workspace, tmp_path: Path) -> None:
    gear = a_pedal(ws)
    first, second = a_probe(ws, gear, tmp_path), a_probe(ws, gear, tmp_path)
    assert first != second
    runner_for(ws).run_until_idle()
    with ws.reading() as session:
        assert len(session.exec(select(Probed)).all()) == 2
    undo(ws)
    with ws.reading() as session:
        assert [probe.id for probe in session.exec(select(Probe)).all()] == [first]


@pytest.mark.certify
def test_evidence_is_worked_out_once_for_what_it_rests_on(
    ws: Workspace, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    gear = a_pedal(ws)
    probe = a_probe(ws, gear, tmp_path)
    asked = []
    ask = ws.ask
    monkeypatch.setattr(ws, "ask", lambda task, *rest: asked.append(task) or ask(task, *rest))
    get_evidence(ws, gear)
    runner_for(ws).run_until_idle()
    read = get_evidence(ws, gear)
    assert asked == [EVIDENCE] * 2
    assert get_evidence(ws, gear) == read
    assert len(asked) == 2
    with ws.writing() as session:
        session.get_one(Probe, probe).settings = {"drive": 0.5}
    get_evidence(ws, gear)
    assert len(asked) == 3


def test_removing_the_item_takes_its_measurements_and_undo_brings_all_back(ws: Workspace, tmp_path: Path) -> None:
    gear = a_pedal(ws)
    probe = a_probe(ws, gear, tmp_path)
    runner_for(ws).run_until_idle()
    remove_gear(ws, gear)
    with ws.reading() as session:
        assert session.get(Probe, probe) is None
    undo(ws)
    with ws.reading() as session:
        assert session.get(Gear, gear) is not None
        assert session.get(Probe, probe) is not None


def test_the_vault_keeps_what_a_measurement_needs(ws: Workspace, tmp_path: Path) -> None:
    gear = a_pedal(ws)
    a_probe(ws, gear, tmp_path)
    with ws.acting("bench") as session:
        probing.bench_probe(session, session.get_one(Gear, gear), {}, ws.now())
    assert len(wanted_digests(ws)) == 1
    assert "" not in wanted_digests(ws)
    assert sweep(ws) == 0


def test_what_a_crash_interrupted_is_done_after_the_restart(ws: Workspace, tmp_path: Path) -> None:
    gear = a_pedal(ws)
    probe = a_probe(ws, gear, tmp_path)
    with ws.reading() as session:
        assert [due.ident for due in due_readings(session)] == [probe]
    runner_for(ws).run_until_idle()
    with ws.reading() as session:
        assert due_readings(session) == []
    probing.change_probe(ws, probe, ProbeIn(nominal_dbfs=-14.0))
    with ws.reading() as session:
        assert [due.ident for due in due_readings(session)] == [probe]


@pytest.mark.certify
def test_a_bench_that_fails_says_so_and_can_be_tried_again(ws: Workspace) -> None:
    gear = a_pedal(ws)
    probing.probe_on_bench(ws, gear, ProbeIn())
    broken = replace(BENCH, task=Task("broken", int))  # type: ignore[arg-type]
    Runner(ws, (broken,)).run_until_idle()
    view = get_evidence(ws, gear).probes[0]
    assert (view.state, view.refused) == ("failed", FAILED)
    retry(ws, 0)
    runner_for(ws).run_until_idle()
    assert get_evidence(ws, gear).probes[0].state == "read"


def test_what_does_not_exist_or_has_no_stand_in_is_told(ws: Workspace, tmp_path: Path) -> None:
    with pytest.raises(NotFound):
        probing.remove_probe(ws, 99)
    with pytest.raises(NotFound):
        probing.probe_on_bench(ws, 99, ProbeIn())
    with declines(Conflict, "no_stand_in"):
        probing.probe_on_bench(ws, a_pedal(ws, "a tuner"), ProbeIn())
    with declines(Invalid, "no_device"):
        rehearse_device("toaster", {}, "tones", tmp_path / "x.wav", 1)
    with declines(Invalid, "no_control"):
        probing.probe_on_bench(ws, a_pedal(ws), ProbeIn(settings={"drive": "5"}))
    with declines(Conflict, "no_playing"):
        probing.playing(ws, a_probe(ws, a_pedal(ws), tmp_path))


def test_what_somebody_waits_for_does_not_queue_behind_long_work(ws: Workspace) -> None:
    long = ws.workers.submit(Task("long", sleep_s), 4.0, ws.desk())
    assert ws.ask(Task("short", sleep_s), 0.0) is None
    assert not long.done()


def test_other_origins_and_odd_questions_are_turned_away(client: TestClient) -> None:
    made = client.post("/api/gear", json={"kind": "pedal", "name": "Wendle", "controls": []}, headers=ORIGIN).json()
    foreign = {"origin": "http://elsewhere.example"}
    assert client.post(f"/api/gear/{made['id']}/probes/bench", json={}, headers=foreign).status_code == 403
    assert client.get("/api/testfile.wav", params={"part": "everything"}).status_code == 422
    assert client.get("/api/testfile.wav", params={"rate": 8000}).status_code == 422
    assert client.get("/api/gear/999/evidence").status_code == 404
    assert client.get(f"/api/gear/{made['id']}/against/999").status_code == 404
    assert client.patch("/api/probes/1", json={"nominal_dbfs": 3}, headers=ORIGIN).status_code == 422
    both = client.get(f"/api/gear/{made['id']}/against/{made['id']}").json()
    assert both["differences"] == []


def test_a_result_reads_well_as_text(tmp_path: Path) -> None:
    path = tmp_path / "a.wav"
    rehearse_device("compressor", {"squeeze": 0.7}, "bursts", path, 1)
    from cata.core.measure.device.returned import as_written

    found = device_file(as_written("bursts"), path)
    text = as_text(found)
    assert "attack_ms: " in text
    assert all(note in text for note in found["notes"])
    missing = device_file(as_written("bursts"), tmp_path / "none.wav")
    assert missing["refused"] in as_text(missing)


def test_removing_a_loopback_lets_its_measurements_be_read_without_it_until_undone(
    ws: Workspace, tmp_path: Path
) -> None:
    gear = a_pedal(ws)
    path = tmp_path / "cable.wav"
    rehearse_device("bypass", {}, "bursts", path, 1)
    loop = probing.add_probe(ws, None, path.name, ws.vault.add(path), ProbeIn())
    runner_for(ws).run_until_idle()
    probe = a_probe(ws, gear, tmp_path)
    with ws.reading() as session:
        assert session.get_one(Probe, probe).loop_id == loop
    probing.remove_probe(ws, loop)
    with ws.reading() as session:
        assert session.get_one(Probe, probe).loop_id is None
    undo(ws)
    with ws.reading() as session:
        assert session.get_one(Probe, probe).loop_id == loop
