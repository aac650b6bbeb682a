"""Workers: what dies takes nothing with it, what hangs is ended, and none outlives its server."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from concurrent.futures import Future
from pathlib import Path
from typing import Any

import pytest

from cata.errors import BadAudio, Died, TooSlow
from cata.tasks.desk import PARTIAL, Desk
from cata.tasks.takes import ANALYSE, INSPECT, Look, ToAnalyse
from cata.tasks.workers import LocalWorkers, answer, each, worker_count
from tests.conftest import until, write_take
from tests.tasks.things import DECLINE, DIE, DIE_ONCE, DOUBLE, HANG, SLEEP

NOWHERE = Desk("/nowhere")


@pytest.fixture
def two() -> Iterator[LocalWorkers]:
    workers = LocalWorkers(2)
    yield workers
    workers.close()


def gone(pid: int) -> bool:
    try:
        return Path(f"/proc/{pid}/stat").read_text().split(")")[1].split()[0] == "Z"
    except (FileNotFoundError, ProcessLookupError):
        return True


def test_a_worker_that_dies_takes_only_its_own_task_with_it(two: LocalWorkers) -> None:
    futures: list[Future[Any]] = [two.submit(SLEEP, 0.2, NOWHERE) for _ in range(3)]
    poisoned = two.submit(DIE, 0, NOWHERE)
    futures += [two.submit(DOUBLE, number, NOWHERE) for number in range(6)]
    assert [future.result(30) for future in futures] == [0.2, 0.2, 0.2, 0, 2, 4, 6, 8, 10]
    with pytest.raises(Died):
        poisoned.result(30)


def test_workers_that_are_killed_while_idle_are_started_again(two: LocalWorkers) -> None:
    assert list(each(two, DOUBLE, range(4), NOWHERE)) == [0, 2, 4, 6]
    for pid in two.pids():
        os.kill(pid, signal.SIGKILL)
    until(two.pids, lambda pids: all(map(gone, pids)))
    assert sorted(answer(two, DOUBLE, number, NOWHERE) for number in range(4)) == [0, 2, 4, 6]


def test_what_somebody_waits_for_is_asked_once_more_and_then_given_up(two: LocalWorkers, tmp_path: Path) -> None:
    assert answer(two, DIE_ONCE, str(tmp_path / "mark"), NOWHERE) == "done"
    with pytest.raises(Died):
        answer(two, DIE, 0, NOWHERE)


def test_a_refusal_comes_back_with_its_code_and_its_numbers(two: LocalWorkers) -> None:
    with pytest.raises(BadAudio) as refused:
        answer(two, DECLINE, "", NOWHERE)
    assert (refused.value.code, refused.value.numbers) == ("empty", {"bytes": 0})


def test_what_hangs_is_ended_and_nobody_waits_without_a_limit(two: LocalWorkers) -> None:
    with pytest.raises(TooSlow) as late:
        two.submit(HANG, 60.0, NOWHERE).result(30)
    assert late.value.numbers == {"limit_s": 0.3}
    with pytest.raises(TooSlow):
        answer(two, SLEEP, 60.0, NOWHERE, limit_s=0.3)
    assert answer(two, DOUBLE, 4, NOWHERE) == 8


def test_a_task_is_cancelled_waiting_or_running(two: LocalWorkers) -> None:
    futures = [two.submit(SLEEP, 60.0, NOWHERE) for _ in range(3)]
    for future in reversed(futures):
        two.cancel(future)
    assert futures[2].cancelled()
    for future in futures[:2]:
        with pytest.raises(Died):
            future.result(30)
    assert answer(two, DOUBLE, 1, NOWHERE) == 2


def test_closing_does_not_wait_for_what_runs() -> None:
    workers = LocalWorkers(1)
    workers.submit(SLEEP, 60.0, NOWHERE)
    until(workers.pids, bool)
    pids = workers.pids()
    begun = time.monotonic()
    workers.close()
    until(lambda: [gone(pid) for pid in pids], all)
    assert time.monotonic() - begun < 5
    assert worker_count() >= 1


def test_a_server_that_is_killed_leaves_no_worker_behind() -> None:
    program = (
        "import time; from cata.tasks.desk import Desk; from cata.tasks.workers import LocalWorkers\n"
        "from tests.tasks.things import SLEEP, DOUBLE\n"
        "w = LocalWorkers(2); w.submit(DOUBLE, 1, Desk('/')).result(); w.submit(SLEEP, 600.0, Desk('/'))\n"
        "w.submit(SLEEP, 600.0, Desk('/')); time.sleep(1)\n"
        "print(*w.pids(), flush=True); time.sleep(600)"
    )
    with subprocess.Popen([sys.executable, "-c", program], stdout=subprocess.PIPE, text=True) as server:
        assert server.stdout is not None
        pids = [int(pid) for pid in server.stdout.readline().split()]
        assert len(pids) == 2
        server.send_signal(signal.SIGKILL)
    until(lambda: [gone(pid) for pid in pids], all)


def half(path: Path) -> None:
    path.write_text("half")
    raise OSError("full")


def test_a_file_is_written_whole_or_not_at_all(tmp_path: Path) -> None:
    desk = Desk(str(tmp_path))
    with desk.writing("a/b.txt") as path:
        assert path.name.endswith(PARTIAL)
        path.write_text("whole")
        assert not (tmp_path / "a/b.txt").exists()
    assert (tmp_path / "a/b.txt").read_text() == "whole"
    with pytest.raises(OSError, match="full"), desk.writing("a/b.txt") as path:
        half(path)
    assert [one.name for one in (tmp_path / "a").iterdir()] == ["b.txt"]
    assert (tmp_path / "a/b.txt").read_text() == "whole"


def test_files_behind_an_address_are_fetched_and_brought_back(tmp_path: Path) -> None:
    desk = Desk(f"local://{tmp_path}", "x-1")
    (tmp_path / "vault").mkdir()
    write_take(tmp_path / "vault/a.wav")
    found = ANALYSE.run(ToAnalyse("vault/a.wav", "copies/a.flac", "copies/a.npz"), desk)
    again = ANALYSE.run(ToAnalyse("vault/a.wav", "b.flac", "b.npz"), Desk(str(tmp_path)))
    assert found.results == again.results
    assert (tmp_path / "copies/a.flac").read_bytes() == (tmp_path / "b.flac").read_bytes()
    desk.tell(0.5, "half")
    assert "half" in (tmp_path / "progress/x-1.json").read_text()


def test_a_worker_says_what_a_file_is_or_why_not(tmp_path: Path) -> None:
    desk = Desk(str(tmp_path))
    (tmp_path / "empty.wav").write_bytes(b"")
    for task, payload in ((INSPECT, Look("empty.wav", 60)), (ANALYSE, ToAnalyse("empty.wav", "c.flac", "c.npz"))):
        with pytest.raises(BadAudio) as refused:
            task.run(payload, desk)  # type: ignore[arg-type]
        assert refused.value.code == "empty"
    write_take(tmp_path / "b.wav")
    told = INSPECT.run(Look("b.wav", 60), desk)
    assert (told.rate_hz, told.channels, told.codec, told.container) == (48000, 1, "PCM_16", "WAV")
    with pytest.raises(BadAudio) as long:
        INSPECT.run(Look("b.wav", 1.0), desk)
    assert long.value.code == "too_long"
    found = ANALYSE.run(ToAnalyse("b.wav", "b.flac", "b.npz", 0.3), desk)
    assert found.drawn is not None
    assert len(found.drawn.outline) == int(told.duration_s * 100)
    assert not (tmp_path / "c.flac").exists()
