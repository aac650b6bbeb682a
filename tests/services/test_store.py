"""The vault, the undo log, migrations and backups."""

from __future__ import annotations

import json
import os
import sqlite3
from pathlib import Path

import pytest
from sqlmodel import Session, SQLModel, col, select

from cata.core.brief import Need
from cata.core.sounds import SOUND_BY_KEY
from cata.errors import Refused
from cata.services.brief.needs import need_of
from cata.services.flights import table
from cata.services.flights.table import ContenderIn, FlightIn, TestIn
from cata.services.takes import placing, receiving
from cata.services.upkeep import undoing
from cata.services.upkeep.sweeping import sweep
from cata.services.workspace import Workspace
from cata.store import journal
from cata.store.database import NEWEST, migrate, open_engine, schema_version, writing_session
from cata.store.tables import Brief, Change, Contender, DealItem, Flight, Gear, Glass, Take, Tasting, Test
from cata.store.vault import Vault
from tests.conftest import SOME_FACTS, declines, write_take


def rows(ws: Workspace, model: type[SQLModel]) -> list[dict[str, object]]:
    with ws.reading() as session:
        return [row.model_dump() for row in session.exec(select(model)).all()]


def a_flight(ws: Workspace, folder: Path) -> int:
    """A flight with one placed take."""
    ident = table.add_flight(ws, FlightIn(name="F"))
    contender = table.add_contender(ws, ident, ContenderIn(name="Alder"))
    test = table.add_test(ws, ident, TestIn(name="Riff"))
    kept = ws.vault.add(write_take(folder / "a.wav"))
    take = receiving.add_take(ws, ident, "Alder - Riff.wav", kept, SOME_FACTS)
    placing.place_take(ws, take, contender, test)
    return ident


def test_the_same_content_is_kept_once_and_left_overs_are_swept(tmp_path: Path) -> None:
    vault = Vault(tmp_path / "vault")
    path = write_take(tmp_path / "a.wav")
    first, second = vault.add(path), vault.add(path)
    assert first.path == second.path
    assert first.path.read_bytes() == path.read_bytes()
    assert list((tmp_path / "vault" / "incoming").iterdir()) == []


def test_a_sweep_minds_neither_what_goes_meanwhile_nor_what_comes_back(tmp_path: Path) -> None:
    vault = Vault(tmp_path / "vault")
    path = write_take(tmp_path / "a.wav")
    kept = vault.add(path)
    # As an upload leaves a name behind that is gone when it is looked at.
    (tmp_path / "vault" / "incoming" / "going.wav").symlink_to(tmp_path / "gone")
    os.utime(kept.path, (0, 0))
    vault.add(path)
    assert vault.sweep([]) == 0
    assert kept.path.exists()
    os.utime(kept.path, (0, 0))
    assert vault.sweep([]) == 1
    assert not kept.path.exists()


def test_a_file_over_the_limit_leaves_nothing_behind(tmp_path: Path) -> None:
    vault = Vault(tmp_path / "vault", max_bytes=1000)
    with declines(Refused, "too_large"):
        vault.add(write_take(tmp_path / "a.wav"))
    assert [p for p in (tmp_path / "vault").rglob("*") if p.is_file()] == []


def test_every_action_can_be_taken_back_and_done_again(ws: Workspace, tmp_path: Path) -> None:
    ident = a_flight(ws, tmp_path)
    full = {model: rows(ws, model) for model in (Flight, Contender, Take)}
    table.remove_flight(ws, ident)
    assert rows(ws, Take) == []
    assert undoing.undo(ws).redo == "Remove flight: F"
    assert {model: rows(ws, model) for model in full} == full
    undoing.redo(ws)
    assert rows(ws, Flight) == []
    while undoing.state(ws).undo:
        undoing.undo(ws)
    assert rows(ws, Contender) == []
    while undoing.state(ws).redo:
        undoing.redo(ws)
    assert rows(ws, Flight) == []


def test_a_new_action_ends_what_could_be_done_again(ws: Workspace) -> None:
    table.add_flight(ws, FlightIn(name="one"))
    undoing.undo(ws)
    table.add_flight(ws, FlightIn(name="two"))
    assert undoing.state(ws).redo is None


def test_removing_a_row_keeps_its_takes_and_undo_puts_them_back(ws: Workspace, tmp_path: Path) -> None:
    a_flight(ws, tmp_path)
    contender = rows(ws, Contender)[0]["id"]
    table.remove_contender(ws, contender)  # type: ignore[arg-type]
    assert rows(ws, Take)[0]["test_id"] is None
    undoing.undo(ws)
    assert rows(ws, Take)[0]["contender_id"] == contender


def test_an_action_that_fails_leaves_nothing(ws: Workspace) -> None:
    def half() -> None:
        with ws.acting("broken") as session:
            session.add(Flight(name="half"))
            session.flush()
            raise RuntimeError

    with pytest.raises(RuntimeError):
        half()
    assert rows(ws, Flight) == []
    assert undoing.state(ws).undo is None


def test_the_vault_is_swept_of_what_nobody_needs_but_not_of_what_undo_needs(ws: Workspace, tmp_path: Path) -> None:
    import os

    ident = a_flight(ws, tmp_path)
    table.remove_flight(ws, ident)
    stray = ws.vault.add(write_take(tmp_path / "stray.wav", hz=300)).path
    for path in ws.vault.root.rglob("*"):
        os.utime(path, (1, 1))
    assert sweep(ws) == 1
    assert not stray.exists()
    undoing.undo(ws)
    assert ws.vault.path(str(rows(ws, Take)[0]["digest"])).exists()


def test_the_tables_are_those_that_the_migrations_make(tmp_path: Path) -> None:
    from alembic.autogenerate import compare_metadata
    from alembic.runtime.migration import MigrationContext

    engine = open_engine(tmp_path / "a.db")
    with engine.connect() as connection:
        # The index of words is made of tables of SQLite's own.
        mine = {"include_name": lambda name, kind, _: kind != "table" or not f"{name}_".startswith("find_")}
        assert compare_metadata(MigrationContext.configure(connection, opts=mine), SQLModel.metadata) == []
    assert schema_version(tmp_path / "a.db") == NEWEST
    migrate(engine)
    engine.dispose()


def _asked(reading: str, low: float | None, high: float | None, weight: float, part: str = "") -> dict[str, object]:
    return {"reading": reading, "part": part, "low": low, "high": high, "weight": weight}


OLD_NEED = json.dumps({"sounds": [
    {"key": "tight-riff", "name": "Tight riff", "weight": 2, "targets": [
        _asked("low_tightness_ms", None, 105.0, 3), _asked("regions_db", -14.0, -5.0, 1, "lows"),
        _asked("drive_density", 0.66, None, 1)]},
    {"key": "fuzz", "name": "Fuzz", "weight": 1, "targets": [_asked("drive_density", 0.9, None, 2)]},
]})  # fmt: skip


def test_a_database_of_every_released_schema_comes_up_to_date_with_its_rows(tmp_path: Path) -> None:
    import sqlalchemy

    path = tmp_path / "old.db"
    engine = sqlalchemy.create_engine(f"sqlite:///{path}")
    migrate(engine, "0001")
    with engine.begin() as connection:
        for statement in (
            "INSERT INTO gear (id, kind, name, about, structure, controls, specs, created_at) "
            "VALUES (1, 'pedal', 'Alder', '', '', '[]', '{\"draw\": \"6 mA\"}', '')",
            "INSERT INTO flight (id, name, question, link, held, school, created_at) "
            "VALUES (1, 'Old', '', 'pedal', '', 'equal', '')",
            "INSERT INTO test (id, flight_id, name, position, sound, about) VALUES (1, 1, 'Riff', 0, '', '')",
            f"INSERT INTO brief (id, name, need, created_at) VALUES (1, 'Need', '{OLD_NEED}', '')",
        ):
            connection.exec_driver_sql(statement)
    engine.dispose()
    assert schema_version(path) == "0001"
    engine = open_engine(path)
    with writing_session(engine) as session:
        assert session.get_one(Gear, 1).specs == {"draw": "6 mA"}
        flight = session.get_one(Flight, 1)
        assert (flight.chain, flight.rules, session.get_one(Test, 1).condition) == ({}, {}, None)
        ready, own = Need.model_validate(session.get_one(Brief, 1).need).sounds
        assert ready.targets == list(SOUND_BY_KEY["tight-riff"].targets)
        assert [target.reading for target in own.targets] == ["drive_density"]
    assert schema_version(path) == NEWEST
    engine.dispose()


def test_foreign_keys_and_the_write_ahead_log_are_on(ws: Workspace) -> None:
    with ws.engine.connect() as connection:
        assert connection.exec_driver_sql("PRAGMA foreign_keys").scalar() == 1
        assert connection.exec_driver_sql("PRAGMA journal_mode").scalar() == "wal"


def test_a_foreign_file_is_no_schema(tmp_path: Path) -> None:
    assert schema_version(tmp_path / "none.db") is None
    sqlite3.connect(tmp_path / "empty.db").close()
    assert schema_version(tmp_path / "empty.db") is None


def test_only_the_last_changes_are_kept(ws: Workspace, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(journal, "KEPT", 3)
    for number in range(6):
        table.add_flight(ws, FlightIn(name=str(number)))
    with Session(ws.engine) as session:
        assert len(session.exec(select(Change)).all()) == 3


OLD_ROWS = (
    "INSERT INTO gear VALUES (1, 'pedal', 'Alder', '', '', '[]', '{}', '')",
    "INSERT INTO gear VALUES (4, 'pedal', 'Birk', '', '', '[]', '{}', '')",
    "INSERT INTO price VALUES (1, 4, 'new', 9900, 'EUR', '2026-03-01', '')",
    "INSERT INTO deal (id, name, items, off_minor, currency, on_date, source) "
    "VALUES (1, 'Both', '[1, 4, 7]', 500, 'EUR', '', '')",
    'INSERT INTO brief VALUES (1, \'Need\', \'{"own_items": [4, 9], "feel": {"1": {"neck": 3}}}\', \'\')',
    'INSERT INTO flight (id, name, question, link, held, school, created_at, chain, rules, "order") '
    "VALUES (1, 'F', '', 'pedal', '', 'equal', '', '{}', '{}', '{}')",
    "INSERT INTO contender (id, flight_id, gear_id, name, position, colour, is_bypass, currency, settings, changes, "
    "wanted) VALUES (2, 1, 4, 'Birk', 0, 3, 0, 'EUR', '{}', '{}', '[]')",
    "INSERT INTO test (id, flight_id, name, position, sound, about) VALUES (1, 1, 'Riff', 0, '', '')",
    "INSERT INTO tasting VALUES (1, 1, 1, 'T', '[2, 6]', '[\"{0}\", \"{1}\"]', '[]', 'equal', 'secret', '', 'then')",
    "INSERT INTO change (id, at, label, undone, \"by\", rows) VALUES (3, '', 'Remove gear', 0, '', "
    '\'[{"table": "Gear", "before": {"id": 12}, "after": null}]\')',
)


def test_what_stood_in_lists_of_numbers_becomes_rows_and_no_number_comes_again(tmp_path: Path) -> None:
    import sqlalchemy

    path = tmp_path / "old.db"
    engine = sqlalchemy.create_engine(f"sqlite:///{path}")
    migrate(engine, "0025")
    with engine.begin() as connection:
        for statement in OLD_ROWS:
            connection.exec_driver_sql(statement.replace("{0}", "a" * 64).replace("{1}", "b" * 64))
    engine.dispose()
    engine = open_engine(path)
    with writing_session(engine) as session:
        items = session.exec(select(DealItem).order_by(col(DealItem.id))).all()
        assert [(one.gear_id, one.name) for one in items] == [(1, "Alder"), (4, "Birk"), (None, "")]
        need = need_of(session, session.get_one(Brief, 1))
        assert (need.own_items, need.feel[1].neck) == ([4], 3.0)
        glasses = session.exec(select(Glass).order_by(col(Glass.place))).all()
        assert [(one.name, one.contender_id, one.price_minor, one.digest[0]) for one in glasses] == [
            ("Birk", 2, 9900, "a"), ("taken away since", None, None, "b"),
        ]  # fmt: skip
        tasting = session.get_one(Tasting, 1)
        assert (tasting.test, tasting.test_id, tasting.revealed_at) == ("Riff", 1, "then")
        # Twelve was removed, and could have come back by an undo; six was only ever named.
        for row in (Gear(kind="pedal", name="New"), Contender(flight_id=1, name="New", position=1)):
            session.add(row)
            session.flush()
        assert (row.id, session.exec(select(Gear.id).where(Gear.name == "New")).one()) == (7, 13)
        assert len({one.uid for one in session.exec(select(Gear)).all()}) == 3
    with sqlite3.connect(path) as database:
        made = [sql for (sql,) in database.execute("SELECT sql FROM sqlite_master WHERE type = 'table'")]
        assert not [sql for sql in made if "PRIMARY KEY (id)" in sql], "a table whose numbers come again"
        assert database.execute("SELECT count(*) FROM find WHERE find MATCH 'birk'").fetchone() == (2,)
    database.close()
    engine.dispose()
