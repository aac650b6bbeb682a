"""Rehearsing a flight on the bench, and the files for re-amping it: what is simulated, and what is played out."""

from __future__ import annotations

from concurrent.futures import Future
from pathlib import Path
from typing import Any

from pydantic import BaseModel, Field
from sqlmodel import Session, select

from cata.core.specs import read_specs
from cata.errors import Conflict, Invalid
from cata.services import benching
from cata.services.capturing import fill, open_steps
from cata.services.setups import Setups, condition_of, load_setups
from cata.services.takes import new_take
from cata.services.views.capture import RehearsalView
from cata.services.workspace import Workspace, require
from cata.store.tables import Contender, Flight, Planned, Test

MAX_REAMP_S = 45 * 60.0


class RehearsalIn(BaseModel):
    """How to rehearse: ``player`` 0 plays the same dry take through everything, 1 is a steady pair of hands."""

    player: float = Field(default=0.0, ge=0, le=3)
    planned_ids: list[int] = Field(default_factory=list, max_length=400)
    again: bool = False


def rehearse(ws: Workspace, flight_id: int, wish: RehearsalIn) -> RehearsalView:
    """Record the open planned takes (or the named ones) with simulated gear; each is kept as it is finished."""
    with ws.one_at_a_time:
        return _rehearse(ws, flight_id, wish)


def _rehearse(ws: Workspace, flight_id: int, wish: RehearsalIn) -> RehearsalView:
    with ws.reading() as session:
        setups = load_setups(session, require(session, Flight, flight_id))
        steps = _steps(session, flight_id, wish)
        if not steps:
            raise Conflict("there is nothing to rehearse: make an order on the plan, or all takes are recorded")
        chains = [_bench_chain(setups, step, wish.player) for step in steps]
    notes = list(dict.fromkeys(note for _, found in chains for note in found))
    folder = ws.vault.root / "incoming"
    futures: list[Future[dict[str, Any]]] = []
    made = 0
    try:
        for (chain, _), step in zip(chains, steps, strict=True):
            path = folder / f"bench-{flight_id}-{step.number}.wav"
            futures.append(ws.pool.submit(benching.render_take, chain, str(path)))
        for done, (future, step) in enumerate(zip(futures, steps, strict=True)):
            ws.bus.publish({"kind": "making", "flight_id": flight_id, "done": done, "total": len(steps)})
            made += _store(ws, flight_id, step, future.result(), wish)
    finally:
        for future in futures:
            future.cancel()
    ws.bus.publish({"kind": "making", "flight_id": flight_id, "done": len(steps), "total": len(steps)})
    return RehearsalView(made=made, notes=notes)


def _steps(session: Session, flight_id: int, wish: RehearsalIn) -> list[Planned]:
    if wish.planned_ids or wish.again:
        rows = session.exec(select(Planned).where(Planned.flight_id == flight_id)).all()
        return sorted((row for row in rows if wish.again or row.id in wish.planned_ids), key=lambda row: row.position)
    return open_steps(session, flight_id)


def _bench_chain(setups: Setups, step: Planned, player: float) -> tuple[dict[str, Any], list[str]]:
    """The bench chain of a planned take, and where it is only a stand-in."""
    contender = next(c for c in setups.contenders if c.id == step.contender_id)
    test = next(t for t in setups.tests if t.id == step.test_id)
    chain = setups.cell_chain(contender, test)
    controls = setups.controls_of(chain)
    devices = []
    for link in chain.links:
        gear = setups.gear.get(link.gear_id or 0)
        specs = read_specs(gear.kind, gear.specs)[0] if gear else {}  # type: ignore[arg-type]
        devices.append(
            {
                "kind": link.kind,
                "on": link.on,
                "name": link.name,
                "text": f"{gear.about} {gear.structure}" if gear else "",
                "specs": specs,
                "controls": [control.model_dump() for control in controls.get(link.key, ())],
                "settings": dict(link.settings),
            }
        )
    conditions = chain.conditions.model_dump()
    # Hands differ from take to take; a re-amped dry take is the same each time.
    seed = 1 + (step.number if player > 0 else 0)
    return benching.chain_of(condition_of(test).phrase, devices, conditions, player, seed)


def _store(ws: Workspace, flight_id: int, step: Planned, facts: dict[str, Any], wish: RehearsalIn) -> bool:
    """Keep a rehearsed take; False where its place in the order was removed meanwhile."""
    path = Path(facts.pop("path"))
    try:
        kept = ws.vault.add(path)
    finally:
        path.unlink(missing_ok=True)
    facts["evidence"] = "played" if wish.player > 0 else "re-amped"
    with ws.acting("Rehearse a take") as session:
        row = session.get(Planned, step.id)
        if row is None:
            return False
        contender, test = session.get_one(Contender, row.contender_id), session.get_one(Test, row.test_id)
        name = f"{contender.name} - {test.name} (rehearsed).wav"
        lead = benching.LEAD_IN_S
        take = new_take(session, flight_id, name, kept, facts, lead_in_s=lead, at=ws.now())
        fill(session, take, row)
    return True


def reamp_file(ws: Workspace, flight_id: int, contender_id: int) -> Path:
    """The file to play through one contender: for each of its open takes the slate, the dry take, the closing slate.

    Conflict where nothing is open or a test's phrase has no dry take.
    """
    with ws.reading() as session:
        require(session, Flight, flight_id)
        contender = require(session, Contender, contender_id)
        if contender.flight_id != flight_id:
            raise Invalid("the contender belongs to another flight")
        steps = [step for step in open_steps(session, flight_id) if step.contender_id == contender_id]
        tests = {test.id: condition_of(test) for test in load_setups(session, session.get_one(Flight, flight_id)).tests}
    if not steps:
        raise Conflict(f"no open take of {contender.name} is in the order")
    parts = [(step.number, tests[step.test_id].phrase) for step in steps]
    if sum(tests[step.test_id].seconds + 4 for step in steps) > MAX_REAMP_S:
        raise Conflict("the file would last over 45 minutes; record the takes in two parts")
    path = ws.vault.root / "incoming" / f"reamp-{flight_id}-{contender_id}.wav"
    found = ws.pool.submit(benching.reamp, parts, str(path)).result()
    if "refused" in found:
        raise Conflict(found["refused"])
    return path
