"""Bundles: open formats that others can read, back without loss, merged without doubling, hostile ones refused."""

from __future__ import annotations

import io
import json
import zipfile
from collections.abc import Callable
from pathlib import Path

import pytest
from fastapi.testclient import TestClient
from frictionless import validate
from sqlmodel import select
from typer.testing import CliRunner

from cata.cli import app
from cata.errors import Refused
from cata.services.brief.briefs import BriefIn, add_brief
from cata.services.bundle.columns import read_rows, write_rows
from cata.services.bundle.links import TABLES
from cata.services.bundle.merging import import_bundle
from cata.services.bundle.packing import export_bundle
from cata.services.card.cards import changes_of, keep_card
from cata.services.card.views import CardIn
from cata.services.flights.table import ContenderPatch, change_contender
from cata.services.shelf.deals import DealIn, add_deal
from cata.services.shelf.gear import GearPatch, change_gear
from cata.services.upkeep.export import export_all
from cata.services.upkeep.undoing import undo
from cata.services.workspace import Workspace, open_workspace
from cata.store.tables import Contender, Gear, Take
from tests.conftest import declines
from tests.services.test_choosing_shelf import NEED, drive, flight


def filled(ws: Workspace) -> int:
    """Two drives in a flight, a brief that owns one, a card; the takes' recordings are in the vault."""
    alder, birk = drive(ws, "Alder", ("new", "200"), ("used", "120")), drive(ws, 'Birk, "the" =1+1\n2', ("new", "90"))
    ident = flight(ws, "One", {alder: 1.0, birk: 9.0})
    with ws.writing() as session:
        for number, take in enumerate(session.exec(select(Take)).all()):
            source = ws.data_dir / f"{number}.wav"
            source.write_bytes(b"RIFF" + bytes([number]) * 400)
            take.digest, take.filename = ws.vault.add(source).digest, f"../{number}.WAV"
            source.unlink()
            session.add(take)
    brief = add_brief(ws, BriefIn(name="Evenings", need=NEED.model_copy(update={"own_items": [birk]}))).id
    keep_card(ws, CardIn(source="shelf", brief_id=brief, kind="pedal"))
    add_deal(ws, DealIn(items=[alder, birk], text="25", source="Brackwater Exchange"))
    return ident


@pytest.fixture
def other(tmp_path: Path) -> Workspace:
    return open_workspace(tmp_path / "other", workers=1)


def test_everything_goes_out_and_comes_back_byte_for_byte(ws: Workspace, other: Workspace, tmp_path: Path) -> None:
    filled(ws)
    assert export_bundle(ws, tmp_path / "all.zip") == 3
    export_bundle(ws, tmp_path / "again.zip")
    assert (tmp_path / "all.zip").read_bytes() == (tmp_path / "again.zip").read_bytes()
    assert validate(str(tmp_path / "all.zip")).valid
    done = import_bundle(other, tmp_path / "all.zip")
    assert (done.same, done.kept, done.recordings, done.missing) == (0, [], 3, 0)
    assert export_all(other) == export_all(ws)
    with ws.reading() as session:
        for take in session.exec(select(Take)).all():
            assert other.vault.path(take.digest).read_bytes() == ws.vault.path(take.digest).read_bytes()
    twice = import_bundle(other, tmp_path / "all.zip")
    assert (twice.added, twice.kept, twice.recordings) == ({}, [], 0)
    assert export_all(other) == export_all(ws)
    other.close()


def test_a_flight_brings_all_that_it_needs_and_finds_its_place_among_others(
    ws: Workspace, other: Workspace, tmp_path: Path
) -> None:
    ident = filled(ws)
    with ws.acting("order") as session:
        row = session.exec(select(Contender).where(Contender.flight_id == ident)).first()
        assert row is not None
        row.changes = {"links": {"amp": {"key": "amp", "kind": "amplifier", "gear_id": 1}}}
        session.add(row)
    export_bundle(ws, tmp_path / "one.zip", flight=ident)
    assert validate(str(tmp_path / "one.zip")).valid
    # Numbers are taken there, and one item is known there by the same name, at another price.
    for name in ("Dapp", "Corm", "Alder"):
        drive(other, name, ("new", "70"))
    flight(other, "Theirs", {1: 2.0, 2: 3.0})
    before = export_all(other)
    dry = import_bundle(other, tmp_path / "one.zip", dry_run=True)
    assert export_all(other) == before
    done = import_bundle(other, tmp_path / "one.zip")
    assert done == dry
    assert done.added == {"gear": 1, "price": 3, "flight": 1, "contender": 3, "test": 1, "take": 3}
    with other.reading() as session:
        alder = session.exec(select(Gear).where(Gear.name == "Alder")).one()
        assert (alder.id, [take.contender_id for take in session.exec(select(Take)).all()][-3:]) == (3, [4, 5, 6])
        turned = [one for one in session.exec(select(Contender)).all() if one.changes]
        assert turned[0].changes["links"]["amp"]["gear_id"] == alder.id
    undo(other)
    assert export_all(other) == before
    other.close()


def test_what_differs_there_is_kept_and_said(ws: Workspace, other: Workspace, tmp_path: Path) -> None:
    filled(ws)
    export_bundle(ws, tmp_path / "all.zip")
    import_bundle(other, tmp_path / "all.zip")
    change_gear(other, 1, GearPatch(about="mine"))
    change_contender(other, 1, ContenderPatch(name="Other name"))
    done = import_bundle(other, tmp_path / "all.zip")
    assert done.kept == ["Alder"]
    # A contender under another name is still the same one.
    assert done.added == {}
    other.close()


def test_a_card_and_a_brief_alone(ws: Workspace, other: Workspace, tmp_path: Path) -> None:
    filled(ws)
    export_bundle(ws, tmp_path / "card.zip", card=1)
    names = zipfile.ZipFile(tmp_path / "card.zip").namelist()
    assert "documents/card-1.html" in names
    assert not [name for name in names if name.startswith("audio/") or "take" in name]
    import_bundle(other, tmp_path / "card.zip")
    assert changes_of(other, 1).gone is not None
    export_bundle(ws, tmp_path / "brief.zip", brief=1)
    # The card has brought its brief, and the brief what it owns.
    assert import_bundle(other, tmp_path / "brief.zip").added == {}
    other.close()


def test_recordings_are_what_they_say_they_are(ws: Workspace, other: Workspace, tmp_path: Path) -> None:
    filled(ws)
    export_bundle(ws, tmp_path / "all.zip")
    without = repacked(tmp_path / "all.zip", lambda name, data: None if name.startswith("audio/") else data)
    assert import_bundle(other, without, dry_run=True).missing == 3
    changed = repacked(tmp_path / "all.zip", lambda name, data: data + b"x" if name.startswith("audio/") else data)
    with declines(Refused, "damaged"):
        import_bundle(other, changed)
    assert json.loads(export_all(other))["tables"]["take"] == []
    other.close()


def repacked(path: Path, change: Callable[[str, bytes], bytes | None]) -> Path:
    """The same bundle with its files changed, or left out."""
    target = path.with_name("changed.zip")
    with zipfile.ZipFile(path) as source, zipfile.ZipFile(target, "w") as out:
        for name in source.namelist():
            data = change(name, source.read(name))
            if data is not None:
                out.writestr(name, data)
    return target


HOSTILE: dict[str, tuple[str, bytes, bytes, str]] = {
    "a path": ("data/take.csv", b",digest,", b",filename,", "bad_row"),
    "a kind": ("data/gear.csv", b"pedal", b"lorry", "bad_row"),
    "an amount": ("data/price.csv", b",20000,", b",two hundred,", "bad_cell"),
    "a currency": ("data/price.csv", b"EUR", b"XYZ", "bad_row"),
    "a need": ("data/brief.csv", b"harshness_db", b"no_such_thing", "bad_row"),
    "a number": ("data/gear.csv", b"\n1,", b"\n99999999999999999999,", "bad_row"),
    "twice": ("data/gear.csv", b"\n2,", b"\n1,", "bad_row"),
    "no json": ("data/brief.csv", b'"{""', b'"[[[""', "bad_cell"),
    "newer": ("datapackage.json", b"cata-bundle-2", b"cata-bundle-9", "other_format"),
    "no list": ("datapackage.json", b"{", b"", "damaged"),
    "of others": ("datapackage.json", b'"cata"', b'"dog"', "other_format"),
}


@pytest.mark.parametrize("case", HOSTILE)
def test_a_hostile_bundle_is_refused_whole(ws: Workspace, other: Workspace, tmp_path: Path, case: str) -> None:
    filled(ws)
    export_bundle(ws, tmp_path / "all.zip")
    where, old, new, code = HOSTILE[case]
    changed = repacked(tmp_path / "all.zip", lambda name, data: data.replace(old, new, 1) if name == where else data)
    before = export_all(other)
    with declines(Refused, code):
        import_bundle(other, changed)
    assert export_all(other) == before
    other.close()


def test_what_is_no_bundle_is_refused(other: Workspace, tmp_path: Path) -> None:
    (tmp_path / "no.zip").write_bytes(b"PK\x03\x04 not really")
    for name, code in (("no.zip", "damaged"), ("none.zip", "missing")):
        with declines(Refused, code):
            import_bundle(other, tmp_path / name)
    with zipfile.ZipFile(tmp_path / "empty.zip", "w"):
        pass
    with declines(Refused, "other_format"):
        import_bundle(other, tmp_path / "empty.zip")
    other.close()


def test_every_table_survives_its_cells() -> None:
    row = {"id": 3, "uid": "b" * 32, "gear_id": None, "loop_id": None,
           "digest": "a" * 64, "filename": 'x,"y"\n=z', "size_bytes": 2**40,
           "settings": {"drive": 0.1 + 0.2}, "nominal_dbfs": -12.5, "full_scale_dbu": 18.0,
           "channel": None, "bench": "", "added_at": "",
           "kind": "testfile", "made": {}}  # fmt: skip
    model = TABLES["probe"]
    assert list(read_rows(model, write_rows(model, [row]).decode().splitlines(keepends=True))) == [row]


def test_bundles_over_http_and_from_the_command_line(client: TestClient, ws: Workspace, tmp_path: Path) -> None:
    filled(ws)
    answer = client.get("/api/bundle", params={"flight": 1})
    assert zipfile.ZipFile(io.BytesIO(answer.content)).testzip() is None
    assert client.get("/api/bundle", params={"flight": 9}).status_code == 404
    assert client.post("/api/bundle?dry_run=true", content=answer.content).json()["added"] == {}
    assert client.post("/api/bundle", content=b"nonsense").status_code == 422
    run, away = CliRunner(), ["--data-dir", str(tmp_path / "away")]
    out = run.invoke(app, ["bundle", "export", str(tmp_path / "b.zip"), "--data-dir", str(ws.data_dir)])
    assert out.exit_code == 0, out.output
    told = run.invoke(app, ["bundle", "import", str(tmp_path / "b.zip"), "--dry-run", *away])
    assert "2 gear" in told.output
    assert run.invoke(app, ["bundle", "import", str(tmp_path / "nothing.zip"), *away]).exit_code == 2
