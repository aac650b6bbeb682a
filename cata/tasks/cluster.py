"""Workers elsewhere: the same tasks on a Dask cluster, behind the same interface.

``dask.distributed`` is an optional extra (``pip install 'cata[cluster]'``). The workers need Cata installed and see the
data directory as a shared folder or behind an fsspec address.
"""

from __future__ import annotations

import importlib
import threading
from concurrent.futures import Future
from contextlib import suppress
from typing import Any, TypeVar

from cata.errors import Away, Died, Refused
from cata.said import Said, said
from cata.tasks.desk import Desk
from cata.tasks.process import PRELOAD
from cata.tasks.shape import Task
from cata.tasks.workers import LocalWorkers, Workers

P = TypeVar("P")
R = TypeVar("R")

CONNECT_S, AGAIN_S, WATCH_S = 10, 3, 1.0
DEATHS = 3
"""How many workers may die on one task before it is the task's fault."""
AHEAD = 2


def open_workers(address: str, count: int | None) -> Workers:
    """Workers of a cluster where an address is given, else of this machine."""
    return ClusterWorkers(address) if address else LocalWorkers(count)


def be_ready() -> None:
    """Load what the tasks need: the first take of a new worker waits two seconds less."""
    importlib.import_module(PRELOAD)


def run_elsewhere(task: Task[P, R], payload: P, desk: Desk) -> R:
    """Run a task in a worker of a cluster, which sees to its own limits."""
    return task.run(payload, desk)


class ClusterWorkers:
    """The workers of a Dask cluster. Later ones are used as well; what one that dies had is done by others.

    A scheduler that ends is looked for until it is back, under the same address; what it had is done again.
    """

    def __init__(self, address: str) -> None:
        """Connect. Refused where the extra is not installed or nobody answers."""
        try:
            self._distributed: Any = importlib.import_module("distributed")
        except ImportError as error:
            raise Refused("a cluster needs the extra: pip install 'cata[cluster]'", "no_cluster_extra") from error
        self._address = address
        try:
            self._client = self._connect(CONNECT_S)
        except (OSError, ValueError) as error:
            raise Refused(f"no cluster answers at {address}: {error}", "no_cluster") from error
        self._under_way: set[Future[Any]] = set()
        self._lock = threading.Lock()
        self._closed = threading.Event()
        self._met: set[str] = set()
        self._threads: int | None = self._counted()
        threading.Thread(target=self._watch, name="cluster", daemon=True).start()

    def _connect(self, timeout_s: float) -> Any:
        return self._distributed.Client(self._address, timeout=timeout_s, set_as_default=False)

    @property
    def room(self) -> int:
        """Enough tasks that no worker waits for the next; none while the cluster is away."""
        return AHEAD * (self._threads or 0)

    @property
    def trouble(self) -> Said | None:
        """Why no work goes on: nobody answers, or nobody works there."""
        if self._threads is None:
            return said("away", "The cluster at {address} does not answer. Work goes on as soon as it does.",
                        address=self._address)  # fmt: skip
        if self._threads == 0:
            return said("no_workers", "The cluster at {address} has no workers. Work goes on as soon as one joins.",
                        address=self._address)  # fmt: skip
        return None

    def submit(self, task: Task[P, R], payload: P, desk: Desk) -> Future[R]:
        """Run a task on any worker."""
        outer: Future[R] = Future()
        outer.set_running_or_notify_cancel()
        with self._lock:
            self._under_way.add(outer)
        try:
            inner = self._client.submit(run_elsewhere, task, payload, desk, pure=False)
        except Exception:  # whatever a client says whose scheduler has just gone
            self._give_up([outer])
            return outer
        outer.inner = inner  # type: ignore[attr-defined]
        inner.add_done_callback(lambda done: self._done(done, outer))
        return outer

    def _done(self, inner: Any, outer: Future[Any]) -> None:
        with self._lock:
            self._under_way.discard(outer)
        with suppress(Exception):  # given up meanwhile
            if inner.status == "finished":
                outer.set_result(inner.result())
            elif inner.status == "error" and not isinstance(inner.exception(), self._distributed.KilledWorker):
                outer.set_exception(inner.exception())
            elif inner.status == "error":
                outer.set_exception(Died("The workers that did this died, one after another."))
            else:
                outer.set_exception(_away())
        with suppress(Exception):
            inner.release()

    def _give_up(self, futures: list[Future[Any]]) -> None:
        for outer in futures:
            with self._lock:
                self._under_way.discard(outer)
            with suppress(Exception):  # it came to an end after all
                outer.set_exception(_away())

    def _counted(self) -> int | None:
        """How many tasks the cluster does at once; None where it does not answer."""
        if self._client.status != "running":
            return None
        try:
            threads: dict[str, int] = self._client.nthreads()
            self._meet(set(threads))
        except Exception:  # of whatever kind: it does not answer
            return None
        return sum(threads.values())

    def _meet(self, workers: set[str]) -> None:
        """Have workers that are new load their libraries before there is work."""
        for new in workers - self._met:
            ready = self._client.submit(be_ready, workers=[new], pure=False)
            self._distributed.fire_and_forget(ready)
        self._met = workers

    def _watch(self) -> None:
        """Know how many workers there are, and look for a scheduler that is gone."""
        while not self._closed.wait(WATCH_S):
            self._threads = self._counted()
            if self._threads is None and not self._closed.is_set():
                self._give_up(list(self._under_way))
                if self._client.status == "closed":
                    with suppress(OSError, ValueError):
                        self._client = self._connect(AGAIN_S)

    def cancel(self, future: Future[Any]) -> None:
        """Stop a task that has not begun; one that runs ends by itself and is not kept."""
        with suppress(Exception):
            self._client.cancel([future.inner], force=True)  # type: ignore[attr-defined]

    def close(self) -> None:
        """Let the cluster go; it drops what was asked of it."""
        self._closed.set()
        with suppress(Exception):
            self._client.close(timeout=2)


def _away() -> Away:
    return Away("The cluster that did this is away; it is done again when it is back.")
