"""What every service works on: the database, the vault, the clock, the workers, the events."""

from __future__ import annotations

import threading
from collections.abc import Callable, Hashable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from datetime import UTC, datetime
from pathlib import Path
from typing import Any, TypeVar

from sqlalchemy import Engine
from sqlmodel import Session, SQLModel

from cata.errors import NotFound
from cata.jobs import Bus, Pool
from cata.store.changes import action
from cata.store.database import open_engine, session_on
from cata.store.vault import Vault

Row = TypeVar("Row", bound=SQLModel)
T = TypeVar("T")
REMEMBERED = 300


def utc_now() -> str:
    """The time now, ISO 8601 in UTC to the second."""
    return datetime.now(UTC).isoformat(timespec="seconds")


@dataclass
class Workspace:
    """One data directory, opened."""

    data_dir: Path
    engine: Engine
    vault: Vault
    pool: Pool
    bus: Bus = field(default_factory=Bus)
    now: Callable[[], str] = utc_now
    max_duration_s: float = 1800.0
    one_at_a_time: threading.Lock = field(default_factory=threading.Lock)
    """Held while takes are made in numbers: a double click waits, and then finds nothing left to do."""
    on_due: Callable[[], None] = lambda: None
    """Called when takes may be due for analysis or audit."""

    _remembered: dict[Hashable, Any] = field(default_factory=dict)

    def remember(self, key: Hashable, compute: Callable[[], T]) -> T:
        """What ``compute`` gave for a key the last time, of the latest few hundred: for answers that pages ask again.

        The key says all that the answer depends on.
        """
        if key in self._remembered:
            known: T = self._remembered[key]
            return known
        answer = compute()
        # Another thread may have put it there meanwhile, or taken the oldest away: neither matters.
        while len(self._remembered) >= REMEMBERED:
            self._remembered.pop(next(iter(self._remembered)), None)
        self._remembered[key] = answer
        return answer

    @contextmanager
    def reading(self) -> Iterator[Session]:
        """A session for looking only."""
        with Session(self.engine, expire_on_commit=False) as session:
            yield session

    @contextmanager
    def writing(self) -> Iterator[Session]:
        """A transaction for derived rows, which are not undone."""
        with session_on(self.engine) as session:
            yield session

    @contextmanager
    def acting(self, label: str) -> Iterator[Session]:
        """A transaction that is one action of a person: it can be undone, and open pages hear of it."""
        with session_on(self.engine) as session, action(session, label, self.now()):
            yield session
        self.changed(label)

    def changed(self, label: str) -> None:
        """Tell open pages that something changed, and the analyst that work may be due."""
        self.bus.publish({"kind": "changed", "label": label})
        self.on_due()


def open_workspace(data_dir: Path, *, workers: int | None = None, max_upload_mb: int = 1024) -> Workspace:
    """Open a data directory, making it and its database where needed."""
    data_dir.mkdir(parents=True, exist_ok=True)
    return Workspace(
        data_dir=data_dir,
        engine=open_engine(data_dir / "cata.db"),
        vault=Vault(data_dir / "vault", max_upload_mb << 20),
        pool=Pool(workers),
    )


def require(session: Session, model: type[Row], ident: int, noun: str | None = None) -> Row:
    """The row, or NotFound."""
    row = session.get(model, ident)
    if row is None:
        raise NotFound(noun or model.__name__.lower(), ident)
    return row
