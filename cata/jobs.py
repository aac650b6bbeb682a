"""Background work: a pool of worker processes behind ``concurrent.futures``, and the events it causes.

Workers are started by a fork server that has the numerical libraries loaded, so the web process never
loads them. A worker that dies takes only its own task with it: the pool is started anew.
"""

from __future__ import annotations

import multiprocessing
import os
import queue
import threading
from collections.abc import Callable, Iterator
from concurrent.futures import Executor, Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from contextlib import contextmanager, suppress
from typing import Any, ParamSpec, TypeVar

P = ParamSpec("P")
R = TypeVar("R")

THREAD_VARIABLES = ("OPENBLAS_NUM_THREADS", "OMP_NUM_THREADS", "MKL_NUM_THREADS")
PRELOAD = "cata.services.warm"


def worker_count() -> int:
    """One worker a core this process may use, at least one."""
    return max(1, len(os.sched_getaffinity(0)) if hasattr(os, "sched_getaffinity") else os.cpu_count() or 1)


class Pool:
    """A pool of worker processes that survives the death of a worker."""

    def __init__(self, workers: int | None = None) -> None:
        self.workers = workers or worker_count()
        self._lock = threading.Lock()
        self._executor: Executor | None = None

    def _start(self) -> Executor:
        # One worker a core; a BLAS that opens threads of its own would fight them.
        for variable in THREAD_VARIABLES:
            os.environ.setdefault(variable, "1")
        method = "forkserver" if "forkserver" in multiprocessing.get_all_start_methods() else "spawn"
        context = multiprocessing.get_context(method)
        if method == "forkserver":
            context.set_forkserver_preload([PRELOAD])
        return ProcessPoolExecutor(self.workers, mp_context=context)

    def submit(self, task: Callable[P, R], *args: P.args, **kwargs: P.kwargs) -> Future[R]:
        """Run a task in a worker."""
        with self._lock:
            if self._executor is None:
                self._executor = self._start()
            try:
                return self._executor.submit(task, *args, **kwargs)
            except BrokenProcessPool:
                self._executor = self._start()
                return self._executor.submit(task, *args, **kwargs)

    def renew(self) -> None:
        """Drop a pool whose worker died; the next task starts a new one."""
        with self._lock:
            if self._executor is not None:
                self._executor.shutdown(wait=False, cancel_futures=True)
            self._executor = None

    def close(self) -> None:
        """Stop all workers; tasks that have not begun are dropped (what they stood for is still due)."""
        with self._lock:
            if self._executor is not None:
                self._executor.shutdown(wait=True, cancel_futures=True)
            self._executor = None


class Bus:
    """Events to every listener (an open page); a slow listener loses its oldest events, never blocks work."""

    CAPACITY = 256

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._listeners: set[queue.Queue[dict[str, Any]]] = set()

    def publish(self, event: dict[str, Any]) -> None:
        """Tell every listener."""
        with self._lock:
            for listener in self._listeners:
                if listener.full():
                    with suppress(queue.Empty):
                        listener.get_nowait()
                listener.put_nowait(event)

    @contextmanager
    def listen(self) -> Iterator[queue.Queue[dict[str, Any]]]:
        """A queue that receives events until the context ends."""
        listener: queue.Queue[dict[str, Any]] = queue.Queue(self.CAPACITY)
        with self._lock:
            self._listeners.add(listener)
        try:
            yield listener
        finally:
            with self._lock:
                self._listeners.discard(listener)
