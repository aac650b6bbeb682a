"""The way through a flight: each step with its state, and the next useful thing to do."""

from __future__ import annotations

from dataclasses import dataclass

from cata.core.words import plural
from cata.said import Said
from cata.services.flights.views import StepState, StepView


@dataclass(frozen=True)
class Standing:
    """The counts from which the steps follow."""

    contenders: int
    tests: int
    filled: int
    loose: int
    waiting: int
    faults: int
    checks: int
    auditing: bool

    @property
    def cells(self) -> int:
        """Cells of the table."""
        return self.contenders * self.tests


def steps_of(standing: Standing) -> list[StepView]:
    """The way through a flight: each step with its state and what is open there."""
    s = standing
    planned = s.contenders >= 2 and s.tests >= 1
    complete = planned and s.filled == s.cells
    analysed = s.filled > 0 and s.waiting == 0 and not s.auditing
    plan: tuple[StepState, str] = (
        ("done", f"{s.contenders} x {s.tests}") if planned else ("open", "name what is compared")
    )
    if not planned and not s.filled:
        takes: tuple[StepState, str] = ("todo", "drop recordings")
    elif complete and not s.loose:
        takes = ("done", plural(s.filled, "take"))
    else:
        missing = s.cells - s.filled
        takes = ("open", f"{missing} missing" if missing else f"{s.loose} not placed")
    if not s.filled:
        match: tuple[StepState, str] = ("todo", "nothing to check yet")
    elif s.faults or s.checks:
        match = ("open", f"{s.faults} to redo" if s.faults else f"{s.checks} to look at")
    else:
        match = ("done", "matched") if analysed else ("todo", "checking")
    later: StepState = "done" if analysed else "todo"
    return [
        StepView(key="plan", label="Plan", state=plan[0], text=plan[1]),
        StepView(key="takes", label="Takes", state=takes[0], text=takes[1]),
        StepView(key="match", label="Match", state=match[0], text=match[1]),
        StepView(key="listen", label="Listen", state=later, text="in sync" if analysed else "when takes are ready"),
        StepView(key="readings", label="Readings", state=later, text="ready" if analysed else "when takes are ready"),
        StepView(key="verdict", label="Verdict", state=later, text="ready" if analysed else "when takes are ready"),
    ]


def next_thing(standing: Standing) -> tuple[Said, str]:
    """The next useful thing to do, and the step where it is done."""
    s = standing
    if s.contenders == 0 and s.filled == 0 and s.loose == 0:
        return Said("begin", "Drop your recordings, or name the contenders"), "takes"
    if s.loose:
        return _counted("place", s.loose, "recording", "to place"), "takes"
    if s.contenders < 2:
        return Said("second_contender", "Add a second contender"), "plan"
    if s.tests < 1:
        return Said("first_test", "Add a test"), "plan"
    if s.filled < s.cells:
        return _counted("record", s.cells - s.filled, "take", "to record"), "takes"
    if s.waiting or s.auditing:
        return Said("being_read", "Takes are being read"), "match"
    if s.faults:
        return _counted("redo", s.faults, "take", "to redo"), "match"
    if s.checks:
        return _counted("look_at", s.checks, "finding", "to look at"), "match"
    return Said("listen", "Listen, then look at the readings"), "listen"


def _counted(code: str, count: int, noun: str, todo: str) -> Said:
    return Said(code, f"{plural(count, noun)} {todo}", {"count": count})
