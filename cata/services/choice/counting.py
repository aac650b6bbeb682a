"""What all takes say of a kind, counted in beside the server: its pages answer meanwhile, from what it was before."""

from __future__ import annotations

from collections.abc import Hashable
from dataclasses import dataclass
from pathlib import Path

from sqlmodel import Session

from cata.core.brief import Need
from cata.services.choice.costs import costs_of
from cata.services.choice.pooling import Gathered, gather
from cata.services.choice.standing import items_of, standing_of
from cata.services.workspace import Workspace
from cata.store.database import DATABASE, moved, open_engine, reading_session
from cata.store.tables import Flight
from cata.tasks.desk import Desk
from cata.tasks.shape import Task
from cata.tasks.workers import answer, ready


@dataclass(frozen=True)
class ToCount:
    """Of which kind of gear, for what need, at the prices of which day (ISO 8601)."""

    kind: str
    need: Need
    every_test: bool
    today: str


def begin_beside(ws: Workspace) -> None:
    """From now on takes are counted in beside this process; it takes a second to begin."""
    if not ws.is_beside:
        answer(ws.beside, READY_TO_COUNT, None, Desk(str(ws.data_dir)))
        ws.is_beside = True


def gathered(ws: Workspace, session: Session, kind: str, need: Need, *, every_test: bool = False) -> Gathered:
    """What was gathered the last time, as long as nothing that it rests on has changed."""

    def found() -> Gathered:
        if not ws.is_beside:
            return gather(session, kind, need, every_test=every_test)
        asked = ToCount(kind, need, every_test, ws.now()[:10])
        told = answer(ws.beside, COUNT, asked, Desk(str(ws.data_dir)), COUNT.limit_s)
        if not every_test:
            keep_ranked(ws, kind, need, told)
        return told

    return ws.answers.remember_as_of(_asked_of(kind, need, every_test), moved(session, "evidence"), found)


def gathered_of_flight(ws: Workspace, session: Session, flight: Flight, need: Need) -> Gathered:
    """What was gathered of the contenders of one flight, as long as nothing that it rests on has changed."""
    key = ("flight", flight.id, flight.link, _asked_of(flight.link, need, False))
    state = moved(session, "evidence")
    return ws.answers.remember_as_of(key, state, lambda: gather(session, flight.link, need, flight_id=flight.id))


def gathered_before(ws: Workspace, session: Session, kind: str, need: Need) -> Gathered | None:
    """What was gathered and ranked before the newest takes, where these are not counted in yet."""
    found: Gathered | None = ws.answers.of_before(_ranked(kind, need), moved(session, "evidence"))
    return found


def keep_ranked(ws: Workspace, kind: str, need: Need, told: Gathered) -> None:
    """All that a ranking takes is worked out of this: it can be told at once until newer takes are, too."""
    ws.answers.keep(_ranked(kind, need), told.state, told)


def count(asked: ToCount, desk: Desk) -> Gathered:
    """What all takes say, and all that a ranking takes worked out of it."""
    engine = open_engine(Path(desk.root) / DATABASE)
    try:
        with reading_session(engine) as session:
            told = gather(session, asked.kind, asked.need, every_test=asked.every_test)
            if not asked.every_test:
                costs = costs_of(session, asked.kind, (), asked.need, asked.today)
                # What a ranking draws from the evidence stays with it, and goes back with it.
                offered = items_of(costs, asked.kind, asked.need)
                list(standing_of(asked.kind, asked.need, offered, costs, told).ranked)
    finally:
        engine.dispose()
    return told


COUNT = Task("counting takes in", count, limit_s=600)
READY_TO_COUNT = Task("be ready to count", ready, limit_s=60)
"""Sending it loads this module, and with it all that counting takes."""


def _ranked(kind: str, need: Need) -> Hashable:
    return "ranked", _asked_of(kind, need, False)


def _asked_of(kind: str, need: Need, every_test: bool) -> Hashable:
    """What is gathered depends on. Of each question only the newest is kept: what certainty drew is large."""
    asked = tuple((sound.key, sound.name, *((one.reading, one.part, one.against) for one in sound.targets))
                  for sound in need.sounds)  # fmt: skip
    shows = () if every_test else tuple(sorted((test, *sounds) for test, sounds in need.shows.items()))
    return "gathered", kind, asked, shows, every_test
