"""The runner: finds what is due, has the workers do it, and keeps what they answer or why they did not.

A task whose worker died is done again after all others, for somebody may have ended the worker; on what workers die
again and again is its own fault. A failure is kept and said, and stands until somebody tries again, the data changes,
or its cause is gone.
"""

from __future__ import annotations

import errno
import logging
import threading
import time
from collections import deque
from collections.abc import Callable, Sequence
from concurrent.futures import FIRST_COMPLETED, CancelledError, Future, wait
from contextlib import AbstractContextManager, suppress
from pathlib import Path
from typing import Any, Protocol

from sqlmodel import Session, col, delete, select

from cata.disk import FULL, FULL_BYTES, free_bytes, full, is_of_full
from cata.errors import Away, CataError, Died, Unfinished
from cata.said import Said
from cata.store.tables import Failure
from cata.tasks.desk import PROGRESS, Desk
from cata.tasks.events import Bus
from cata.tasks.shape import Due, Duty
from cata.tasks.workers import Workers

log = logging.getLogger(__name__)

IDLE_LOOK_S = 3.0
LOOK_AGAIN_S = 2.0
"""Looking for what is due takes a while in a large library: what was found holds so long, unless somebody acts."""
TRIES = 5
"""Workers that may die on a piece of work before it is its own fault: somebody may be ending workers."""
FAILED = "This failed inside Cata; what it worked on is safe."


class Board(Protocol):
    """What the runner needs of an open data directory."""

    data_dir: Path
    workers: Workers
    bus: Bus

    @property
    def now(self) -> Callable[[], str]:
        """The clock."""

    @property
    def trouble(self) -> Said | None:
        """Why no work goes on, where none does."""

    def reading(self) -> AbstractContextManager[Session]:
        """A session for looking."""

    def writing(self) -> AbstractContextManager[Session]:
        """A transaction."""

    def desk(self, due: Due | None = None) -> Desk:
        """What a worker has before it."""

    def when_due(self, call: Callable[[], None]) -> None:
        """Call this when work may be due."""


class Runner:
    """A thread that does all background work of a data directory."""

    def __init__(
        self,
        board: Board,
        duties: Sequence[Duty],
        at_start: Callable[[], object] = lambda: None,
        at_rest: Callable[[], object] = lambda: None,
    ) -> None:
        self.board = board
        self.duties = {duty.name: duty for duty in duties}
        self._at_start, self._at_rest = at_start, at_rest
        self._wake = threading.Event()
        self._stop = threading.Event()
        self._paused: set[int] = set()
        self._running: dict[Future[Any], Due] = {}
        self._waiting: deque[Due] = deque()
        self._looked_at, self._acted = 0.0, threading.Event()
        self._deaths: dict[Due, int] = {}
        self._lasting = True
        self._trouble = ""
        self._thread = threading.Thread(target=self._run, name="runner", daemon=True)
        board.when_due(self.wake)

    # --- from outside

    def start(self) -> None:
        """Begin working."""
        self._thread.start()

    def wake(self) -> None:
        """Look for due work now."""
        self._acted.set()
        self._wake.set()

    def stop(self) -> None:
        """Stop; what was begun and not kept is due again at the next start."""
        self._stop.set()
        self._wake.set()
        if self._thread.is_alive():
            self._thread.join(timeout=2)

    def pause(self, flight_id: int) -> None:
        """Stop the work on a flight until :meth:`resume`."""
        self._paused.add(flight_id)
        self.drop(flight_id)
        self.board.bus.publish({"kind": "progress", "flight_id": flight_id, "state": "paused"})

    def resume(self, flight_id: int) -> None:
        """Go on with a flight."""
        self._paused.discard(flight_id)
        self.wake()

    def is_paused(self, flight_id: int) -> bool:
        """True while a flight's work is stopped."""
        return flight_id in self._paused

    def drop(self, flight_id: int, duty: str = "") -> None:
        """Stop what runs for a flight now; it may be due again."""
        for future, due in list(self._running.items()):
            if due.flight_id == flight_id and duty in ("", due.duty):
                self.board.workers.cancel(future)

    def run_until_idle(self, *, lasting: bool = True) -> None:
        """Do all that is due in the calling thread (command line, tests); without ``lasting`` what is done soon."""
        if full(self.board.data_dir):
            raise OSError(errno.ENOSPC, "the disk is full")
        self._lasting = lasting
        while self._step() or self._running:
            self._collect(timeout=IDLE_LOOK_S)
        self._lasting = True

    # --- the thread

    def _run(self) -> None:
        self._beside(self._at_start)
        while not self._stop.is_set():
            try:
                busy = self._step() or bool(self._running)
                if busy:
                    self._collect(timeout=0.5)
            except Exception:  # the thread must outlive any single failure
                if not self._stop.is_set():
                    log.exception("runner")
                busy = False
            self._tell_of_trouble()
            if not busy:
                if not self._wake.wait(IDLE_LOOK_S):
                    self._beside(self._at_rest)
                self._wake.clear()

    def _tell_of_trouble(self) -> None:
        """Have open pages look where no work goes on, or goes on again."""
        trouble = self.board.trouble
        code = trouble.code if trouble is not None else ""
        if code != self._trouble:
            self._trouble = code
            log.warning("%s", trouble or "The work goes on.")
            self.board.bus.publish({"kind": "workers"})

    def _beside(self, call: Callable[[], object]) -> None:
        try:
            call()
        except Exception:  # house-keeping is no reason to leave the work undone
            if not self._stop.is_set():
                log.exception("beside the work")

    def _step(self) -> bool:
        """Hand out due work as far as there is room; True where any was handed out."""
        room = self.board.workers.room - len(self._running)
        # With a full disk the rows that say what failed cannot be kept either: nothing is begun until there is room.
        if room <= 0 or full(self.board.data_dir):
            return False
        with self.board.reading() as session:
            ready = [(due, self._payload(session, due)) for due in self._next(session, room)]
        for due, payload in ready:
            if payload is not None:
                task = self.duties[due.duty].task
                self._running[self.board.workers.submit(task, payload, self.board.desk(due))] = due
        return any(payload is not None for _, payload in ready)

    def _next(self, session: Session, room: int) -> list[Due]:
        """So much of what is due, the most urgent first."""
        if not self._waiting or self._acted.is_set() or time.monotonic() > self._looked_at + LOOK_AGAIN_S:
            self._acted.clear()
            taken = {(due.duty, due.ident, due.state) for due in self._running.values()}
            fresh = (due for due in self._due(session) if (due.duty, due.ident, due.state) not in taken)
            self._looked_at, self._waiting = time.monotonic(), deque(fresh)
        found: list[Due] = []
        while self._waiting and len(found) < room:
            due = self._waiting.popleft()
            if due.flight_id not in self._paused:
                found.append(due)
        return found

    def _payload(self, session: Session, due: Due) -> Any:
        try:
            return self.duties[due.duty].payload(self.board, session, due)
        except Exception as error:  # its row is not as it should be: that is no reason to leave the rest undone
            log.exception("payload of %s", due)
            self._fail(due, error)
            return None

    def _due(self, session: Session) -> list[Due]:
        failed = self._standing(session)
        found = []
        for duty in self.duties.values():
            if duty.lasting and not self._lasting:
                continue
            for due in duty.due(session):
                if due.flight_id not in self._paused and failed.get((due.duty, due.ident)) != due.state:
                    found.append(due)
        # Suspects last: whatever they do, the others are done by then.
        return sorted(found, key=lambda due: self._deaths.get(due, 0))

    def _standing(self, session: Session) -> dict[tuple[str, int], str]:
        """Failures that keep work from being due: those whose cause is not known to be gone."""
        rows = session.exec(select(Failure)).all()
        if not rows:
            return {}
        free = free_bytes(self.board.data_dir)
        return {
            (row.duty, row.ident): row.state
            for row in rows
            if row.free_bytes is None or free < row.free_bytes + FULL_BYTES
        }

    def _collect(self, timeout: float) -> None:
        """Keep what the workers have finished."""
        if not self._running:
            return
        done, _ = wait(list(self._running), timeout=timeout, return_when=FIRST_COMPLETED)
        for future in done:
            due = self._running.pop(future)
            (self.board.data_dir / PROGRESS / f"{due.name}.json").unlink(missing_ok=True)
            try:
                self._keep(due, future)
            except Exception as error:
                log.exception("keeping %s", due)
                self._fail(due, error)

    def _keep(self, due: Due, future: Future[Any]) -> None:
        duty = self.duties[due.duty]
        try:
            result = future.result()
        except CancelledError:
            return
        except Away:
            return  # it is due again, and is handed out when there is room again
        except Died as error:
            if due.flight_id in self._paused:
                return  # it was stopped, and is due when it goes on
            self._deaths[due] = self._deaths.get(due, 0) + 1
            if self._deaths[due] >= TRIES:
                self._fail(due, error)
            return
        except CataError as error:
            if duty.refuse is None or isinstance(error, Unfinished):
                self._fail(due, error)
                return
            duty.refuse(self.board, due, error)
        except Exception as error:
            log.warning("task %s", due, exc_info=error)
            self._fail(due, error)
            return
        else:
            duty.keep(self.board, due, result)
        self._deaths.pop(due, None)
        with self.board.writing() as session:
            session.exec(delete(Failure).where(col(Failure.duty) == due.duty, col(Failure.ident) == due.ident))
        self.board.bus.publish({"kind": "done", "flight_id": due.flight_id, "what": due.duty})

    def _fail(self, due: Due, error: Exception) -> None:
        """Note a failure, so that it is said and the rest goes on."""
        self._deaths.pop(due, None)
        free = free_bytes(self.board.data_dir)
        code, words = failure_of(error, free)
        # Tried again when there is more room than now, however much that is: a quota or a large piece of work would
        # otherwise fail without end.
        known = free if code == FULL else None
        with suppress(OSError), self.board.writing() as session:
            session.exec(delete(Failure).where(col(Failure.duty) == due.duty, col(Failure.ident) == due.ident))
            session.add(
                Failure(
                    duty=due.duty, ident=due.ident, flight_id=due.flight_id, state=due.state, code=code, text=words,
                    free_bytes=known, at=self.board.now(),
                )
            )  # fmt: skip
        self.board.bus.publish({"kind": "done", "flight_id": due.flight_id, "what": due.duty})


def failure_of(error: Exception, left: int) -> tuple[str, str]:
    """The code and the words of what went wrong, with so many bytes left on the disk."""
    if isinstance(error, CataError):
        return error.code, error.message
    # Libraries say of a full disk only that something failed.
    if is_of_full(error) or left < FULL_BYTES:
        return FULL, "The disk was full. Make room: it goes on by itself."
    return "failed", FAILED
