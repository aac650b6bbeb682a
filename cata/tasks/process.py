"""A worker process: how one is begun, what it does first, and how it ends.

Workers are started by a fork server that has the numerical libraries loaded. They end with the server, however it ends:
each watches a pipe whose other end only the server holds.
"""

from __future__ import annotations

import multiprocessing
import os
import signal
import threading
import time
from collections.abc import Callable, Iterator
from concurrent.futures import Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from contextlib import contextmanager, suppress
from dataclasses import dataclass, field
from multiprocessing import resource_tracker
from multiprocessing.connection import Connection
from typing import Any, TypeVar

from cata.tasks.desk import Desk
from cata.tasks.shape import Task
from cata.threads import THREAD_VARIABLES

P = TypeVar("P")
R = TypeVar("R")

PRELOAD = "cata.tasks.warm"
STARTS, START_AGAIN_S = 5, 0.2


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
class Job:
    """A task that somebody waits for."""

    task: Task[Any, Any]
    payload: Any
    desk: Desk
    future: Future[Any] = field(default_factory=Future)
    begun: float = 0.0


class Slot:
    """One worker process; it is started with its first task and again after each death."""

    def __init__(self, nice: int) -> None:
        self.nice = nice
        self.job: Job | None = None
        self._executor: ProcessPoolExecutor | None = None
        self._leash: Connection | None = None

    def start(self, job: Job, done: Callable[[Slot, Job, Future[Any]], None]) -> bool:
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

    def renew(self, *, wait: bool = False) -> None:
        """Forget a process that is gone; ``wait`` until nothing of it is left."""
        executor, self._executor = self._executor, None
        self._let_go()
        if executor is not None:
            executor.shutdown(wait=wait, cancel_futures=True)

    @property
    def pids(self) -> list[int]:
        """The process that was started, if any (for tests that end it)."""
        return [] if self._executor is None else list(self._executor._processes or {})
