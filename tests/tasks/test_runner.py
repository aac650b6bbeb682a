"""The runner: one poisoned file of thirty, workers killed at any time, failures that are said and tried again."""

from __future__ import annotations

import errno
import os
import random
import shutil
import signal
import threading
from collections import namedtuple
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import pytest
from sqlmodel import select

from cata.disk import FULL
from cata.errors import Died
from cata.services.background import DUTIES, runner_for
from cata.services.flights.table import FlightIn, add_flight
from cata.services.match.audits import TEST_AUDIT
from cata.services.match.findings import get_match
from cata.services.standing.flight import get_flight
from cata.services.takes.analysis import ANALYSIS
from cata.services.takes.placing import arrange
from cata.services.takes.receiving import add_take
from cata.services.upkeep.sweeping import retry
from cata.services.workspace import Workspace, open_workspace
from cata.store.tables import Failure, Take
from cata.tasks import takes as tasks
from cata.tasks.desk import Desk
from cata.tasks.runner import Runner, failure_of
from cata.tasks.shape import Due, Task
from cata.tasks.workers import LocalWorkers
from tests.conftest import SOME_FACTS, until, write_take

POISON = 17


def analyse_or_die(take: tasks.ToAnalyse, desk: Desk) -> tasks.Analysed:
    """The real analysis, but one file kills whoever reads it."""
    if (Path(desk.root) / take.file).stat().st_size % 1000 == POISON:
        os.kill(os.getpid(), signal.SIGKILL)
    return tasks.analyse(take, desk)


def full_disk(_take: tasks.ToAnalyse, _desk: Desk) -> tasks.Analysed:
    raise OSError(errno.ENOSPC, "No space left on device")


@pytest.fixture
def pair(tmp_path: Path) -> Iterator[Workspace]:
    workspace = open_workspace(tmp_path / "data", workers=2)
    yield workspace
    workspace.close()


def filled(ws: Workspace, folder: Path, takes: int, poisoned: int = -1) -> int:
    flight = add_flight(ws, FlightIn(name="F"))
    for number in range(takes):
        path = write_take(folder / f"C{number // 3:02d} - T{number % 3}.wav", hz=180.0 + number)
        data = path.read_bytes()
        if number == poisoned:
            data += b"\0" * ((POISON - len(data)) % 1000)
        elif len(data) % 1000 == POISON:
            data += b"\0\0"
        path.write_bytes(data)
        add_take(ws, flight, path.name, ws.vault.add(path), SOME_FACTS)
    return flight


@pytest.mark.certify
def test_workers_die_all_the_time_and_one_file_kills_them_yet_all_others_are_analysed(
    pair: Workspace, tmp_path: Path
) -> None:
    flight = filled(pair, tmp_path, 30, poisoned=13)
    workers = pair.workers
    assert isinstance(workers, LocalWorkers)
    stop, rng = threading.Event(), random.Random(7)

    def kill_now_and_then() -> None:
        for _ in range(6):
            if stop.wait(rng.uniform(0.3, 1.2)):
                return
            for pid in rng.sample(workers.pids(), min(1, len(workers.pids()))):
                os.kill(pid, signal.SIGKILL)

    killer = threading.Thread(target=kill_now_and_then)
    killer.start()
    Runner(pair, (replace(ANALYSIS, task=Task("analyse", analyse_or_die)),)).run_until_idle()
    stop.set()
    killer.join()
    states = [take.state for take in get_flight(pair, flight).takes]
    assert states.count("ready") == 29
    assert states[13] == "failed"
    (failure,) = get_flight(pair, flight).failures
    assert (failure.duty, failure.code) == ("take", "died")


def test_a_failed_audit_is_said_and_tried_again(ws: Workspace, tmp_path: Path) -> None:
    flight = filled(ws, tmp_path, 4)
    arrange(ws, flight)
    Runner(ws, (ANALYSIS,)).run_until_idle()
    broken = replace(TEST_AUDIT, task=Task("broken", int))  # type: ignore[arg-type]
    Runner(ws, tuple(broken if duty is TEST_AUDIT else duty for duty in DUTIES)).run_until_idle()
    failures = get_flight(ws, flight).failures
    assert {(one.duty, one.code) for one in failures} == {("test", "failed")}
    match = get_match(ws, flight)
    assert not match.pending
    assert match.failures == failures
    assert match.alignments == []
    retry(ws, flight)
    assert get_match(ws, flight).pending
    runner_for(ws).run_until_idle()
    assert len(get_match(ws, flight).alignments) == 4
    assert get_flight(ws, flight).failures == []


def test_what_a_full_disk_stopped_goes_on_when_there_is_room(
    ws: Workspace, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    flight = filled(ws, tmp_path, 1)
    usage = namedtuple("usage", "total used free")
    monkeypatch.setattr(shutil, "disk_usage", lambda _path: usage(0, 0, 1000))
    with pytest.raises(OSError, match="full"):
        Runner(ws, (ANALYSIS,)).run_until_idle()
    assert ws.trouble is not None
    assert not Runner(ws, (ANALYSIS,))._step()
    monkeypatch.setattr(shutil, "disk_usage", lambda _path: usage(0, 0, 6 << 20))
    assert ws.trouble is None
    Runner(ws, (replace(ANALYSIS, task=Task("full", full_disk)),)).run_until_idle()
    assert get_flight(ws, flight).failures[0].code == FULL
    Runner(ws, (ANALYSIS,)).run_until_idle()
    assert get_flight(ws, flight).takes[0].state == "failed"
    monkeypatch.setattr(shutil, "disk_usage", lambda _path: usage(0, 0, 1 << 30))
    Runner(ws, (ANALYSIS,)).run_until_idle()
    assert get_flight(ws, flight).takes[0].state == "ready"


def test_a_result_of_data_that_went_on_is_not_kept(ws: Workspace, tmp_path: Path) -> None:
    flight = filled(ws, tmp_path, 1)
    late: list[tuple[Due, tasks.Analysed]] = []
    runner = Runner(ws, (replace(ANALYSIS, keep=lambda _ws, due, found: late.append((due, found))),))
    runner._step()
    runner._collect(timeout=60)
    with ws.writing() as session:
        take = session.exec(select(Take)).one()
        take.lead_in_s = 0.25
        session.add(take)
    for due, found in late:
        ANALYSIS.keep(ws, due, found)
    assert get_flight(ws, flight).takes[0].state == "waiting"


def test_a_stopped_flight_waits_and_goes_on(pair: Workspace, tmp_path: Path) -> None:
    flight = filled(pair, tmp_path, 3)
    runner = runner_for(pair)
    runner.pause(flight)
    assert runner.is_paused(flight)
    runner.run_until_idle()
    assert {take.state for take in get_flight(pair, flight).takes} == {"waiting"}
    runner.resume(flight)
    runner.run_until_idle()
    assert {take.state for take in get_flight(pair, flight).takes} == {"ready"}
    with pair.reading() as session:
        assert session.exec(select(Failure)).all() == []


def test_every_failure_has_a_code() -> None:
    assert failure_of(Died("gone"), 1 << 40)[0] == "died"
    assert failure_of(OSError(errno.EDQUOT, "quota"), 1 << 40)[0] == FULL
    assert failure_of(ZeroDivisionError(), 1 << 40)[0] == "failed"
    # What a library says of a full disk tells nothing.
    assert failure_of(RuntimeError("flush failed"), 1 << 20)[0] == FULL


def test_the_thread_does_what_is_due_and_stops(ws: Workspace, tmp_path: Path) -> None:
    flight = filled(ws, tmp_path, 1)
    runner = runner_for(ws)
    runner.start()
    until(lambda: get_flight(ws, flight).takes[0].state, "ready".__eq__)
    runner.stop()
