"""Whatever is added, removed, undone, exported, restored: a number, a reference, a sentence means what it meant."""

from __future__ import annotations

import json
import shutil
import sqlite3
import tempfile
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from typing import Any

import hypothesis.strategies as st
import pytest
from hypothesis import HealthCheck, Phase, settings
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, rule, run_state_machine_as_test
from sqlalchemy import event
from sqlmodel import Session, col, select

from cata.core.brief import Feel, Need
from cata.core.plan.chain import Chain, Link
from cata.core.taste.rounds import Given, Round, kept, trial_of
from cata.errors import CataError, Conflict
from cata.services.brief import briefs
from cata.services.bundle.links import TABLES, turned
from cata.services.bundle.merging import import_bundle
from cata.services.bundle.packing import export_bundle
from cata.services.bundle.selecting import all_rows
from cata.services.flights import table
from cata.services.shelf import deals, gear
from cata.services.tasting import tastings
from cata.services.tasting.revealing import get_revealed, reveal
from cata.services.tasting.tastings import set_glasses
from cata.services.upkeep import undoing
from cata.services.upkeep.backup import backup, restore
from cata.services.workspace import Workspace, open_workspace
from cata.store.actor import acting_as
from cata.store.database import DATABASE
from cata.store.tables import Answer, Brief, Contender, Deal, Flight, Gear, Take, Taster, Tasting, Test

BROWSERS = st.sampled_from(("browser-a", "browser-b"))
PICK = st.integers(0, 10**6)
ROUNDS = [Round(kind="prefer", of=[0, 1], trials=3), Round(kind="identify", of=[0, 1], trials=3)]


class Library(RuleBasedStateMachine):
    """Two browsers at one library, with bundles and backups between."""

    empty: Path

    @initialize()
    def begin(self) -> None:
        self.folder = Path(tempfile.mkdtemp())
        shutil.copytree(self.empty, self.folder / "data")
        self.open()
        self.made = 0
        self.named: dict[tuple[str, int], str] = {}
        self.pointed: dict[tuple[str, str], list[tuple[str, str | None]]] = {}
        self.sentences: dict[str, str] = {}

    def open(self) -> None:
        self.ws = opened(self.folder / "data")

    def teardown(self) -> None:
        if hasattr(self, "ws"):
            self.ws.close()
            shutil.rmtree(self.folder)

    def name(self, what: str) -> str:
        self.made += 1
        return f"{what} {self.made}"

    def one(self, session: Session, model: type[Any], pick: int) -> Any:
        """Some row of a table, or None where it is empty."""
        rows = session.exec(select(model).order_by(col(model.id))).all()
        return rows[pick % len(rows)] if rows else None

    def ident(self, model: type[Any], pick: int) -> int | None:
        with self.ws.reading() as session:
            row = self.one(session, model, pick)
            return row.id if row is not None else None

    # --- what people do

    @rule(who=BROWSERS)
    def add_gear(self, who: str) -> None:
        with acting_as(who):
            gear.add_gear(self.ws, gear.GearIn(kind="pedal", name=self.name("Pedal")))

    @rule(who=BROWSERS, pick=PICK, what=st.sampled_from((Gear, Flight, Contender, Test, Brief, Deal, Tasting)))
    def remove(self, who: str, pick: int, what: type[Any]) -> None:
        calls: dict[type[Any], Callable[[Workspace, int], Any]] = {
            Gear: gear.remove_gear, Flight: table.remove_flight, Contender: table.remove_contender,
            Test: table.remove_test, Brief: briefs.remove_brief, Deal: deals.remove_deal,
            Tasting: tastings.remove_tasting,
        }  # fmt: skip
        ident = self.ident(what, pick)
        if ident is not None:
            with acting_as(who):
                calls[what](self.ws, ident)

    @rule(who=BROWSERS, pick=PICK)
    def add_flight(self, who: str, pick: int) -> None:
        with acting_as(who):
            ident = table.add_flight(self.ws, table.FlightIn(name=self.name("Flight")))
            table.add_test(self.ws, ident, table.TestIn(name=self.name("Test")))
            for number in range(2):
                item = self.ident(Gear, pick + number)
                table.add_contender(self.ws, ident, table.ContenderIn(name=self.name("Row"), gear_id=item))
            if item is not None:
                with self.ws.acting("chain") as session:
                    flight = session.get_one(Flight, ident)
                    link = Link(key="amp", kind="pedal", gear_id=item, name=session.get_one(Gear, item).name)
                    flight.chain = Chain(links=(link,)).model_dump(mode="json")
                    session.add(flight)

    @rule(who=BROWSERS, pick=PICK)
    def add_contender(self, who: str, pick: int) -> None:
        flight, item = self.ident(Flight, pick), self.ident(Gear, pick // 7)
        if flight is not None:
            with acting_as(who), suppress(CataError):
                table.add_contender(self.ws, flight, table.ContenderIn(name=self.name("Row"), gear_id=item))

    @rule(who=BROWSERS, pick=PICK)
    def set_a_table(self, who: str, pick: int) -> None:
        """A tasting with its takes and answers, as they lie there when it is over or not yet."""
        with acting_as(who), self.ws.reading() as session:
            test = self.one(session, Test, pick)
            rows = session.exec(select(Contender).where(Contender.flight_id == test.flight_id)).all() if test else []
        if len(rows) < 2:
            return
        with acting_as(who), self.ws.acting("Set up a tasting") as session:
            takes = []
            for row in rows[:2]:
                there = (Take.contender_id == row.id, Take.test_id == test.id)
                take = session.exec(select(Take).where(*there)).first() or Take(
                    flight_id=test.flight_id, contender_id=row.id, test_id=test.id, filename="a.wav", size_bytes=1,
                    digest=f"{self.made:032x}{row.id:032x}",
                )  # fmt: skip
                session.add(take)
                session.flush()
                takes.append((take.id or 0, 0.0, 0.0))
            tasting = Tasting(flight_id=test.flight_id, test_id=test.id, test=test.name, name=self.name("Tasting"),
                              seed=self.name("seed"), rounds=[one.model_dump() for one in ROUNDS])  # fmt: skip
            session.add(tasting)
            session.flush()
            set_glasses(session, tasting, takes)
            taster = Taster(tasting_id=tasting.id or 0, number=0, name="Ida")
            session.add(taster)
            session.flush()
            answers: list[Given] = []
            while (trial := trial_of(ROUNDS, tasting.seed, 0, answers)) is not None:
                liked = min(trial.glasses[:2], key=lambda glass: (glass.holds + pick) % 2)
                answers.append(Given(trial.round, trial.number - 1, kept(trial, {"glass": liked.label})))
                last = answers[-1]
                session.add(Answer(taster_id=taster.id or 0, round=last.round, trial=last.trial, what=dict(last.what)))

    @rule(pick=PICK)
    def reveal(self, pick: int) -> None:
        ident = self.ident(Tasting, pick)
        if ident is not None:
            reveal(self.ws, ident)

    @rule(who=BROWSERS, pick=PICK)
    def deal(self, who: str, pick: int) -> None:
        first, second = self.ident(Gear, pick), self.ident(Gear, pick + 1)
        if first is not None and second is not None and first != second:
            with acting_as(who):
                deals.add_deal(self.ws, deals.DealIn(items=[first, second], text="20"))

    @rule(who=BROWSERS, pick=PICK)
    def brief(self, who: str, pick: int) -> None:
        first, second = self.ident(Gear, pick), self.ident(Gear, pick // 3)
        need = (
            Need() if first is None or second is None else Need(own_items=[first], feel={second: Feel(neck=pick % 10)})
        )
        ident = self.ident(Brief, pick) if pick % 2 else None
        with acting_as(who):
            if ident is None:
                briefs.add_brief(self.ws, briefs.BriefIn(name=self.name("Brief"), need=need))
            else:
                # What a brief says of items is what it says now: its rows are let go of, not moved to others.
                briefs.change_brief(self.ws, ident, briefs.BriefPatch(need=need))

    @rule(who=BROWSERS, again=st.booleans())
    def undo(self, who: str, again: bool) -> None:
        with acting_as(who), suppress(Conflict):
            (undoing.redo if again else undoing.undo)(self.ws)

    # --- what goes out and comes back

    @rule(dry=st.booleans())
    def bundle(self, dry: bool) -> None:
        target = self.folder / "all.zip"
        export_bundle(self.ws, target)
        before = everything(self.ws, closed=True)
        shutil.copytree(self.empty, self.folder / "other")
        other = opened(self.folder / "other")
        import_bundle(other, target)
        assert everything(other) == before
        other.close()
        shutil.rmtree(self.folder / "other")
        # Here all of it is there already.
        assert import_bundle(self.ws, target, dry_run=dry).added == {}

    @rule()
    def keep_a_bundle(self) -> None:
        export_bundle(self.ws, self.folder / "kept.zip")

    @rule(who=BROWSERS)
    def bring_the_kept_bundle_back(self, who: str) -> None:
        if (self.folder / "kept.zip").exists():
            with acting_as(who):
                import_bundle(self.ws, self.folder / "kept.zip")

    @rule()
    def keep_a_backup(self) -> None:
        backup(self.ws, self.folder / "kept.backup")

    @rule()
    def go_back_to_the_backup(self) -> None:
        if (self.folder / "kept.backup").exists():
            self.ws.close()
            restore(self.folder / "kept.backup", self.folder / "data", replace=True)
            self.open()

    # --- what holds always

    @invariant()
    def a_number_names_one_thing_for_good(self) -> None:
        if not hasattr(self, "ws"):
            return
        with sqlite3.connect(self.folder / "data" / DATABASE) as database:
            for name in TABLES:
                for ident, uid in database.execute(f'SELECT id, uid FROM "{name}"'):
                    assert self.named.setdefault((name, ident), uid) == uid, (name, ident)
        database.close()

    @invariant()
    def a_reference_names_what_it_named_or_nothing(self) -> None:
        if not hasattr(self, "ws"):
            return
        with self.ws.reading() as session:
            for key, targets in references(session).items():
                for (where, mine), (_, was) in zip(targets, self.pointed.get(key, targets), strict=False):
                    assert mine is None or was is None or mine == was, (key, where)
                known = self.pointed.get(key, targets)
                self.pointed[key] = [(one[0], one[1] or old[1]) for one, old in zip(targets, known, strict=False)]

    @invariant()
    def a_revealed_tasting_says_the_same_for_ever(self) -> None:
        if not hasattr(self, "ws"):
            return
        with self.ws.reading() as session:
            revealed = session.exec(select(Tasting.id, Tasting.uid).where(Tasting.revealed_at != "")).all()
        for ident, uid in revealed:
            told = json.dumps([[one.said.words, [glass.name for glass in one.glasses]] for one in
                               get_revealed(self.ws, ident or 0).rounds])  # fmt: skip
            assert self.sentences.setdefault(uid, told) == told


def opened(folder: Path) -> Workspace:
    """A library that trusts the disk: nobody pulls the plug here."""
    ws = open_workspace(folder, workers=1)
    event.listen(ws.engine, "connect", lambda connection, _: connection.execute("PRAGMA synchronous=OFF").close())
    ws.engine.dispose()
    return ws


def references(session: Session) -> dict[tuple[str, str], list[tuple[str, str | None]]]:
    """What each row points to, in order: table and uid; None for what is gone."""
    rows = all_rows(session)
    found = {}
    for name, mine in rows.items():
        for row in mine.values():
            targets: list[tuple[str, str | None]] = []

            def note(other: str, ident: int, targets: list[tuple[str, str | None]] = targets) -> int:
                there = rows[other].get(ident)
                targets.append((other, there["uid"] if there is not None else None))
                return ident

            turned(name, row, note)
            # A pointer that was let go of is not asked for: then what follows would take its place.
            keys = [c.name for c in TABLES[name].__table__.columns if c.foreign_keys]  # type: ignore[attr-defined]
            inside = targets[sum(row[key] is not None for key in keys) :]
            own = iter(targets)
            found[name, row["uid"]] = [(key, next(own)[1] if row[key] is not None else None) for key in keys] + inside
    return found


def everything(ws: Workspace, *, closed: bool = False) -> dict[str, Any]:
    """All rows by table and uid, what they point to by uid; ``closed``: without tastings that are not revealed."""
    with ws.reading() as session:
        rows = all_rows(session)
        points = references(session)
    open_ones = {ident for ident, row in rows["tasting"].items() if closed and not row["revealed_at"]}
    tasters = {ident for ident, row in rows["taster"].items() if row["tasting_id"] in open_ones}
    found: dict[str, Any] = {}
    for name, mine in rows.items():
        for row in mine.values():
            if (
                row["tasting_id"] if name in ("glass", "taster") else row["id"] if name == "tasting" else 0
            ) in open_ones:
                continue
            if name == "answer" and row["taster_id"] in tasters:
                continue
            plain = turned(name, row, lambda _other, _ident: None)
            # What is gone is gone, whether a number still says so or nothing does.
            there = [one for one in points[name, row["uid"]] if one[1] is not None]
            found[f"{name} {row['uid']}"] = ({k: v for k, v in plain.items() if k != "id"}, there)
    return found


def walk(empty: Path, runs: int) -> None:
    machine = type("Machine", (Library,), {"empty": empty})
    run_state_machine_as_test(machine, settings=settings(  # type: ignore[no-untyped-call]
        max_examples=runs, stateful_step_count=30, deadline=None, database=None, print_blob=False,
        suppress_health_check=list(HealthCheck), phases=[Phase.generate],
    ))  # fmt: skip


def test_nothing_ever_names_another_thing(empty: Path) -> None:
    walk(empty, 5)


@pytest.mark.whole
def test_nothing_ever_names_another_thing_on_many_ways(empty: Path) -> None:
    walk(empty, 30)
