"""Workers elsewhere: the same work on a Dask cluster, one of its workers killed in the middle."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from pathlib import Path

import distributed
import pytest

from cata.errors import Refused
from cata.services.background import runner_for
from cata.services.standing.flight import get_flight
from cata.services.workspace import Workspace, open_workspace
from cata.tasks.cluster import ClusterWorkers, open_workers
from tests.conftest import free_port, until
from tests.tasks.test_runner import filled


@pytest.fixture
def cluster() -> Iterator[distributed.LocalCluster]:
    with distributed.LocalCluster(
        n_workers=2, threads_per_worker=1, processes=True, dashboard_address=None, silence_logs=50
    ) as two:
        yield two


@pytest.fixture
def elsewhere(tmp_path: Path, cluster: distributed.LocalCluster) -> Iterator[Workspace]:
    workspace = open_workspace(tmp_path / "data", cluster=cluster.scheduler_address, seen_as=f"local://{tmp_path}/data")
    yield workspace
    workspace.close()


@pytest.mark.filterwarnings("ignore")
@pytest.mark.certify
def test_takes_are_analysed_elsewhere_and_a_killed_worker_loses_none(
    elsewhere: Workspace, cluster: distributed.LocalCluster, tmp_path: Path
) -> None:
    flight = filled(elsewhere, tmp_path, 24)
    assert isinstance(elsewhere.workers, ClusterWorkers)
    assert elsewhere.workers.room >= 2
    worker = next(iter(cluster.workers.values()))
    threading.Timer(2.0, lambda: os.kill(worker.process.pid, signal.SIGKILL)).start()
    runner_for(elsewhere).run_until_idle()
    takes = get_flight(elsewhere, flight).takes
    assert [take.state for take in takes] == ["ready"] * 24
    assert len(list((tmp_path / "data/copies").glob("*.flac"))) == 24


def test_a_cluster_that_is_not_there_is_told(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("cata.tasks.cluster.CONNECT_S", 0.3)
    with pytest.raises(Refused) as missing:
        open_workers("tcp://127.0.0.1:1", None)
    assert missing.value.code == "no_cluster"


def _begin(*command: str) -> subprocess.Popen[bytes]:
    return subprocess.Popen([sys.executable, "-m", *command], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)


def _end(process: subprocess.Popen[bytes]) -> None:
    process.kill()
    process.wait()


@pytest.mark.filterwarnings("ignore")
@pytest.mark.certify
def test_a_scheduler_that_is_started_again_is_found_and_what_it_had_is_done(tmp_path: Path) -> None:
    port = free_port()
    address = f"tcp://127.0.0.1:{port}"
    scheduler = ("distributed.cli.dask_scheduler", "--port", str(port), "--host", "127.0.0.1", "--no-dashboard")
    worker = ("distributed.cli.dask_worker", address, "--nthreads", "1", "--no-dashboard", "--no-nanny",
              "--local-directory", str(tmp_path))  # fmt: skip
    running = [_begin(*scheduler), _begin(*worker)]
    until(lambda: _answers(address), bool)
    workspace = open_workspace(tmp_path / "data", cluster=address, seen_as=f"local://{tmp_path}/data")
    workers = workspace.workers
    assert isinstance(workers, ClusterWorkers)
    until(lambda: workers.trouble, lambda trouble: trouble is None)
    flight = filled(workspace, tmp_path, 40)
    runner = runner_for(workspace)
    runner.start()
    try:
        for number in range(3):
            time.sleep(1.5)
            for process in running:
                _end(process)
            assert until(lambda: workers.trouble, bool) is not None
            assert workers.room == 0
            begun = time.monotonic()
            running = [_begin(*scheduler), _begin(*worker)]
            until(lambda: workers.trouble, lambda trouble: trouble is None, seconds=30)
            assert time.monotonic() - begun < 30, number
        until(lambda: {take.state for take in get_flight(workspace, flight).takes}, lambda states: states == {"ready"},
              seconds=180)  # fmt: skip
    finally:
        runner.stop()
        workspace.close()
        for process in running:
            _end(process)


def _answers(address: str) -> bool:
    try:
        with distributed.Client(address, timeout=1, set_as_default=False) as client:
            return bool(client.nthreads())
    except OSError:
        return False
