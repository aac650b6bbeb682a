"""Workers: processes beside the server, each behind an executor of its own.

What dies takes only its own task with it, and it is known at once which one that was.
"""

from __future__ import annotations

import os
import threading
import time
from collections import deque
from collections.abc import Iterable, Iterator
from concurrent.futures import CancelledError, Future
from concurrent.futures import TimeoutError as Late
from concurrent.futures.process import BrokenProcessPool
from contextlib import suppress
from typing import Any, Protocol, TypeVar

from cata.errors import Died, TooSlow
from cata.said import Said
from cata.tasks.desk import Desk
from cata.tasks.process import Job, Slot
from cata.tasks.shape import Task

P = TypeVar("P")
R = TypeVar("R")

ANSWER_LIMIT_S = 60.0
"""The longest that anybody waits for an answer."""
STEPS_BACK = 10


class Workers(Protocol):
    """Where tasks run."""

    @property
    def room(self) -> int:
        """How many tasks at once keep every worker busy."""

    @property
    def trouble(self) -> Said | None:
        """Why no work goes on, for a person; None where it does."""

    def submit(self, task: Task[P, R], payload: P, desk: Desk) -> Future[R]:
        """Run a task; the future raises Died or TooSlow where the worker did not survive it."""

    def cancel(self, future: Future[Any]) -> None:
        """Stop a task, also one that runs."""

    def close(self) -> None:
        """Stop at once; what was begun is dropped."""


def worker_count() -> int:
    """One worker a core this process may use, at least one."""
    return max(1, len(os.sched_getaffinity(0)) if hasattr(os, "sched_getaffinity") else os.cpu_count() or 1)


class LocalWorkers:
    """Worker processes on this machine; tasks wait in order until one is free."""

    def __init__(self, count: int | None = None, *, nice: int | None = None) -> None:
        self.count = count or worker_count()
        self._slots = [Slot(STEPS_BACK if nice is None else nice) for _ in range(self.count)]
        self._waiting: deque[Job] = deque()
        self._lock = threading.RLock()
        self._closed = False

    @property
    def room(self) -> int:
        """One task more than workers: the next is there when one is done."""
        return self.count + 1

    @property
    def trouble(self) -> Said | None:
        """None: a process that ends is begun anew with its next task."""
        return None

    def submit(self, task: Task[P, R], payload: P, desk: Desk) -> Future[R]:
        """Run a task as soon as a worker is free."""
        job = Job(task, payload, desk)
        with self._lock:
            self._waiting.append(job)
            self._feed()
        return job.future

    def _feed(self) -> None:
        for slot in self._slots:
            if slot.job is not None or self._closed:
                continue
            while self._waiting:
                job = self._waiting.popleft()
                if job.future.set_running_or_notify_cancel():
                    if slot.start(job, self._done):
                        break
                    job.future.set_exception(_died())

    def _done(self, slot: Slot, job: Job, inner: Future[Any]) -> None:
        error = None if inner.cancelled() else inner.exception()
        dead = inner.cancelled() or isinstance(error, BrokenProcessPool)
        with self._lock:
            slot.job = None
            if dead:
                slot.renew()
            self._feed()
        with suppress(Exception):  # somebody gave the future up meanwhile
            if dead:
                slow = time.monotonic() - job.begun >= job.task.limit_s
                job.future.set_exception(_too_slow(job.task.limit_s) if slow else _died())
            elif error is not None:
                job.future.set_exception(error)
            else:
                job.future.set_result(inner.result())

    def cancel(self, future: Future[Any]) -> None:
        """Drop a task that waits; end the worker of one that runs."""
        if future.cancel():
            return
        with self._lock:
            slot = next((one for one in self._slots if one.job is not None and one.job.future is future), None)
        if slot is not None:
            slot.kill()

    def pids(self) -> list[int]:
        """The processes that were started (for tests that end them)."""
        return [pid for slot in self._slots for pid in slot.pids]

    def close(self) -> None:
        """End all workers at once; tasks that have not ended are dropped (what they stood for is still due)."""
        with self._lock:
            self._closed = True
            waiting, self._waiting = list(self._waiting), deque()
        for job in waiting:
            job.future.cancel()
        for slot in self._slots:
            slot.kill()
        for slot in self._slots:
            # Who looks after a process must be through with it, or writes to a closed pipe at the very end.
            slot.renew(wait=True)


def ready(_nothing: None, _desk: Desk) -> None:
    """Do nothing: a worker that did it has all loaded that it needs."""


READY = Task("be ready", ready, limit_s=60)


def _died() -> Died:
    return Died("The worker that did this died; nothing else was touched.")


def _too_slow(limit_s: float) -> TooSlow:
    return TooSlow(f"This took longer than {limit_s:.0f} s, which nothing of its kind should.", limit_s=limit_s)


def answer(workers: Workers, task: Task[P, R], payload: P, desk: Desk, limit_s: float = ANSWER_LIMIT_S) -> R:
    """The result of a task that somebody waits for, asked once more where the worker died.

    Raises what the task raises; TooSlow after ``limit_s``, Died where the worker died twice.
    """
    end = time.monotonic() + limit_s
    for last in (False, True):
        future = workers.submit(task, payload, desk)
        try:
            return future.result(timeout=max(0.0, end - time.monotonic()))
        except Late:
            workers.cancel(future)
            raise _too_slow(limit_s) from None
        except CancelledError:
            raise _died() from None
        except Died:
            if last:
                raise
    raise AssertionError("unreachable")


def each(workers: Workers, task: Task[P, R], payloads: Iterable[P], desk: Desk) -> Iterator[R]:
    """The results of a task on many payloads, in their order; the rest is stopped where one fails."""
    futures = [workers.submit(task, payload, desk) for payload in payloads]
    try:
        for future in futures:
            yield future.result()
    finally:
        for future in futures:
            workers.cancel(future)
