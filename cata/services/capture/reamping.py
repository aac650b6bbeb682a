"""The file to play through a contender for re-amping."""

from __future__ import annotations

import secrets
from pathlib import Path

from cata.errors import Conflict, Invalid
from cata.services.capture.steps import open_steps
from cata.services.flights.rows import tests_of
from cata.services.plan.setups import condition_of
from cata.services.workspace import Workspace, require
from cata.store.tables import Contender, Flight
from cata.tasks.bench import REAMP, ToReamp

MAX_REAMP_S = 45 * 60.0
SLATES_S = 4.0


def reamp_file(ws: Workspace, flight_id: int, contender_id: int) -> Path:
    """The file to play through one contender: for each of its open takes the slate, the dry take, the closing slate.

    Conflict where nothing is open or a test's phrase has no dry take.
    """
    with ws.reading() as session:
        require(session, Flight, flight_id)
        contender = require(session, Contender, contender_id)
        if contender.flight_id != flight_id:
            raise Invalid("the contender belongs to another flight", "other_flight")
        steps = [step for step in open_steps(session, flight_id) if step.contender_id == contender_id]
        tests = {test.id: condition_of(test) for test in tests_of(session, flight_id)}
    if not steps:
        raise Conflict(f"no open take of {contender.name} is in the order", "nothing_open")
    parts = tuple((step.number, tests[step.test_id].phrase) for step in steps)
    if sum(tests[step.test_id].seconds + SLATES_S for step in steps) > MAX_REAMP_S:
        raise Conflict("the file would last over 45 minutes; record the takes in two parts", "too_long")
    return ws.data_dir / ws.ask(REAMP, ToReamp(parts, f"vault/incoming/reamp-{flight_id}-{secrets.token_hex(8)}.wav"))
