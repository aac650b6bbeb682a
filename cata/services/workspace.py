"""What every service works on: the database, the vault, the clock, the workers, the events."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from datetime import UTC, datetime
from pathlib import Path
from typing import TypeVar

from sqlalchemy import Engine, event
from sqlmodel import Session, SQLModel

from cata.disk import full
from cata.errors import NotFound
from cata.said import Said
from cata.services.answers import Answers
from cata.store.changes import check_texts
from cata.store.database import DATABASE, LIBRARY, Watch, open_engine, reading_session, writing_session
from cata.store.inturn import InTurn
from cata.store.journal import action
from cata.store.lock import DataLock
from cata.store.replacing import recover
from cata.store.tables import Setting
from cata.store.vault import Vault
from cata.tasks.cluster import open_workers
from cata.tasks.desk import Desk
from cata.tasks.events import Bus
from cata.tasks.shape import Due, Task
from cata.tasks.workers import ANSWER_LIMIT_S, LocalWorkers, Workers, answer

Row = TypeVar("Row", bound=SQLModel)
T = TypeVar("T")
P = TypeVar("P")


def utc_now() -> str:
    """The time now, ISO 8601 in UTC to the second."""
    return datetime.now(UTC).isoformat(timespec="seconds")


@dataclass
class Workspace:
    """One data directory, opened.

    ``workers`` do the long work; beside them stands one more for what a person waits for: it never queues behind a
    take. A server that has begun one has another process ``beside`` it, for seconds of pure reckoning: in its own these
    would hold up every page. ``root`` is the data directory as the workers see it.
    """

    data_dir: Path
    engine: Engine
    vault: Vault
    workers: Workers
    answering: LocalWorkers
    lock: DataLock
    root: str = ""
    opened_at: float = field(default_factory=time.time)
    """Seconds since the epoch: what is older was left by somebody else."""
    beside: LocalWorkers = field(default_factory=lambda: LocalWorkers(1, nice=0))
    is_beside: bool = False
    bus: Bus = field(default_factory=Bus)
    answers: Answers = field(default_factory=Answers)
    now: Callable[[], str] = utc_now
    max_duration_s: float = 1800.0

    library: str = ""
    """The name of the library in this directory; a restored one has another, though its numbers look the same."""
    stopping: threading.Event = field(default_factory=threading.Event)
    """Set when the program is asked to stop: what takes long and can be gone on with later ends at its next step."""
    turning: dict[str, threading.Event] = field(default_factory=dict)
    """Browsers whose undo is under way, with what stops it."""

    _watch: Watch = field(default_factory=lambda: Watch(Path()))
    _on_due: Callable[[], None] = lambda: None
    _writing: InTurn = field(default_factory=InTurn)

    @property
    def trouble(self) -> Said | None:
        """Why no background work goes on, where none does: the disk is full, or who does it is away."""
        return full(self.data_dir) or self.workers.trouble

    def revision(self) -> int:
        """A number that is another after anybody, in whatever process, has written."""
        return self._watch.revision()

    def ask(self, task: Task[P, T], payload: P, limit_s: float = ANSWER_LIMIT_S) -> T:
        """The result of a short task that somebody waits for; raises what it raises, or TooSlow, or Died."""
        return answer(self.answering, task, payload, Desk(str(self.data_dir)), limit_s)

    def desk(self, due: Due | None = None) -> Desk:
        """What a worker has before it for a piece of work."""
        return Desk(self.root or str(self.data_dir), due.name if due is not None else "")

    def inside(self, path: Path) -> str:
        """The name of a file within the data directory, as tasks want it."""
        return path.relative_to(self.data_dir).as_posix()

    @contextmanager
    def reading(self) -> Iterator[Session]:
        """A session for looking only."""
        with reading_session(self.engine) as session:
            yield session

    @contextmanager
    def writing(self) -> Iterator[Session]:
        """A transaction for derived rows, which are not undone."""
        # One after another, in turn: those who wait for the database itself look again only from time to time.
        with self._writing, writing_session(self.engine) as session:
            event.listen(session, "before_flush", check_texts)
            yield session

    @contextmanager
    def acting(self, label: str, *, joined: bool = False, within_s: float | None = None) -> Iterator[Session]:
        """A transaction that is one action of a person: it can be undone, and open pages hear of it.

        ``joined``: it belongs to the action before it, where that has the same label and is at most ``within_s`` ago.
        """
        with self.writing() as session, action(session, label, self.now(), joined=joined, within_s=within_s):
            yield session
        self.changed(label)

    def changed(self, label: str) -> None:
        """Tell open pages that something changed, and the runner that work may be due."""
        self.bus.publish({"kind": "changed", "label": label})
        self._on_due()

    def when_due(self, call: Callable[[], None]) -> None:
        """Call this when work may be due."""
        self._on_due = call

    def close(self) -> None:
        """Stop all workers and let the data go."""
        self.workers.close()
        self.answering.close()
        self.beside.close()
        self._watch.close()
        self.engine.dispose()
        self.lock.release()


def open_workspace(
    data_dir: Path, *, workers: int | None = None, max_upload_mb: int = 1024, cluster: str = "", seen_as: str = ""
) -> Workspace:
    """Open a data directory, making it and its database where needed.

    ``cluster`` is the address of a Dask scheduler whose workers do the long work; ``seen_as`` the data directory as
    they see it. Refused where the directory or its database cannot be used.
    """
    recover(data_dir)
    lock = DataLock.share(data_dir)
    try:
        engine = open_engine(data_dir / DATABASE)
        with reading_session(engine) as session:
            library = session.get_one(Setting, LIBRARY).value
        return Workspace(
            data_dir=data_dir,
            engine=engine,
            library=library,
            vault=Vault(data_dir / "vault", max_upload_mb << 20),
            workers=open_workers(cluster, workers),
            answering=LocalWorkers(1, nice=0),
            lock=lock,
            root=seen_as or str(data_dir),
            _watch=Watch(data_dir / DATABASE),
        )
    except BaseException:
        lock.release()
        raise


def require(session: Session, model: type[Row], ident: int, noun: str | None = None) -> Row:
    """The row, or NotFound."""
    row = session.get(model, ident)
    if row is None:
        raise NotFound(noun or model.__name__.lower(), ident)
    return row
