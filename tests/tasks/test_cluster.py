"""Workers elsewhere: the same work on a Dask cluster, one of its workers killed in the middle."""

from __future__ import annotations

import os
import signal
import threading
from collections.abc import Iterator
from pathlib import Path

import distributed
import pytest

from cata.errors import Refused
from cata.services.background import runner_for
from cata.services.standing.flight import get_flight
from cata.services.workspace import Workspace, open_workspace
from cata.tasks.cluster import ClusterWorkers, open_workers
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
