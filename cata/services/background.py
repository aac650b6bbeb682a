"""All background work there is, the most urgent first."""

from __future__ import annotations

from cata.services.capture.cutting import CUT_OUT, FIND
from cata.services.capture.rehearsing import REHEARSE
from cata.services.choice.ahead import look_ahead
from cata.services.evidence.measuring import BENCH, PICKUPS, PLUCKED, PROBES
from cata.services.listen.hearing import HEARING
from cata.services.match.audits import FLIGHT_AUDIT, TEST_AUDIT
from cata.services.match.driving import DRIVE
from cata.services.match.moving import MOTION
from cata.services.plan.ordering import IMPROVE
from cata.services.takes.analysis import ANALYSIS
from cata.services.upkeep.sweeping import tidy
from cata.services.workspace import Workspace
from cata.tasks.runner import Runner
from cata.tasks.workers import READY

DUTIES = (
    IMPROVE, FIND, CUT_OUT, REHEARSE, ANALYSIS, TEST_AUDIT, FLIGHT_AUDIT, MOTION, DRIVE, PROBES, PICKUPS, BENCH,
    PLUCKED, HEARING,
)  # fmt: skip


def runner_for(ws: Workspace) -> Runner:
    """What does the background work of an open data directory."""
    return Runner(ws, DUTIES, at_start=lambda: _begin(ws), at_rest=lambda: look_ahead(ws))


def _begin(ws: Workspace) -> None:
    # The workers' libraries take a second to load: meanwhile the server answers already.
    ws.answering.submit(READY, None, ws.desk())
    tidy(ws)
