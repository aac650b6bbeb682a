"""The sheet from which takes are played: steps with changes, knobs and cautions, and the clock."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any, Literal

from pydantic import BaseModel, Field
from sqlmodel import Session, col, select

from cata.core.gear import show_position
from cata.core.plan.cautions import cautions_for
from cata.core.plan.chain import in_signal_order, in_words
from cata.core.plan.schedule import Cell, Step, schedule
from cata.core.plan.setup import CHANGE_NAMES, CHANGE_S, Change, changes
from cata.core.schools import QUESTION, chosen
from cata.errors import Conflict
from cata.services.flights.rows import rules_of
from cata.services.flights.showing import LETTERS
from cata.services.plan.cells import OrderKept, cells_of, repeat_of, state_of
from cata.services.plan.ordering import is_improving
from cata.services.plan.setups import Setups, condition_of, load_setups
from cata.services.plan.views import KnobView, OrderView, PlannedState, StepOfSheet
from cata.services.workspace import Workspace, require
from cata.store.tables import Contender, Flight, Planned, Take, Test

PLAYED_BY = ("start", "drive", "compression", "pickups", "space", "guitar_knobs")
"""House rules that the player has to follow."""
DEVICES = ("guitar", "pedal", "amplifier", "speaker", "microphone", "cable", "power supply", "other")


class PlannedPatch(BaseModel):
    """A planned take done, to redo, or to do again; settings that were really used, part key to text."""

    state: Literal["todo", "done", "redo"] | None = None
    used: dict[str, str] | None = Field(default=None, max_length=60)


def get_order(
    ws: Workspace, flight_id: int, again: Mapping[int, str] | None = None, *, short: bool = False
) -> OrderView:
    """The order as it stands: steps with changes, knobs and cautions, and the clock.

    ``again`` are takes to be done again, and why, besides those that a person marked. ``short``: only what is open, as
    an order of its own that begins with the whole set-up.
    """
    with ws.reading() as session:
        flight = require(session, Flight, flight_id)
        kept = OrderKept.model_validate(flight.order) if flight.order else OrderKept()
        setups = load_setups(session, flight)
        pairs, cells = cells_of(setups)
        rows = session.exec(select(Planned).where(Planned.flight_id == flight_id).order_by(col(Planned.position))).all()
        index = {(c.id, t.id): i for i, (c, t) in enumerate(pairs)}
        takes = _takes_by_cell(session, flight_id)
        states = {row.id: _state(row, takes, again or {}) for row in rows}
        rows = [row for row in rows if (row.contender_id, row.test_id) in index]
        if short:
            rows = [row for row in rows if states[row.id][0] != "done"]
        sequence = [index[row.contender_id, row.test_id] for row in rows]
        planned = schedule(cells, sequence, seconds=kept.wish.costs, given=_one_after_another(rows))
        improving, rules = is_improving(session, flight_id), rules_of(session, flight)
        steps = [
            _step(setups, pairs[step.cell], row, step, cells, before, takes, states[row.id])
            for step, row, before in zip(planned.steps, rows, (None, *planned.steps), strict=False)
        ]
    anchors = [row for row in rows if row.anchor == 1]
    gap = max(0.0, 100 * (kept.found_s - kept.least_s) / kept.found_s) if kept.found_s else 0.0
    return OrderView(
        flight_id=flight_id,
        ordered=bool(rows),
        current=bool(rows) and kept.state == state_of(pairs, cells, kept.wish),
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
        improving=improving,
        sessions=planned.sessions,
        one_more_contender_s=kept.one_more_contender_s,
        one_more_test_s=kept.one_more_test_s,
        anchor_contender_id=anchors[0].contender_id if anchors else None,
        anchor_test_id=anchors[0].test_id if anchors else None,
        anchors=kept.wish.anchors,
        session_limit_min=kept.wish.session_limit_min,
        house=[f"{QUESTION[key].name}: {chosen(rules, key).name}" for key in PLAYED_BY],
        change_costs={kind: kept.wish.costs.get(kind, seconds) for kind, seconds in CHANGE_S.items()},
        change_names=dict(CHANGE_NAMES),
    )


def _takes_by_cell(session: Session, flight_id: int) -> dict[tuple[int, int, int], Take]:
    rows = session.exec(select(Take).where(Take.flight_id == flight_id, col(Take.test_id).is_not(None))).all()
    return {(take.contender_id or 0, take.test_id or 0, take.repeat): take for take in rows}


def _one_after_another(rows: Sequence[Planned]) -> list[int]:
    """The sessions of planned takes, numbered without a gap."""
    numbers = sorted({row.session for row in rows})
    return [numbers.index(row.session) for row in rows]


def _state(
    row: Planned, takes: Mapping[tuple[int, int, int], Take], again: Mapping[int, str]
) -> tuple[PlannedState, str]:
    """How a planned take stands, and why it is to be done again."""
    take = takes.get((row.contender_id, row.test_id, repeat_of(row.anchor)))
    if row.state == "redo":
        return "redo", "marked to be done again"
    if take is None:
        return ("done" if row.state == "done" else "todo"), ""
    why = again.get(take.id or 0, "")
    return ("redo" if why else "done"), why


def _step(
    setups: Setups,
    pair: tuple[Contender, Test],
    row: Planned,
    step: Step,
    cells: list[Cell],
    before: Step | None,
    takes: Mapping[tuple[int, int, int], Take],
    stands: tuple[PlannedState, str],
) -> StepOfSheet:
    contender, test = pair
    take = takes.get((contender.id or 0, test.id or 0, repeat_of(row.anchor)))
    chain, setup = setups.cell_chain(contender, test), cells[step.cell].setup
    condition = condition_of(test)
    turned = {change.key for change in step.changes}
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
        state=stands[0],
        why=stands[1],
        take_id=take.id if take is not None else None,
        change_s=step.change_s,
        take_s=step.take_s,
        begins_s=step.begins_s,
        changes=_in_words(step.changes, first=before is None),
        set_up=_in_words(tuple(changes(None, setup)), first=True),
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
    return change.kind in DEVICES and change.written


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


def change_planned(ws: Workspace, planned_id: int, patch: PlannedPatch) -> int:
    """Mark a planned take, or correct the settings that were really used for it; its flight."""
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
                raise Conflict("this take is not recorded yet; correct the plan instead", "not_recorded")
            take.used = {key[:80]: text[:80] for key, text in patch.used.items() if text.strip()}
            session.add(take)
        return row.flight_id
