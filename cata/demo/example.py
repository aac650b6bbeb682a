"""A finished flight to look at in one's own data: brought in by one click, taken out again by another."""

from __future__ import annotations

import json
from dataclasses import replace

from pydantic import BaseModel
from sqlmodel import Session

from cata.demo.scenario import DRIVES, ferry_brief
from cata.demo.seed import CURRENCY, chain_of, lay_out, on_the_shelf
from cata.demo.shelf import ITEM
from cata.errors import Conflict
from cata.services.brief.needs import put_need
from cata.services.capture.rehearsing import play
from cata.services.plan.cells import OrderIn
from cata.services.plan.ordering import make_order
from cata.services.workspace import Workspace
from cata.store.changes import remove
from cata.store.tables import Brief, Flight, Gear, Setting

KEY = "example"
HELD = ("guitar", "clean", "twelve", "near")
"""What the drives are played through."""


class Example(BaseModel):
    """The flight to look at; None where there is none."""

    flight_id: int | None


def _known(session: Session) -> dict[str, list[int]]:
    row = session.get(Setting, KEY)
    found: dict[str, list[int]] = json.loads(row.value) if row is not None else {}
    return found if found and session.get(Flight, found["flight"][0]) is not None else {}


def get_example(ws: Workspace) -> Example:
    """Whether there is one."""
    with ws.reading() as session:
        known = _known(session)
    return Example(flight_id=known["flight"][0] if known else None)


def bring_in(ws: Workspace) -> Example:
    """Lay the flight out, with what it compares and is played through, and have the bench play it in the background.

    Conflict where it is there already.
    """
    with ws.acting("Bring in a flight to look at") as session:
        if _known(session):
            raise Conflict("the flight to look at is there already", "there_already")
        keys = [key for key, _, _ in DRIVES.contenders if key in ITEM]
        gear = on_the_shelf(session, ws.now(), [ITEM[key] for key in (*keys, *HELD)])
        need = ferry_brief().model_copy(update={"currency": CURRENCY})
        brief = Brief(name="A need to look at", created_at=ws.now())
        put_need(session, brief, need)
        flight = lay_out(session, replace(DRIVES, recorded=()), gear, brief.id or 0, {}, ws.now())
        brought = {"flight": [flight], "gear": list(gear.values()), "brief": [brief.id or 0]}
        session.merge(Setting(key=KEY, value=json.dumps(brought)))
    make_order(ws, flight, OrderIn(anchors=False))
    names = {row: label or ITEM[row].name for row, label, _ in DRIVES.contenders}
    chains = {(names[row], test.name): chain_of(DRIVES, row, test.name) for row in names for test in DRIVES.tests}
    play(ws, flight, chains)
    return Example(flight_id=flight)


def take_out(ws: Workspace) -> None:
    """Take out all that was brought in; an undo brings it back."""
    with ws.acting("Take out the flight to look at") as session:
        known = _known(session)
        for model, key in ((Flight, "flight"), (Brief, "brief"), (Gear, "gear")):
            for ident in known.get(key, []):
                row = session.get(model, ident)
                if row is not None:
                    remove(session, row)
