"""The database: SQLite in WAL mode with foreign keys on, migrated by Alembic."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from sqlalchemy import Engine, create_engine, event
from sqlmodel import Session

from cata.store import tables  # noqa: F401  (the tables must be known before a session is used)

NEWEST = "0004"
"""The newest migration. A start with a current schema does not import Alembic at all."""

MIGRATIONS = Path(__file__).with_name("migrations")
BUSY_TIMEOUT_S = 15


def open_engine(path: Path) -> Engine:
    """An engine on the file, with the schema brought up to date."""
    engine = create_engine(f"sqlite:///{path}", connect_args={"timeout": BUSY_TIMEOUT_S, "check_same_thread": False})
    event.listen(engine, "connect", _on_connect)
    if schema_version(path) != NEWEST:
        migrate(engine)
    return engine


def _on_connect(connection: Any, _record: Any) -> None:
    cursor = connection.cursor()
    cursor.execute("PRAGMA journal_mode=WAL")
    cursor.execute("PRAGMA synchronous=FULL")
    cursor.execute("PRAGMA foreign_keys=ON")
    cursor.close()


def schema_version(path: Path) -> str | None:
    """The migration a database file is at; None for a new or foreign file."""
    if not path.exists():
        return None
    with sqlite3.connect(path) as connection:
        try:
            row = connection.execute("SELECT version_num FROM alembic_version").fetchone()
        except sqlite3.DatabaseError:
            return None
    connection.close()
    return str(row[0]) if row else None


def migrate(engine: Engine, revision: str = "head") -> None:
    """Bring the schema to a revision."""
    from alembic import command
    from alembic.config import Config

    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, revision)


@contextmanager
def session_on(engine: Engine) -> Iterator[Session]:
    """One transaction: committed at the end, rolled back on any error."""
    with Session(engine, expire_on_commit=False) as session:
        yield session
        session.commit()
