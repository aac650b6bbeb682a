"""Many hands at once: every acknowledged value is there, places are never given twice, nothing ends in an error."""

from __future__ import annotations

import random
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from pathlib import Path
from typing import TypeVar

import pytest
from sqlmodel import select

from cata.core.gear import Control
from cata.core.schools import QUESTIONS
from cata.services.flights import table
from cata.services.flights.table import ContenderIn, ContenderPatch, FlightIn, TestIn
from cata.services.plan import editing, planning
from cata.services.plan.editing import KnobsIn, RuleIn
from cata.services.shelf import gear, prices
from cata.services.shelf.gear import GearIn
from cata.services.shelf.prices import PriceIn
from cata.services.standing.flight import get_flight
from cata.services.takes import placing, receiving
from cata.services.upkeep import undoing
from cata.services.workspace import Workspace, open_workspace
from cata.store.tables import Contender, Price, Test
from cata.store.vault import Kept
from tests.conftest import SOME_FACTS

T = TypeVar("T")
HANDS = 8
KNOBS = [Control(key=f"k{n}", name=f"Knob {n}") for n in range(HANDS)]


@dataclass
class Table:
    """A flight with a knob, a question and a cell for each pair of hands, and what was acknowledged to them."""

    ws: Workspace
    rng: random.Random = field(default_factory=lambda: random.Random(5))

    def __post_init__(self) -> None:
        self.item = gear.add_gear(self.ws, GearIn(kind="pedal", name="Alder", controls=KNOBS)).id
        self.amp = gear.add_gear(self.ws, GearIn(kind="amplifier", name="Ebb", controls=KNOBS)).id
        self.flight = table.add_flight(self.ws, FlightIn(name="F"))
        self.row = table.add_contender(self.ws, self.flight, ContenderIn(gear_id=self.item))
        editing.add_block(self.ws, self.flight, editing.BlockIn(block="phrases"))
        chain = planning.get_plan(self.ws, self.flight).chain
        links = [
            link.model_copy(update={"gear_id": self.amp}) if link.kind == "amplifier" else link for link in chain.links
        ]
        editing.change_chain(self.ws, self.flight, chain.model_copy(update={"links": tuple(links)}))

    def text(self) -> str:
        return f"{self.rng.randint(0, 100) / 10:g}"


def knobs_of_a_contender(on: Table, texts: list[str]) -> None:
    run(lambda n: table.change_contender(on.ws, on.row, ContenderPatch(settings={f"k{n}": texts[n]})))
    settings = get_flight(on.ws, on.flight).contenders[0].settings
    assert {one.key: one.text for one in settings} == {f"k{n}": texts[n] for n in range(HANDS)}


def starts_of_an_item(on: Table, texts: list[str]) -> None:
    run(lambda n: gear.set_start(on.ws, on.item, f"k{n}", texts[n]))
    assert gear.get_gear(on.ws, on.item).control_texts == texts


def knobs_of_the_chain(on: Table, texts: list[str]) -> None:
    run(lambda n: editing.turn_knobs(on.ws, on.flight, "amplifier", KnobsIn(settings={f"k{n}": texts[n]})))
    plan = planning.get_plan(on.ws, on.flight)
    assert next(link.texts for link in plan.links if link.key == "amplifier") == texts


def knobs_for_one_row(on: Table, texts: list[str]) -> None:
    run(lambda n: editing.turn_for_row(on.ws, on.row, "amplifier", KnobsIn(settings={f"k{n}": texts[n]})))
    row = planning.get_plan(on.ws, on.flight).rows[0]
    assert next(link.texts for link in row.links if link.key == "amplifier") == texts


def house_rules(on: Table, _texts: list[str]) -> None:
    wanted = {q.key: on.rng.choice(q.schools).key for q in QUESTIONS[:HANDS]}
    keys = list(wanted)
    run(lambda n: editing.set_rule(on.ws, on.flight, RuleIn(question=keys[n], school=wanted[keys[n]])), len(keys))
    chosen = {rule.key: rule.chosen for rule in planning.get_plan(on.ws, on.flight).rules}
    assert wanted.items() <= chosen.items()


def rows_and_columns(on: Table, texts: list[str]) -> None:
    def add(n: int) -> int:
        if n % 2:
            return table.add_test(on.ws, on.flight, TestIn(name=f"T{n} {texts[n]}"))
        return table.add_contender(on.ws, on.flight, ContenderIn(name=f"C{n}"))

    added = run(add)
    with on.ws.reading() as session:
        for model, hands in ((Contender, range(0, HANDS, 2)), (Test, range(1, HANDS, 2))):
            rows = session.exec(select(model).where(model.flight_id == on.flight)).all()
            assert {added[n] for n in hands} <= {row.id for row in rows}
            assert sorted(row.position for row in rows) == list(range(len(rows)))
    run(lambda n: (table.remove_test if n % 2 else table.remove_contender)(on.ws, added[n]))


def prices_of_an_item(on: Table, _texts: list[str]) -> None:
    amounts = [on.rng.randint(1, 10**6) for _ in range(HANDS)]
    run(lambda n: prices.add_price(on.ws, on.item, PriceIn(price_minor=amounts[n], source=f"shop {n}")))
    with on.ws.reading() as session:
        assert set(amounts) <= {row.price_minor for row in session.exec(select(Price)).all()}


def takes_into_one_cell(on: Table, _texts: list[str]) -> None:
    test = get_flight(on.ws, on.flight).tests[0].id

    def drop(n: int) -> int:
        take = receiving.add_take(on.ws, on.flight, f"{n}.wav", Kept(f"{n:064x}", 5, on.ws.data_dir), SOME_FACTS)
        placing.place_take(on.ws, take, on.row, test)
        return take

    added = run(drop)
    takes = get_flight(on.ws, on.flight).takes
    assert set(added) <= {take.id for take in takes}
    assert sum(take.test_id is not None for take in takes) == 1


def edits_undos_and_redos(on: Table, texts: list[str]) -> None:
    hands: list[Callable[[], object]] = [
        lambda: undoing.undo(on.ws),
        lambda: undoing.redo(on.ws),
        lambda: table.change_contender(on.ws, on.row, ContenderPatch(settings={"k0": texts[0]})),
        lambda: table.move_test(on.ws, get_flight(on.ws, on.flight).tests[-1].id, 0),
    ]
    table.change_contender(on.ws, on.row, ContenderPatch(settings={"k1": texts[1]}))
    table.change_contender(on.ws, on.row, ContenderPatch(settings={"k1": texts[2]}))
    run(lambda n: hands[n % 4]())
    assert len(get_flight(on.ws, on.flight).contenders) == 1


KINDS = (
    knobs_of_a_contender, starts_of_an_item, knobs_of_the_chain, knobs_for_one_row, house_rules, rows_and_columns,
    prices_of_an_item, takes_into_one_cell, edits_undos_and_redos,
)  # fmt: skip


def run(hand: Callable[[int], T], hands: int = HANDS) -> list[T]:
    """All hands at once; what any of them raises is raised."""
    with ThreadPoolExecutor(hands) as pool:
        return list(pool.map(hand, range(hands)))


def rounds(folder: Path, kind: Callable[[Table, list[str]], None], count: int) -> None:
    ws = open_workspace(folder / "data", workers=1)
    try:
        on = Table(ws)
        for _ in range(count):
            kind(on, [on.text() for _ in range(HANDS)])
    finally:
        ws.close()


@pytest.mark.parametrize("kind", KINDS, ids=lambda kind: kind.__name__)
def test_eight_pairs_of_hands_lose_nothing(tmp_path: Path, kind: Callable[[Table, list[str]], None]) -> None:
    rounds(tmp_path, kind, 4)


@pytest.mark.grid(0, 2)
@pytest.mark.parametrize("kind", KINDS, ids=lambda kind: kind.__name__)
def test_fifty_rounds_of_eight_pairs_of_hands(tmp_path: Path, kind: Callable[[Table, list[str]], None]) -> None:
    rounds(tmp_path, kind, 50)
