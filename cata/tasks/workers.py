"""Workers: processes beside the server, each behind an executor of its own.

What dies takes only its own task with it, and it is known at once which one that was. Workers are started by a fork
server that has the numerical libraries loaded. They end with the server, however it ends: each watches a pipe whose
other end only the server holds.
"""

from __future__ import annotations

import multiprocessing
import os
import signal
import threading
import time
from collections import deque
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import CancelledError, Future, ProcessPoolExecutor
from concurrent.futures import TimeoutError as Late
from concurrent.futures.process import BrokenProcessPool
from contextlib import contextmanager, suppress
from dataclasses import dataclass, field
from multiprocessing import resource_tracker
from multiprocessing.connection import Connection
from typing import Any, Protocol, TypeVar

from cata.errors import Died, TooSlow
from cata.said import Said
from cata.tasks.desk import Desk
from cata.tasks.shape import Task
from cata.threads import THREAD_VARIABLES

P = TypeVar("P")
R = TypeVar("R")

PRELOAD = "cata.tasks.warm"
ANSWER_LIMIT_S = 60.0
"""The longest that anybody waits for an answer."""
STEPS_BACK = 10
STARTS, START_AGAIN_S = 5, 0.2


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


def _context() -> Any:
    # One worker a core; a BLAS that opens threads of its own would fight them.
    for variable in THREAD_VARIABLES:
        os.environ.setdefault(variable, "1")
    method = "forkserver" if "forkserver" in multiprocessing.get_all_start_methods() else "spawn"
    context = multiprocessing.get_context(method)
    if method == "forkserver":
        context.set_forkserver_preload([PRELOAD])
    return context


@contextmanager
def _undisturbed() -> Iterator[None]:
    """What is started here does not hear Ctrl+C: it would tell of it before it knows that the server decides."""
    if not hasattr(signal, "pthread_sigmask"):
        yield
        return
    resource_tracker.ensure_running()  # begun later, it would let Ctrl+C in again
    before = signal.pthread_sigmask(signal.SIG_BLOCK, {signal.SIGINT})
    try:
        yield
    finally:
        signal.pthread_sigmask(signal.SIG_SETMASK, before)


def _begin(leash: Connection, nice: int) -> None:
    """The first thing a worker does."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # Ctrl+C reaches the whole group; the server decides
    try:
        leash.send(os.getpid())
    except OSError:  # the server let go before this began
        os._exit(0)
    threading.Thread(target=_end_with_the_server, args=(leash,), daemon=True).start()
    if nice and hasattr(os, "nice"):
        os.nice(nice)  # the server and the pages it answers go first


def _end_with_the_server(leash: Connection) -> None:
    with suppress(EOFError, OSError):
        leash.recv()
    os._exit(0)


def perform(task: Task[P, R], payload: P, desk: Desk) -> R:
    """Run a task in this process, which ends itself where it takes longer than it may."""
    if hasattr(signal, "setitimer"):
        # Not an exception: what hangs inside a library would never see it.
        signal.signal(signal.SIGALRM, signal.SIG_DFL)
        signal.setitimer(signal.ITIMER_REAL, task.limit_s)
    try:
        return task.run(payload, desk)
    finally:
        if hasattr(signal, "setitimer"):
            signal.setitimer(signal.ITIMER_REAL, 0)


@dataclass(eq=False)
class _Job:
    task: Task[Any, Any]
    payload: Any
    desk: Desk
    future: Future[Any] = field(default_factory=Future)
    begun: float = 0.0


class _Slot:
    """One worker process; it is started with its first task and again after each death."""

    def __init__(self, nice: int) -> None:
        self.nice = nice
        self.job: _Job | None = None
        self._executor: ProcessPoolExecutor | None = None
        self._leash: Connection | None = None

    def start(self, job: _Job, done: Callable[[_Slot, _Job, Future[Any]], None]) -> bool:
        """Begin a job; False where no process can be had for it."""
        for again in range(STARTS):
            self.job, job.begun = job, time.monotonic()
            try:
                with _undisturbed():
                    inner = self._open().submit(perform, job.task, job.payload, job.desk)
            except (BrokenProcessPool, OSError, EOFError):
                # It died while it had nothing to do, or what starts workers was ended while it began.
                self.renew()
                time.sleep(again * START_AGAIN_S)
                continue
            inner.add_done_callback(lambda future: done(self, job, future))
            return True
        self.job = None
        return False

    def _open(self) -> ProcessPoolExecutor:
        if self._executor is None:
            context = _context()
            self._leash, theirs = context.Pipe()
            self._executor = ProcessPoolExecutor(
                1, mp_context=context, initializer=_begin, initargs=(theirs, self.nice)
            )
        return self._executor

    def kill(self) -> None:
        """End the process now, whatever it does; the executor then tells of a death."""
        leash = self._leash
        with suppress(OSError, EOFError):
            if leash is not None and leash.poll(0):
                os.kill(leash.recv(), signal.SIGKILL)
        self._let_go()

    def _let_go(self) -> None:
        # Who ends a task and who waits for its process may both come here at once.
        leash, self._leash = self._leash, None
        if leash is not None:
            with suppress(OSError):
                leash.close()

    def renew(self) -> None:
        """Forget a process that is gone."""
        executor, self._executor = self._executor, None
        self._let_go()
        if executor is not None:
            executor.shutdown(wait=False, cancel_futures=True)


class LocalWorkers:
    """Worker processes on this machine; tasks wait in order until one is free."""

    def __init__(self, count: int | None = None, *, nice: int | None = None) -> None:
        self.count = count or worker_count()
        self._slots = [_Slot(STEPS_BACK if nice is None else nice) for _ in range(self.count)]
        self._waiting: deque[_Job] = deque()
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
        job = _Job(task, payload, desk)
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

    def _done(self, slot: _Slot, job: _Job, inner: Future[Any]) -> None:
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
        return [child.pid for slot in self._slots for child in _children(slot)]

    def close(self) -> None:
        """End all workers at once; tasks that have not ended are dropped (what they stood for is still due)."""
        with self._lock:
            self._closed = True
            waiting, self._waiting = list(self._waiting), deque()
        for job in waiting:
            job.future.cancel()
        for slot in self._slots:
            slot.kill()
            slot.renew()


def _children(slot: _Slot) -> list[Any]:
    executor = slot._executor
    return list((executor._processes or {}).values()) if executor is not None else []


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
