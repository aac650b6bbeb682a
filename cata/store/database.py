"""The database: SQLite in WAL mode with foreign keys on, migrated by Alembic.

A writer takes the write lock before it reads (BEGIN IMMEDIATE): what it changes is what it has seen.
"""

from __future__ import annotations

import sqlite3
import threading
from collections.abc import Iterator
from contextlib import closing, contextmanager
from pathlib import Path
from typing import Any

from sqlalchemy import Connection, Engine, create_engine, event
from sqlalchemy.pool import NullPool
from sqlmodel import Session, select

from cata.errors import Refused
from cata.store import tables
from cata.store.tables.columns import new_uid

DATABASE = "cata.db"
"""Its file in the data directory."""
LIBRARY = "library"
"""The setting that names a library."""
NEWEST = "0031"
"""The newest migration. A start with a current schema does not import Alembic at all."""

MIGRATIONS = Path(__file__).with_name("migrations")
BUSY_TIMEOUT_S = 15
WRITES = "cata_writes"


def open_engine(path: Path) -> Engine:
    """An engine on the file, with the schema brought up to date.

    Refused where the file is no database, one of another program, or of a newer Cata.
    """
    version = schema_version(path)
    engine = create_engine(f"sqlite:///{path}", connect_args={"timeout": BUSY_TIMEOUT_S, "check_same_thread": False})
    event.listen(engine, "connect", _on_connect)
    event.listen(engine, "begin", _on_begin)
    if version != NEWEST:
        migrate(engine)
    return engine


class Watch:
    """Tells whether anybody, in whatever process, has written to a database since it was last asked."""

    def __init__(self, path: Path) -> None:
        self._path = path
        self._connection: sqlite3.Connection | None = None
        self._lock = threading.Lock()

    def revision(self) -> int:
        """A number that is another after every change."""
        with self._lock:
            if self._connection is None:
                self._connection = sqlite3.connect(self._path, isolation_level=None, check_same_thread=False)
            return int(self._connection.execute("PRAGMA data_version").fetchone()[0])

    def close(self) -> None:
        """Let the database go."""
        with self._lock:
            if self._connection is not None:
                self._connection.close()
                self._connection = None


def _on_connect(connection: Any, _record: Any) -> None:
    # The driver would begin a transaction only with the first change, after what it rests on was read.
    connection.isolation_level = None
    cursor = connection.cursor()
    cursor.execute("PRAGMA journal_mode=WAL")
    cursor.execute("PRAGMA synchronous=FULL")
    cursor.execute("PRAGMA foreign_keys=ON")
    cursor.close()


def _on_begin(connection: Connection) -> None:
    writes = connection.get_execution_options().get(WRITES, False)
    connection.exec_driver_sql("BEGIN IMMEDIATE" if writes else "BEGIN")


def schema_version(path: Path) -> str | None:
    """The migration a database file is at; None for a new one.

    Refused where the file is no database, one of another program, or of a newer Cata.
    """
    if not path.exists() or (path.is_file() and path.stat().st_size == 0):
        return None
    if not path.is_file():
        raise Refused(f"{path} is a folder; Cata keeps its database in a file of that name", "not_a_database")
    connection = sqlite3.connect(path, timeout=BUSY_TIMEOUT_S)
    try:
        names = {row[0] for row in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
        row = connection.execute("SELECT version_num FROM alembic_version").fetchone() if _VERSION in names else None
    except sqlite3.DatabaseError as error:
        raise Refused(
            f"{path} is not a database that can be read: {error}. Bring a backup back with `cata restore`.",
            "not_a_database",
        ) from error
    finally:
        connection.close()
    if not names:
        return None
    if row is None or "flight" not in names:
        raise Refused(f"{path} is a database of another program; choose another folder", "foreign_database")
    version = str(row[0])
    if version > NEWEST:
        raise Refused(
            f"{path} was written by a newer Cata (data {version}; this one reads up to {NEWEST}): update Cata",
            "newer_database",
        )
    return version


_VERSION = "alembic_version"


def migrate(engine: Engine, revision: str = "head") -> None:
    """Bring the schema to a revision, all of it or none."""
    from alembic import command  # slow to load, and wanted once in a lifetime
    from alembic.config import Config

    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    # Some migrations make tables anew, which would take along what points to them.
    without_keys = create_engine(engine.url, connect_args={"timeout": BUSY_TIMEOUT_S}, poolclass=NullPool)
    event.listen(without_keys, "connect", _on_connect)
    event.listen(without_keys, "connect", lambda connection, _: connection.execute("PRAGMA foreign_keys=OFF").close())
    event.listen(without_keys, "begin", _on_begin)
    with without_keys.execution_options(**{WRITES: True}).begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, revision)


def take_over(fresh: Path, before: Path) -> None:
    """Have a database that comes into the place of another go on with its numbers, under a name of its own.

    Both stay what they are otherwise. Pages that were made of the one before see by the name that it is another.
    """
    open_engine(fresh).dispose()
    given = _given_in(before) if before.exists() else {}
    with closing(sqlite3.connect(fresh, timeout=BUSY_TIMEOUT_S)) as connection, connection:
        for table, number in given.items():
            known = connection.execute("SELECT seq FROM sqlite_sequence WHERE name = ?", (table,)).fetchone()
            connection.execute("DELETE FROM sqlite_sequence WHERE name = ?", (table,))
            more = (table, max(number, known[0] if known else 0))
            connection.execute("INSERT INTO sqlite_sequence (name, seq) VALUES (?, ?)", more)
        connection.execute("UPDATE setting SET value = ? WHERE key = ?", (new_uid(), LIBRARY))


GIVEN = "SELECT name, seq FROM sqlite_sequence"


def given_numbers(session: Session) -> dict[str, int]:
    """The greatest number of each table that was ever given out, by its name."""
    return {str(name): int(number) for name, number in session.connection().exec_driver_sql(GIVEN).all()}


def _given_in(path: Path) -> dict[str, int]:
    """The same of a file; none where it cannot be read."""
    try:
        with closing(sqlite3.connect(path, timeout=BUSY_TIMEOUT_S)) as connection:
            return dict(connection.execute(GIVEN).fetchall())
    except sqlite3.DatabaseError:
        return {}


@contextmanager
def reading_session(engine: Engine) -> Iterator[Session]:
    """A session for looking only: one moment's state."""
    with Session(engine, expire_on_commit=False) as session:
        yield session


def moved(session: Session, name: str) -> int | None:
    """A number that is another after every change of what the name stands for (:class:`tables.Revision`)."""
    return session.exec(select(tables.Revision.number).where(tables.Revision.name == name)).first()


@contextmanager
def writing_session(engine: Engine) -> Iterator[Session]:
    """One transaction that holds the write lock from its start: committed at the end, rolled back on any error."""
    with Session(engine.execution_options(**{WRITES: True}), expire_on_commit=False) as session:
        yield session
        session.commit()
