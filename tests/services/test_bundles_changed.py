"""A bundle with one thing changed in it comes in equal, is refused with a sentence, or gives pages that work."""

from __future__ import annotations

import csv
import io
import json
import random
import shutil
import zipfile
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient
from sqlmodel import select

from cata.api.app import create_app
from cata.core.brief import Feel
from cata.core.plan.chain import Chain, Link
from cata.core.taste.rounds import Round
from cata.demo.tasting import taste
from cata.errors import CataError
from cata.services.brief.briefs import BriefIn, add_brief
from cata.services.bundle.merging import import_bundle
from cata.services.bundle.packing import export_bundle
from cata.services.card.cards import keep_card
from cata.services.card.views import CardIn
from cata.services.evidence.pickups import StringsIn, bench_strings
from cata.services.plan.cells import OrderIn
from cata.services.plan.ordering import make_order
from cata.services.shelf.deals import DealIn, add_deal
from cata.services.shelf.gear import GearIn, add_gear
from cata.services.shelf.rates import RateIn, set_rate
from cata.services.workspace import Workspace, open_workspace
from cata.store.tables import (
    Accepted,
    Answer,
    Bed,
    Contender,
    Flight,
    Gear,
    Habit,
    Pointed,
    Probe,
    Recording,
    Stem,
    Take,
    Taster,
    Tasting,
    Test,
)  # fmt: skip
from tests.services.test_choosing_shelf import NEED, drive, flight

ODD: tuple[Any, ...] = (
    None, True, 0, 1, -1, 3, 999, 2**31, 2**53, 2**53 + 1, 2**63, 10**30, -0.5, 1e308, 1e-320, "", "x", "0", "-1",
    "NaN", "2026-13-45", "=1+1", "x" * 30_000, "\u0000", "\ud800", "é́", [], [[]], [0, 2**60], {}, {"a": {}}, [None],
)  # fmt: skip
RAW = ("", "null", "NaN", "Infinity", "-1", "99999999999999999999", "1.5", "true", "[", '{"a":NaN}', "[1e999]",
       "[" * 5000, "\x00", "\ufeff", "2026-03-31", "a,b", '"')  # fmt: skip


def a_library(ws: Workspace) -> None:
    """Something of every noun."""
    alder, birk = drive(ws, "Alder", ("new", "200"), ("used", "120")), drive(ws, "Birk", ("new", "90"))
    ident = flight(ws, "One", {alder: 1.0, birk: 9.0})
    pickup = add_gear(
        ws, GearIn(kind="pickup", name="Wide single coil", specs={"position": "bridge", "inductance_h": 2.5})
    ).id
    need = NEED.model_copy(update={"own_items": [birk], "feel": {alder: Feel(neck=4)}})
    brief = add_brief(ws, BriefIn(name="Evenings", need=need)).id
    add_deal(ws, DealIn(items=[alder, birk], text="25"))
    set_rate(ws, RateIn(base="USD", quote="EUR", text="0.9"))
    make_order(ws, ident, OrderIn(anchors=True))
    keep_card(ws, CardIn(source="shelf", brief_id=brief, kind="pedal", chosen=alder))
    with ws.acting("the rest") as session:
        row = session.get_one(Flight, ident)
        test = session.exec(select(Test)).first()
        takes = session.exec(select(Take).order_by(Take.id)).all()  # type: ignore[arg-type]
        assert test is not None
        test.name = "Lead line"
        for number, take in enumerate(takes):
            take.digest = f"{number:064x}"
        chain = Chain(links=(Link(key="amp", kind="pedal", gear_id=alder),))
        row.brief_id, row.chain = brief, chain.model_dump(mode="json")
        digest = "f" * 64
        piece = {"take": 1, "start_s": 1.0, "end_s": 2.0, "confidence": 0.9, "flag": "", "take_id": takes[0].id}
        session.add(Recording(flight_id=ident, digest=digest, filename="long.wav", size_bytes=9, duration_s=60.0,
                              pieces=[piece]))  # fmt: skip
        session.add(Accepted(take_id=takes[0].id or 0, rule="clipped", reason="meant"))
        contender = session.exec(select(Contender)).first()
        session.add(Habit(contender_id=(contender.id if contender else 0) or 0, rule="noise"))
        session.add(bed := Bed(name="Bed", digest=digest, filename="bed.wav", size_bytes=9, duration_s=9.0))
        session.flush()
        session.add(Stem(bed_id=bed.id or 0, name="Bass", digest=digest, filename="bass.wav", size_bytes=9))
        session.add(Pointed(take_id=takes[0].id or 0, word="warm", said=True))
        session.add(Probe(gear_id=alder, digest=digest, filename="test.wav", size_bytes=9, settings={"gain": 0.5}))
        bench_strings(session, session.get_one(Gear, pickup), StringsIn(bass_mm=2.4, treble_mm=2.0), "")
        taste(session, ident, "2026-11-01T20:00:00+00:00")
        identify = Round(kind="identify", of=[0, 1], trials=5)
        rate = Round(kind="rate", of=[0, 1], reference=0, trials=1)
        tasting = session.exec(select(Tasting)).one()
        tasting.rounds = [*tasting.rounds, identify.model_dump(), rate.model_dump()]
        for taster in session.exec(select(Taster)).all():
            for trial in range(5):
                session.add(Answer(taster_id=taster.id or 0, round=2, trial=trial, what={"right": trial > 1}))
            points = {"points": {"1": 60.0, "-1": 100.0, "-2": 10.0}}
            session.add(Answer(taster_id=taster.id or 0, round=3, trial=0, what=points))


@pytest.fixture(scope="module")
def bundle(empty: Path, tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("bundle")
    ws = open_workspace(Path(shutil.copytree(empty, folder / "data")), workers=1)
    a_library(ws)
    export_bundle(ws, folder / "all.zip")
    ws.close()
    return folder / "all.zip"


def changed(bundle: Path, target: Path, chance: random.Random) -> str:
    """The bundle with one cell changed; where."""
    with zipfile.ZipFile(bundle) as archive:
        files = {name: archive.read(name) for name in archive.namelist()}
    name = chance.choice([name for name in sorted(files) if name.startswith("data/")])
    heads, *rows = list(csv.reader(io.StringIO(files[name].decode(), newline="")))
    row, column = chance.randrange(len(rows)), chance.randrange(len(heads))
    before = rows[row][column]
    rows[row][column] = after = another(before, [one[column] for one in rows], chance)
    out = io.StringIO(newline="")
    csv.writer(out, lineterminator="\n").writerows([heads, *rows])
    files[name] = out.getvalue().encode("utf-8", "surrogatepass")
    with zipfile.ZipFile(target, "w") as archive:
        for one, content in files.items():
            archive.writestr(one, content)
    return f"{name} row {row} {heads[column]}: {before[:60]} -> {after[:60]}"


def another(cell: str, others: list[str], chance: random.Random) -> str:
    if cell[:1] in ("{", "[") and chance.random() < 0.8:
        found = json.loads(cell)
        places = list(_places(found))
        if places:
            holder, key = chance.choice(places)
            how = chance.random()
            if how < 0.15 and isinstance(holder, dict):
                del holder[key]
            elif how < 0.3 and isinstance(holder, list):
                holder.append(holder[key])
            else:
                holder[key] = chance.choice(ODD)
            return json.dumps(found)
    kind = chance.random()
    if kind < 0.25:
        return chance.choice(others)
    if kind < 0.6:
        return chance.choice(RAW)
    odd = chance.choice(ODD)
    return odd if isinstance(odd, str) else json.dumps(odd)


def _places(found: Any) -> Iterator[tuple[Any, Any]]:
    for key in list(found if isinstance(found, dict) else range(len(found))):
        yield found, key
        if isinstance(found[key], dict | list):
            yield from _places(found[key])


ALWAYS = (
    "gear", "gear-names", "gear/export.csv", "gear/export.json", "fingerprints", "flights", "briefs", "deals", "rates",
    "cards", "tastings", "beds", "choice?kind=pedal", "choice/briefs", "words", "undo", "find?q=al",
    "find?q=less+boxy+than+alder", "pairing", "example", "bundle", "meta",
)  # fmt: skip


def pages(client: TestClient) -> Iterator[str]:
    """Every page that shows what is there."""
    yield from (f"/api/{one}" for one in ALWAYS)
    for one in client.get("/api/gear").json():
        base = f"/api/gear/{one['id']}"
        yield from (base, *(f"{base}/{part}" for part in ("known", "substitutes", "evidence", "strings")))
        yield f"/api/out/gear/{one['id']}/measured.csv"
    for one in client.get("/api/flights").json():
        base, out = f"/api/flights/{one['id']}", f"/api/out/flights/{one['id']}"
        parts = ("plan", "order", "match", "verdict", "recordings", "takes/in-order", "reamp")
        yield from (base, *(f"{base}/{part}" for part in parts), f"{out}/takes.csv", f"{out}/match.csv")
        yield f"/api/choice?flight={one['id']}"
        for recording in client.get(f"{base}/recordings").json():
            yield f"/api/recordings/{recording['id']}"
        for test in client.get(base).json()["tests"]:
            at = test["id"]
            yield from (f"{base}/{part}/{at}" for part in ("tray", "readings", "differences"))
            yield from (f"/api/words/warm?flight={one['id']}&test={at}", f"{out}/readings/{at}.csv")
    for one in client.get("/api/briefs").json():
        base = f"/api/briefs/{one['id']}"
        yield from (
            base,
            f"{base}/scales",
            f"/api/out{base.removeprefix('/api')}.csv",
            f"/api/choice?brief={one['id']}",
        )
    for one in client.get("/api/cards").json():
        yield from (f"/api/cards/{one['id']}{part}" for part in ("", "/changes", "/file"))
    for one in client.get("/api/tastings").json():
        yield from (f"/api/tastings/{one['id']}", f"/api/tastings/{one['id']}/revealed")
        yield f"/api/out/tastings/{one['id']}.csv"
    for one in client.get("/api/beds").json():
        yield from (f"/api/beds/{one['id']}/stems", f"/api/beds/{one['id']}/audio")


def held(bundle: Path, empty: Path, folder: Path, seed: int) -> str:
    """Change a bundle, bring it in, look at everything, take it back; how it ended."""
    where = changed(bundle, folder / "changed.zip", random.Random(seed))
    return looked_at(folder / "changed.zip", empty, folder, f"seed {seed}, {where}")


def looked_at(bundle: Path, empty: Path, folder: Path, where: str) -> str:
    """Bring a bundle in, look at everything, take it back; how it ended."""
    ws = open_workspace(Path(shutil.copytree(empty, folder / "data")), workers=1)
    try:
        try:
            import_bundle(ws, bundle)
        except CataError:
            return "refused"
        client = TestClient(create_app(ws), base_url="http://127.0.0.1:8765", raise_server_exceptions=False)
        for page in pages(client):
            answer = client.get(page)
            assert answer.status_code < 500, f"{where}: {page} {answer.text[:200]}"
        assert client.post("/api/undo").status_code in (200, 409), where
        assert client.get("/api/flights").json() == [], where
        return "in"
    finally:
        ws.close()
        shutil.rmtree(folder / "data")


@pytest.mark.grid(1, 4)
@pytest.mark.parametrize("first", range(9))
def test_a_bundle_with_one_thing_changed_is_refused_or_gives_pages_that_work(
    bundle: Path, empty: Path, tmp_path: Path, first: int
) -> None:
    # What goes wrong is told where it is looked at.
    for seed in range(4 * first, 4 * first + 4):
        held(bundle, empty, tmp_path, seed)


def test_what_was_not_changed_comes_in(bundle: Path, empty: Path, tmp_path: Path) -> None:
    ws = open_workspace(Path(shutil.copytree(empty, tmp_path / "data")), workers=1)
    added = import_bundle(ws, bundle).added
    assert set(added) >= {"gear", "brief_item", "deal_item", "flight", "take", "planned", "tasting", "glass", "answer"}
    client = TestClient(create_app(ws), base_url="http://127.0.0.1:8765")
    answers = {page: client.get(page).status_code for page in pages(client)}
    missing = {page for page, status in answers.items() if status != 200}
    assert all("audio" in page or "reamp" in page for page in missing), missing
    ws.close()


def by_hand(bundle: Path) -> Iterator[tuple[str, str, Callable[[list[str], list[list[str]]], None]]]:
    """Bundles as nobody's program writes them: of every table, what is wrong, and what makes it so."""
    with zipfile.ZipFile(bundle) as archive:
        tables = [name for name in sorted(archive.namelist()) if name.startswith("data/")]
    for name in tables:
        for what, change in WRONG.items():
            yield name, what, change


def _lengthen(heads: list[str], rows: list[list[str]]) -> None:
    rows[0].append("more")


def _shorten(heads: list[str], rows: list[list[str]]) -> None:
    rows[0].pop()


def _column_gone(heads: list[str], rows: list[list[str]]) -> None:
    for row in (heads, *rows):
        row.pop()


def _column_twice(heads: list[str], rows: list[list[str]]) -> None:
    for row in (heads, *rows):
        row.append(row[-1])


def _strange_column(heads: list[str], rows: list[list[str]]) -> None:
    for row in (heads, *rows):
        row.append("__class__")


def _same_number(heads: list[str], rows: list[list[str]]) -> None:
    rows.append([*rows[0]])


def _same_name(heads: list[str], rows: list[list[str]]) -> None:
    rows.append([*rows[0]])
    rows[-1][heads.index("id")] = "999"


def _everything_twice(heads: list[str], rows: list[list[str]]) -> None:
    for number, row in enumerate([*rows]):
        other = [*row]
        other[heads.index("id")], other[heads.index("uid")] = str(5000 + number), f"{number:032x}"
        rows.append(other)


def _all_one_number(heads: list[str], rows: list[list[str]]) -> None:
    for row in rows:
        row[:] = ["1" if head.endswith("_id") and cell else cell for head, cell in zip(heads, row, strict=True)]


def _backwards(heads: list[str], rows: list[list[str]]) -> None:
    for number, row in enumerate(rows):
        row[heads.index("id")] = str(2**31 - number)


def _no_rows(heads: list[str], rows: list[list[str]]) -> None:
    rows.clear()


WRONG = {
    one.__name__.strip("_"): one
    for one in (
        _lengthen, _shorten, _column_gone, _column_twice, _strange_column, _same_number, _same_name, _everything_twice,
        _all_one_number, _backwards, _no_rows,
    )
}  # fmt: skip


def made_by_hand(bundle: Path, target: Path, name: str, change: Callable[[list[str], list[list[str]]], None]) -> None:
    with zipfile.ZipFile(bundle) as archive:
        files = {one: archive.read(one) for one in archive.namelist()}
    heads, *rows = list(csv.reader(io.StringIO(files[name].decode(), newline="")))
    change(heads, rows)
    out = io.StringIO(newline="")
    csv.writer(out, lineterminator="\n").writerows([heads, *rows])
    files[name] = out.getvalue().encode()
    with zipfile.ZipFile(target, "w") as archive:
        for one, content in files.items():
            archive.writestr(one, content)


@pytest.mark.grid(1)
@pytest.mark.parametrize("part", range(3))
def test_a_bundle_made_by_hand_is_refused_or_gives_pages_that_work(
    bundle: Path, empty: Path, tmp_path: Path, part: int
) -> None:
    ways = list(by_hand(bundle))
    assert len(ways) > 200
    for name, what, change in ways[5 * part :: 82]:
        made_by_hand(bundle, tmp_path / "changed.zip", name, change)
        looked_at(tmp_path / "changed.zip", empty, tmp_path, f"{name} {what}")
