"""The order of takes, the clock, and the sheet from which they are played."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Mapping
from typing import Any, Literal

from pydantic import BaseModel, Field
from sqlmodel import Session, col, select

from cata.core.chain import in_signal_order, in_words
from cata.core.gear import show_position
from cata.core.plan.cautions import cautions_for
from cata.core.plan.schedule import Cell, Schedule, Step, cost_table, schedule
from cata.core.plan.setup import CHANGE_NAMES, CHANGE_S, Change, Part, PartKind
from cata.errors import Conflict, Invalid
from cata.services import work
from cata.services.flight_view import LETTERS
from cata.services.setups import Setups, condition_of, load_setups
from cata.services.views.plan import KnobView, OrderView, StepOfSheet
from cata.services.workspace import Workspace, require
from cata.store.tables import Contender, Flight, Planned, Take, Test

MAX_TAKES = 400
DEVICES = ("guitar", "pedal", "amplifier", "speaker", "microphone", "cable", "power supply", "other")


class OrderIn(BaseModel):
    """How takes are to be ordered; ``anchor`` None lets Cata choose the anchor's cell."""

    anchors: bool = True
    anchor_contender_id: int | None = Field(default=None, ge=1, le=2**53)
    anchor_test_id: int | None = Field(default=None, ge=1, le=2**53)
    session_limit_min: float | None = Field(default=None, ge=10, le=1440)
    costs: dict[PartKind, int] = Field(default_factory=dict)


class OrderKept(BaseModel):
    """What a flight keeps of its order: the wish, the plan it stands for, and what the solver found."""

    wish: OrderIn = OrderIn()
    state: str = ""
    least_s: int = 0
    found_s: int = 0
    table_s: int = 0
    one_more_contender_s: float | None = None
    one_more_test_s: float | None = None


class PlannedPatch(BaseModel):
    """A planned take done, to redo, or to do again; settings that were really used, part key to text."""

    state: Literal["todo", "done", "redo"] | None = None
    used: dict[str, str] | None = Field(default=None, max_length=60)


def _cells(setups: Setups) -> tuple[list[tuple[Contender, Test]], list[Cell]]:
    pairs = [(contender, test) for contender in setups.contenders for test in setups.tests]
    cells = []
    for contender, test in pairs:
        condition = condition_of(test)
        warm = setups.warm(setups.cell_chain(contender, test))
        cells.append(Cell(setups.setup(contender, test), condition.seconds, condition.bpm, warm))
    return pairs, cells


def _state(pairs: list[tuple[Contender, Test]], cells: list[Cell], wish: OrderIn) -> str:
    parts = [
        [contender.id, test.id, cell.play_s, cell.bpm, sorted((k, p.kind, p.value) for k, p in cell.setup.items())]
        for (contender, test), cell in zip(pairs, cells, strict=True)
    ]
    whole = json.dumps([parts, wish.model_dump(mode="json")], sort_keys=True)
    return hashlib.sha256(whole.encode()).hexdigest()[:16]


def make_order(ws: Workspace, flight_id: int, wish: OrderIn) -> OrderView:
    """Order the takes for the least change-over time; what was done stays done. Refused without a cell."""
    with ws.reading() as session:
        setups = load_setups(session, require(session, Flight, flight_id))
        pairs, cells = _cells(setups)
    if not pairs:
        raise Conflict("an order needs a contender and a test at least")
    if len(pairs) > MAX_TAKES:
        raise Invalid(f"{len(pairs)} takes are too many to order; at most {MAX_TAKES}: split the flight")
    anchor = _anchor(pairs, wish)
    costs = cost_table(cells, wish.costs)
    found = ws.pool.submit(work.order_takes, costs, anchor, _grown(setups, pairs, cells, wish)).result()
    kept = OrderKept(
        wish=wish,
        state=_state(pairs, cells, wish),
        least_s=found["least_s"],
        found_s=found["seconds"],
        table_s=sum(costs[i][i + 1] for i in range(len(costs) - 1)),
        one_more_contender_s=found["grown"].get("contender"),
        one_more_test_s=found["grown"].get("test"),
    )
    planned = schedule(
        cells,
        found["sequence"],
        seconds=wish.costs,
        session_limit_s=wish.session_limit_min * 60 if wish.session_limit_min else None,
        anchor=anchor,
    )
    with ws.acting("Order the takes") as session:
        flight = require(session, Flight, flight_id)
        flight.order = kept.model_dump(mode="json")
        session.add(flight)
        _keep(session, flight_id, pairs, planned)
    return get_order(ws, flight_id)


def _anchor(pairs: list[tuple[Contender, Test]], wish: OrderIn) -> int | None:
    """The cell that is repeated: the chosen one, else the first contender that is no bypass in the first test."""
    if not wish.anchors or len(pairs) < 3:
        return None
    for index, (contender, test) in enumerate(pairs):
        if (contender.id, test.id) == (wish.anchor_contender_id, wish.anchor_test_id):
            return index
    if wish.anchor_contender_id is not None:
        raise Invalid("the anchor must be a cell of this flight")
    return next((i for i, (contender, _) in enumerate(pairs) if contender.is_bypass), 0)


def _grown(
    setups: Setups, pairs: list[tuple[Contender, Test]], cells: list[Cell], wish: OrderIn
) -> dict[str, tuple[list[list[int]], float]]:
    """The plan with one more contender, and with one more test: their costs, and the time to play what is added."""
    grown: dict[str, tuple[list[list[int]], float]] = {}
    if len(cells) > MAX_TAKES // 3:
        return grown
    last_row = [cell for (c, _), cell in zip(pairs, cells, strict=True) if c.id == pairs[-1][0].id]
    key = setups.compared.key
    another = [
        Cell({**cell.setup, key: Part(cell.setup[key].kind, cell.setup[key].name, "one more")}, cell.play_s, cell.bpm)
        for cell in last_row
    ]
    last_column = [cell for (_, t), cell in zip(pairs, cells, strict=True) if t.id == pairs[-1][1].id]
    phrase = [Cell({**cell.setup, "test/phrase": Part("phrase", "phrase", "one more")}, cell.play_s, cell.bpm)
              for cell in last_column]  # fmt: skip
    for name, extra in (("contender", another), ("test", phrase)):
        grown[name] = (cost_table([*cells, *extra], wish.costs), sum(cell.take_s for cell in extra))
    return grown


def _keep(session: Session, flight_id: int, pairs: list[tuple[Contender, Test]], planned: Schedule) -> None:
    """Write the steps as rows; a take that was planned before keeps its number and its state."""
    before = session.exec(select(Planned).where(Planned.flight_id == flight_id)).all()
    known = {(row.contender_id, row.test_id, row.anchor): row for row in before}
    number = max((row.number for row in before), default=0)
    used = set()
    for position, step in enumerate(planned.steps):
        contender, test = pairs[step.cell]
        key = (contender.id or 0, test.id or 0, step.anchor)
        # The first anchor is the cell's own take.
        row = known.get(key) or (known.get((*key[:2], 0)) if step.anchor == 1 else None)
        row = row or (known.get((*key[:2], 1)) if step.anchor == 0 else None)
        if row is None:
            number += 1
            row = Planned(flight_id=flight_id, number=number, contender_id=key[0], test_id=key[1])
        row.anchor, row.position, row.session = step.anchor, position, step.session
        session.add(row)
        used.add(row.number)
    for row in before:
        if row.number not in used:
            session.delete(row)
    session.flush()


def get_order(ws: Workspace, flight_id: int) -> OrderView:
    """The order as it stands: steps with changes, knobs and cautions, and the clock."""
    with ws.reading() as session:
        flight = require(session, Flight, flight_id)
        kept = OrderKept.model_validate(flight.order) if flight.order else OrderKept()
        setups = load_setups(session, flight)
        pairs, cells = _cells(setups)
        rows = session.exec(select(Planned).where(Planned.flight_id == flight_id).order_by(col(Planned.position))).all()
        index = {(c.id, t.id): i for i, (c, t) in enumerate(pairs)}
        rows = [row for row in rows if (row.contender_id, row.test_id) in index]
        sequence = [index[row.contender_id, row.test_id] for row in rows]
        planned = schedule(cells, sequence, seconds=kept.wish.costs, given=[row.session for row in rows])
        takes = _takes_by_cell(session, flight_id)
        steps = [
            _step(setups, pairs[step.cell], row, step, cells, before, takes)
            for step, row, before in zip(planned.steps, rows, (None, *planned.steps), strict=False)
        ]
    anchors = [row for row in rows if row.anchor == 1]
    gap = max(0.0, 100 * (kept.found_s - kept.least_s) / kept.found_s) if kept.found_s else 0.0
    return OrderView(
        flight_id=flight_id,
        ordered=bool(rows),
        current=bool(rows) and kept.state == _state(pairs, cells, kept.wish),
        steps=steps,
        done=sum(step.state == "done" for step in steps),
        change_s=planned.change_s,
        play_s=planned.play_s,
        warm_s=planned.warm_s,
        redo_s=planned.redo_s,
        total_s=planned.total_s,
        table_order_s=kept.table_s,
        best=kept.found_s <= kept.least_s,
        gap_percent=round(gap, 1),
        sessions=planned.sessions,
        one_more_contender_s=kept.one_more_contender_s,
        one_more_test_s=kept.one_more_test_s,
        anchor_contender_id=anchors[0].contender_id if anchors else None,
        anchor_test_id=anchors[0].test_id if anchors else None,
        anchors=kept.wish.anchors,
        session_limit_min=kept.wish.session_limit_min,
        change_costs={kind: kept.wish.costs.get(kind, seconds) for kind, seconds in CHANGE_S.items()},
        change_names=dict(CHANGE_NAMES),
    )


def repeat_of(anchor: int) -> int:
    """Which repeat of its cell a planned take is: the first anchor is the take that counts."""
    return max(0, anchor - 1)


def _takes_by_cell(session: Session, flight_id: int) -> dict[tuple[int, int, int], Take]:
    rows = session.exec(select(Take).where(Take.flight_id == flight_id, col(Take.test_id).is_not(None))).all()
    return {(take.contender_id or 0, take.test_id or 0, take.repeat): take for take in rows}


def _step(
    setups: Setups,
    pair: tuple[Contender, Test],
    row: Planned,
    step: Step,
    cells: list[Cell],
    before: Step | None,
    takes: Mapping[tuple[int, int, int], Take],
) -> StepOfSheet:
    contender, test = pair
    take = takes.get((contender.id or 0, test.id or 0, repeat_of(row.anchor)))
    chain, setup = setups.cell_chain(contender, test), cells[step.cell].setup
    condition = condition_of(test)
    turned = {change.key for change in step.changes}
    state: Any = "done" if take is not None and row.state != "redo" else row.state
    order = [c.id for c in setups.contenders].index(contender.id)
    return StepOfSheet(
        planned_id=row.id or 0,
        number=row.number,
        contender_id=contender.id or 0,
        test_id=test.id or 0,
        contender=contender.name,
        letter=LETTERS[order % len(LETTERS)],
        colour=contender.colour,
        test=test.name,
        anchor=row.anchor,
        session=row.session,
        state=state,
        take_id=take.id if take is not None else None,
        change_s=step.change_s,
        take_s=step.take_s,
        begins_s=step.begins_s,
        changes=_in_words(step.changes, first=before is None),
        cautions=cautions_for(
            step.changes if before is not None else [c for c in step.changes if _to_set_up(c)], setups.devices(chain)
        ),
        knobs=_knobs(setups, chain, turned),
        conditions=[f"{part.name}: {part.value}" for key, part in setup.items() if key.startswith("condition/")],
        phrase=condition.phrase,
        bpm=condition.bpm,
        used=take.used if take is not None else {},
    )


def _in_words(found: tuple[Change, ...], *, first: bool) -> list[str]:
    if not first:
        return [in_words(change) for change in found]
    # To begin with, the devices are named; their knobs are drawn.
    return [f"{change.name}: {change.after}" for change in found if _to_set_up(change)]


def _to_set_up(change: Change) -> bool:
    return change.kind in DEVICES and change.after not in ("", "not written down") and change.after[:3] != "no "


def _knobs(setups: Setups, chain: Any, turned: set[str]) -> list[KnobView]:
    controls = setups.controls_of(chain)
    views = []
    for link in in_signal_order(chain.links):
        if not link.on:
            continue
        for control in controls.get(link.key, []):
            at = link.settings.get(control.key, control.default)
            key = f"{link.key}/{control.key}"
            views.append(
                KnobView(
                    link=link.name or link.kind,
                    key=key,
                    name=control.name,
                    text=show_position(control, at),
                    position=at,
                    scale=control.scale,
                    labels=control.labels,
                    turned=key in turned or link.key in turned,
                )
            )
    return views


def change_planned(ws: Workspace, planned_id: int, patch: PlannedPatch) -> OrderView:
    """Mark a planned take, or correct the settings that were really used for it."""
    labels = {"done": "Take done", "redo": "Take to redo", "todo": "Take to do"}
    label = labels.get(patch.state or "", "Correct settings")
    with ws.acting(label) as session:
        row = require(session, Planned, planned_id, "planned take")
        if patch.state is not None:
            row.state = patch.state
            session.add(row)
        if patch.used is not None:
            take = _takes_by_cell(session, row.flight_id).get((row.contender_id, row.test_id, repeat_of(row.anchor)))
            if take is None:
                raise Conflict("this take is not recorded yet; correct the plan instead")
            take.used = {key[:80]: text[:80] for key, text in patch.used.items() if text.strip()}
            session.add(take)
    return get_order(ws, row.flight_id)
