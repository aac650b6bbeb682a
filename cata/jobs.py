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


def step_back() -> None:
    """Let the server and the pages it answers go first, where the system knows how."""
    if hasattr(os, "nice"):
        os.nice(10)


class Pool:
    """A pool of worker processes that survives the death of a worker.

    Beside the workers of the long work stands one more for what a person waits for: it never queues behind a take.
    """

    def __init__(self, workers: int | None = None) -> None:
        self.workers = workers or worker_count()
        self._lock = threading.Lock()
        self._executors: dict[str, Executor] = {}

    def _start(self, which: str) -> Executor:
        # One worker a core; a BLAS that opens threads of its own would fight them.
        for variable in THREAD_VARIABLES:
            os.environ.setdefault(variable, "1")
        method = "forkserver" if "forkserver" in multiprocessing.get_all_start_methods() else "spawn"
        context = multiprocessing.get_context(method)
        if method == "forkserver":
            context.set_forkserver_preload([PRELOAD])
        if which == "short":
            return ProcessPoolExecutor(1, mp_context=context)
        return ProcessPoolExecutor(self.workers, mp_context=context, initializer=step_back)

    def _submit(self, which: str, task: Callable[P, R], *args: P.args, **kwargs: P.kwargs) -> Future[R]:
        with self._lock:
            if which not in self._executors:
                self._executors[which] = self._start(which)
            try:
                return self._executors[which].submit(task, *args, **kwargs)
            except BrokenProcessPool:
                self._executors[which] = self._start(which)
                return self._executors[which].submit(task, *args, **kwargs)

    def submit(self, task: Callable[P, R], *args: P.args, **kwargs: P.kwargs) -> Future[R]:
        """Run a task in a worker."""
        return self._submit("long", task, *args, **kwargs)

    def ask(self, task: Callable[P, R], *args: P.args, **kwargs: P.kwargs) -> R:
        """The answer of a short task that somebody waits for."""
        return self._submit("short", task, *args, **kwargs).result()

    def renew(self) -> None:
        """Drop a pool whose worker died; the next task starts a new one."""
        with self._lock:
            dropped = self._executors.pop("long", None)
        if dropped is not None:
            dropped.shutdown(wait=False, cancel_futures=True)

    def close(self) -> None:
        """Stop all workers; tasks that have not begun are dropped (what they stood for is still due)."""
        with self._lock:
            for executor in self._executors.values():
                executor.shutdown(wait=True, cancel_futures=True)
            self._executors.clear()


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
