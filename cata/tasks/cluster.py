"""Workers elsewhere: the same tasks on a Dask cluster, behind the same interface.

``dask.distributed`` is an optional extra (``pip install 'cata[cluster]'``). The workers need Cata installed and see the
data directory as a shared folder or behind an fsspec address.
"""

from __future__ import annotations

import importlib
from concurrent.futures import Future
from contextlib import suppress
from typing import Any, TypeVar

from cata.errors import Died, Refused
from cata.tasks.desk import Desk
from cata.tasks.shape import Task
from cata.tasks.workers import LocalWorkers, Workers

P = TypeVar("P")
R = TypeVar("R")

CONNECT_S = 10
DEATHS = 3
"""How many workers may die on one task before it is the task's fault."""
AHEAD = 2


def open_workers(address: str, count: int | None) -> Workers:
    """Workers of a cluster where an address is given, else of this machine."""
    return ClusterWorkers(address) if address else LocalWorkers(count)


def run_elsewhere(task: Task[P, R], payload: P, desk: Desk) -> R:
    """Run a task in a worker of a cluster, which sees to its own limits."""
    return task.run(payload, desk)


class ClusterWorkers:
    """The workers of a Dask cluster. Later ones are used as well; what one that dies had is done by others."""

    def __init__(self, address: str) -> None:
        """Connect. Refused where the extra is not installed or nobody answers."""
        try:
            self._distributed: Any = importlib.import_module("distributed")
        except ImportError as error:
            raise Refused("a cluster needs the extra: pip install 'cata[cluster]'", "no_cluster_extra") from error
        try:
            self._client = self._distributed.Client(address, timeout=CONNECT_S, set_as_default=False)
        except (OSError, ValueError) as error:
            raise Refused(f"no cluster answers at {address}: {error}", "no_cluster") from error

    @property
    def room(self) -> int:
        """Enough tasks that no worker waits for the next."""
        return AHEAD * max(1, sum(self._client.nthreads().values()))

    def submit(self, task: Task[P, R], payload: P, desk: Desk) -> Future[R]:
        """Run a task on any worker."""
        inner = self._client.submit(run_elsewhere, task, payload, desk, pure=False)
        outer: Future[R] = Future()
        outer.set_running_or_notify_cancel()
        outer.inner = inner  # type: ignore[attr-defined]
        inner.add_done_callback(lambda done: self._done(done, outer))
        return outer

    def _done(self, inner: Any, outer: Future[Any]) -> None:
        with suppress(Exception):  # given up meanwhile
            if inner.status == "finished":
                outer.set_result(inner.result())
            elif inner.status == "error" and not isinstance(inner.exception(), self._distributed.KilledWorker):
                outer.set_exception(inner.exception())
            else:
                outer.set_exception(Died("The workers that did this died, one after another."))
        inner.release()

    def cancel(self, future: Future[Any]) -> None:
        """Stop a task that has not begun; one that runs ends by itself and is not kept."""
        with suppress(Exception):
            self._client.cancel([future.inner], force=True)  # type: ignore[attr-defined]

    def close(self) -> None:
        """Let the cluster go; it drops what was asked of it."""
        self._client.close(timeout=2)
