"""Rehearsing a flight on the bench: simulated gear plays the takes that are still open."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict

from pydantic import BaseModel, Field
from sqlmodel import Session, select

from cata.core.bench.chain import LEAD_IN_S, ChainSettings
from cata.core.bench.rehearsal import Device, rehearsal
from cata.core.specs import read_specs
from cata.errors import Conflict
from cata.said import Said
from cata.services.capture.asking import REHEARSAL, ask_for, asked_of, by_whom, done
from cata.services.capture.steps import fill, open_steps
from cata.services.capture.views import RehearsalView
from cata.services.plan.setups import Setups, condition_of, load_setups
from cata.services.takes.receiving import new_take
from cata.services.workspace import Workspace, require
from cata.store.actor import acting_as
from cata.store.tables import Asked, Contender, Flight, Planned, Test
from cata.tasks import bench as tasks
from cata.tasks.shape import Due, Duty
from cata.tasks.takes import Facts

PLAYERS: dict[float, str] = {0.0: "the same dry take", 1.0: "a steady player", 2.0: "a loose player"}


class RehearsalIn(BaseModel):
    """How to rehearse: ``player`` 0 plays the same dry take through everything, 1 is a steady pair of hands."""

    player: float = Field(default=0.0, ge=0, le=3)
    planned_ids: list[int] = Field(default_factory=list, max_length=400)
    again: bool = False


def rehearse(ws: Workspace, flight_id: int, wish: RehearsalIn) -> RehearsalView:
    """Ask for the open planned takes (or the named ones) from simulated gear; each is kept as it is finished.

    They are made in the background; a double click asks for nothing twice. Conflict where nothing is open.
    """
    with ws.writing() as session:
        setups = load_setups(session, require(session, Flight, flight_id))
        steps = _steps(session, flight_id, wish)
        if not steps:
            raise Conflict(
                "there is nothing to rehearse: make an order on the plan, or all takes are recorded", "nothing_open"
            )
        notes = [note for step in steps for note in _chain(setups, step, wish.player)[1]]
        wishes = [{"planned_id": step.id, "player": wish.player} for step in steps]
        asked = ask_for(session, REHEARSAL, flight_id, wishes)
    ws.changed("Rehearse")
    return RehearsalView(asked=asked, notes=list({note.words: note for note in notes}.values()))


def play(ws: Workspace, flight_id: int, chains: Mapping[tuple[str, str], ChainSettings]) -> None:
    """Have the bench play the planned takes of a flight, each through a chain of its own: by contender and test."""
    with ws.writing() as session:
        setups = load_setups(session, require(session, Flight, flight_id))
        names = {row.id: row.name for row in setups.contenders}, {row.id: row.name for row in setups.tests}
        wishes = [
            {
                "planned_id": step.id,
                "player": 0.0,
                "chain": asdict(chains[names[0][step.contender_id], names[1][step.test_id]]),
            }
            for step in open_steps(session, flight_id)
        ]
        ask_for(session, REHEARSAL, flight_id, wishes)
    ws.changed("Rehearse")


def _steps(session: Session, flight_id: int, wish: RehearsalIn) -> list[Planned]:
    if wish.planned_ids or wish.again:
        rows = session.exec(select(Planned).where(Planned.flight_id == flight_id)).all()
        return sorted((row for row in rows if wish.again or row.id in wish.planned_ids), key=lambda row: row.position)
    return open_steps(session, flight_id)


def _chain(setups: Setups, step: Planned, player: float) -> tuple[ChainSettings, list[Said]]:
    """The bench chain of a planned take, and where it is only a stand-in."""
    contender = next(c for c in setups.contenders if c.id == step.contender_id)
    test = next(t for t in setups.tests if t.id == step.test_id)
    chain = setups.cell_chain(contender, test)
    controls = setups.controls_of(chain)
    devices = []
    for link in chain.links:
        gear = setups.gear.get(link.gear_id or 0)
        devices.append(
            Device(
                kind=link.kind,
                name=link.name,
                text=f"{gear.about} {gear.structure}" if gear else "",
                on=link.on,
                specs=read_specs(gear.kind, gear.specs)[0] if gear else {},  # type: ignore[arg-type]
                controls=controls.get(link.key, ()),
                settings=link.settings,
            )
        )
    # Hands differ from take to take; a re-amped dry take is the same each time.
    seed = 1 + (step.number if player > 0 else 0)
    return rehearsal(condition_of(test).phrase, devices, chain.conditions, player=player, seed=seed)


def _out(due: Due) -> str:
    return f"vault/incoming/{due.name}.wav"


def _to_play(_ws: Workspace, session: Session, due: Due) -> tasks.ToPlay:
    asked = session.get_one(Asked, due.ident)
    player = float(asked.wish["player"])
    if "chain" in asked.wish:
        chain = ChainSettings(**asked.wish["chain"])
    else:
        setups = load_setups(session, session.get_one(Flight, asked.flight_id))
        chain, _ = _chain(setups, session.get_one(Planned, asked.wish["planned_id"]), player)
    return tasks.ToPlay(chain, _out(due), "played" if player > 0 else "re-amped")


def _played(ws: Workspace, due: Due, facts: Facts) -> None:
    """Keep a rehearsed take; nothing where its place in the order went meanwhile."""
    by = acting_as(by_whom(ws, due))
    with by, ws.vault.adopting(ws.data_dir / _out(due)) as kept, ws.acting("Rehearse takes", joined=True) as session:
        asked = session.get(Asked, due.ident)
        row = session.get(Planned, asked.wish["planned_id"]) if asked else None
        if not done(session, due) or row is None:
            return
        contender, test = session.get_one(Contender, row.contender_id), session.get_one(Test, row.test_id)
        name = f"{contender.name} - {test.name} (rehearsed).wav"
        take = new_take(session, row.flight_id, name, kept, facts, lead_in_s=LEAD_IN_S, at=ws.now())
        fill(session, take, row)


REHEARSE = Duty(REHEARSAL, tasks.PLAY, lambda session: asked_of(session, REHEARSAL), _to_play, _played)
