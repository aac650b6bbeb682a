"""The order of takes: a good one at once, a better one while the person looks on."""

from __future__ import annotations

from dataclasses import asdict

import numpy as np
from sqlmodel import Session, col, delete, select

from cata.core.plan.bound import Ascent
from cata.core.plan.order import Order, inserted_seconds
from cata.core.plan.schedule import Cell, Schedule, cost_table, schedule
from cata.core.plan.setup import Part
from cata.errors import Conflict, Invalid
from cata.services.flights.rows import planned_of
from cata.services.plan.cells import OrderIn, OrderKept, cells_of, state_of
from cata.services.plan.setups import Setups, load_setups
from cata.services.workspace import Workspace, require
from cata.store.actor import acting_as
from cata.store.changes import in_places, remove
from cata.store.journal import is_last
from cata.store.tables import Asked, Contender, Flight, Planned, Take, Test
from cata.tasks.orders import FIRST_ORDER, IMPROVE_ORDER, ToImprove, ToOrder
from cata.tasks.shape import Due, Duty

MAX_TAKES = 400
ROUNDS = 8
IMPROVING = "order"
LABEL = "Order the takes"
NOT_YET = -(10**6)
"""Where rows stand that have no place yet: out of the way of all that have."""
Pairs = list[tuple[Contender, Test]]


def make_order(ws: Workspace, flight_id: int, wish: OrderIn) -> None:
    """Order the takes for little change-over time; what was done stays done. It is improved in the background.

    Conflict without a cell, Invalid for too many.
    """
    with ws.reading() as session:
        setups = load_setups(session, require(session, Flight, flight_id))
        pairs, cells = cells_of(setups)
    if not pairs:
        raise Conflict("an order needs a contender and a test at least", "nothing_to_order")
    if len(pairs) > MAX_TAKES:
        raise Invalid(
            f"{len(pairs)} takes are too many to order; at most {MAX_TAKES}: split the flight", "too_many_takes",
            takes=len(pairs), most=MAX_TAKES,
        )  # fmt: skip
    anchor = _anchor(pairs, wish)
    costs = cost_table(cells, wish.costs)
    order = ws.ask(FIRST_ORDER, ToOrder(costs, anchor))
    longer = _longer(setups, pairs, cells, wish, order)
    kept = OrderKept(
        wish=wish,
        state=state_of(pairs, cells, wish),
        table_s=int(np.trace(costs, offset=1)),
        one_more_contender_s=longer.get("contender"),
        one_more_test_s=longer.get("test"),
    )
    with ws.acting(LABEL) as session:
        flight = require(session, Flight, flight_id)
        _put(session, flight, kept, order, pairs, cells)
        _improve_further(session, flight, kept, order, ROUNDS)


def _put(session: Session, flight: Flight, kept: OrderKept, order: Order, pairs: Pairs, cells: list[Cell]) -> None:
    """Keep an order: its figures with the flight, its steps as rows."""
    limit = kept.wish.session_limit_min
    planned = schedule(
        cells, order.sequence, seconds=kept.wish.costs, session_limit_s=limit * 60 if limit else None,
        anchor=_anchor(pairs, kept.wish),
    )  # fmt: skip
    _note(session, flight, kept, order)
    _keep(session, flight.id or 0, pairs, planned)


def _note(session: Session, flight: Flight, kept: OrderKept, order: Order) -> None:
    found = {
        "sequence": [int(index) for index in order.sequence], "found_s": order.seconds, "least_s": order.least_s,
        "ascent": asdict(order.ascent) if order.ascent is not None else None,
    }  # fmt: skip
    flight.order = kept.model_copy(update=found).model_dump(mode="json")
    session.add(flight)


def _anchor(pairs: list[tuple[Contender, Test]], wish: OrderIn) -> int | None:
    """The cell that is repeated: the chosen one, else the first contender that is no bypass in the first test."""
    if not wish.anchors or len(pairs) < 3:
        return None
    for index, (contender, test) in enumerate(pairs):
        if (contender.id, test.id) == (wish.anchor_contender_id, wish.anchor_test_id):
            return index
    if wish.anchor_contender_id is not None:
        raise Invalid("the anchor must be a cell of this flight", "other_flight")
    return next((i for i, (contender, _) in enumerate(pairs) if contender.is_bypass), 0)


def _longer(setups: Setups, pairs: Pairs, cells: list[Cell], wish: OrderIn, order: Order) -> dict[str, float]:
    """Seconds that one more contender, and one more test, would cost: change-overs and playing."""
    last_contender, last_test, key = pairs[-1][0].id, pairs[-1][1].id, setups.compared.key
    row = [cell for (c, _), cell in zip(pairs, cells, strict=True) if c.id == last_contender]
    column = [cell for (_, t), cell in zip(pairs, cells, strict=True) if t.id == last_test]
    grown = {
        "contender": [(cell, key, Part(cell.setup[key].kind, cell.setup[key].name, "one more")) for cell in row],
        "test": [(cell, "test/phrase", Part("phrase", "phrase", "one more")) for cell in column],
    }
    found = {}
    for name, extra in grown.items():
        more = [Cell({**cell.setup, key: part}, cell.play_s, cell.bpm) for cell, key, part in extra]
        costs = cost_table([*cells, *more], wish.costs)
        change_s = inserted_seconds(costs, order.sequence, range(len(cells), len(cells) + len(more)))
        found[name] = change_s + sum(cell.take_s for cell in more)
    return found


def _keep(session: Session, flight_id: int, pairs: Pairs, planned: Schedule) -> None:
    """Write the steps as rows; a take that was planned before keeps its number and its state."""
    before = planned_of(session, flight_id)
    known = {(row.contender_id, row.test_id, row.anchor): row for row in before}
    number = max((row.number for row in before), default=0)
    rows = []
    for step in planned.steps:
        contender, test = pairs[step.cell]
        key = (contender.id or 0, test.id or 0, step.anchor)
        # The first anchor is the cell's own take.
        row = known.get(key) or (known.get((*key[:2], 0)) if step.anchor == 1 else None)
        row = row or (known.get((*key[:2], 1)) if step.anchor == 0 else None)
        if row is None:
            number += 1
            row = Planned(
                flight_id=flight_id, number=number, contender_id=key[0], test_id=key[1], position=NOT_YET - number
            )
        row.anchor, row.session = step.anchor, step.session
        session.add(row)
        rows.append(row)
    for row in before:
        if all(row is not one for one in rows):
            remove(session, row)
    in_places(session, rows)


# --- in the background


def _improve_further(session: Session, flight: Flight, kept: OrderKept, order: Order, rounds: int) -> None:
    session.exec(delete(Asked).where(col(Asked.duty) == IMPROVING, col(Asked.flight_id) == flight.id))
    if rounds > 0 and not order.is_best:
        wish = {"state": kept.state, "rounds": rounds}
        session.add(Asked(duty=IMPROVING, flight_id=flight.id or 0, wish=wish, total=ROUNDS))
    session.flush()


def is_improving(session: Session, flight_id: int) -> bool:
    """True while a better order is looked for."""
    return (
        session.exec(select(Asked.id).where(Asked.duty == IMPROVING, Asked.flight_id == flight_id)).first() is not None
    )


def stop_improving(ws: Workspace, flight_id: int) -> None:
    """The order is good enough as it is."""
    with ws.writing() as session:
        session.exec(delete(Asked).where(col(Asked.duty) == IMPROVING, col(Asked.flight_id) == flight_id))
    ws.changed("Keep the order as it is")


def _asked(session: Session) -> list[Due]:
    rows = session.exec(select(Asked).where(Asked.duty == IMPROVING).order_by(col(Asked.id))).all()
    return [Due(IMPROVING, row.flight_id, row.flight_id, f"{row.wish['state']}/{row.wish['rounds']}") for row in rows]


def _as_it_stands(session: Session, due: Due) -> tuple[Flight, OrderKept, Pairs, list[Cell]] | None:
    """The plan and the order of a flight; None where they do not belong together any more, or a take was played."""
    flight = session.get(Flight, due.ident)
    if flight is None or not flight.order:
        return None
    kept = OrderKept.model_validate(flight.order)
    pairs, cells = cells_of(load_setups(session, flight))
    begun = session.exec(select(Take.id).where(Take.flight_id == due.ident, col(Take.test_id).is_not(None))).first()
    marked = any(row.state != "todo" for row in planned_of(session, due.ident))
    if begun is not None or marked or kept.state != due.state.split("/")[0] or not kept.sequence:
        return None
    return (flight, kept, pairs, cells) if state_of(pairs, cells, kept.wish) == kept.state else None


def _order_of(kept: OrderKept) -> Order:
    ascent = Ascent(**kept.ascent) if kept.ascent is not None else None
    return Order(tuple(kept.sequence), kept.found_s, kept.least_s, ascent)


def _to_improve(_ws: Workspace, session: Session, due: Due) -> ToImprove:
    stands = _as_it_stands(session, due)
    number = int(due.state.split("/")[1])
    if stands is None:  # nothing to do: the next step sees it and stops
        return ToImprove(np.zeros((0, 0), dtype=np.int64), None, Order((), 0, 0), number)
    _, kept, pairs, cells = stands
    return ToImprove(cost_table(cells, kept.wish.costs), _anchor(pairs, kept.wish), _order_of(kept), number)


def _improved(ws: Workspace, due: Due, order: Order) -> None:
    """Keep a better order, as part of the action that asked for it, unless the person has gone on to something else."""
    rounds = int(due.state.split("/")[1]) - 1
    with ws.reading() as session:
        asked = select(Asked.by).where(Asked.duty == IMPROVING, Asked.flight_id == due.ident)
        by = session.exec(asked).first() or ""
    with acting_as(by), ws.acting(LABEL, joined=True) as session:
        stands = _as_it_stands(session, due)
        if stands is None or not is_last(session, LABEL) or not is_improving(session, due.ident):
            session.exec(delete(Asked).where(col(Asked.duty) == IMPROVING, col(Asked.flight_id) == due.ident))
            return
        flight, kept, pairs, cells = stands
        if order.seconds < kept.found_s:
            _put(session, flight, kept, order, pairs, cells)
        else:
            _note(session, flight, kept, order)
        _improve_further(session, flight, kept, order, rounds)


IMPROVE = Duty(IMPROVING, IMPROVE_ORDER, _asked, _to_improve, _improved)
