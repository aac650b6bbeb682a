"""Findings that a person looked at: kept for a take, or known as what a contender does."""

from __future__ import annotations

from typing import Any

from sqlmodel import Session, col, select

from cata.core.match.finding import OF_GEAR, RULE_NAMES
from cata.core.measure.of_flights import MOTION
from cata.core.measure.results import Results, kept_result
from cata.core.motion.told import explains
from cata.errors import Invalid
from cata.services.workspace import Workspace, require
from cata.store.tables import Accepted, Contender, Habit, Reading, Take


class Kept:
    """What needs no look in some flights.

    A take's own findings that a person keeps, those that a contender is known for, and what its motion explains.
    """

    def __init__(self, session: Session, *flights: int) -> None:
        inside = col(Take.flight_id).in_(flights)
        takes: Any = (Accepted.take_id, Accepted.rule, Accepted.reason)
        kept = select(*takes).join(Take, col(Take.id) == Accepted.take_id).where(inside)
        self._takes = {(take_id, rule): reason for take_id, rule, reason in session.exec(kept).all()}
        known: Any = (Habit.contender_id, Habit.rule, Habit.reason)
        habits = (
            select(*known)
            .join(Contender, col(Contender.id) == Habit.contender_id)
            .where(col(Contender.flight_id).in_(flights))
        )
        self._habits = {(row, rule): reason for row, rule, reason in session.exec(habits).all()}
        motions: Any = (Reading.take_id, Reading.result)
        read = select(*motions).join(Take, col(Take.id) == Reading.take_id).where(inside, Reading.key == MOTION.key)
        self._moving = {take_id: Results({MOTION.key: kept_result(one)}) for take_id, one in session.exec(read).all()}

    def known(self, contender_id: int | None, rule: str) -> bool:
        """Whether a contender is known for what a rule finds."""
        return (contender_id, rule) in self._habits

    def keeps(self, take_id: int, contender_id: int | None, rule: str) -> bool:
        """Whether a finding needs no look."""
        return (take_id, rule) in self._takes or self.known(contender_id, rule) or bool(self._explained(take_id, rule))

    def reason(self, take_id: int | None, contender_id: int | None, rule: str) -> str:
        """Why it is kept: as a person said, or by what the contender does; empty where nobody said."""
        said = self._takes.get((take_id, rule)) or self._habits.get((contender_id, rule))
        return said or self._explained(take_id, rule)

    def _explained(self, take_id: int | None, rule: str) -> str:
        moving = self._moving.get(take_id)
        return explains(moving, rule) if moving is not None else ""


def accept_finding(
    ws: Workspace, take_id: int, rule: str, accepted: bool, *, always: bool = False, reason: str = ""
) -> None:
    """Say that a finding was looked at and the take is kept, and why, or take that back.

    ``always``: it is what the contender does, in its other takes too, those to come included; Invalid for a rule that
    finds what no gear does.
    """
    name = RULE_NAMES.get(rule, rule)
    words = f"{name}: this gear does that" if always else "Accept a finding" if accepted else "Open a finding again"
    with ws.acting(words) as session:
        take = require(session, Take, take_id)
        row = session.exec(select(Accepted).where(Accepted.take_id == take_id, Accepted.rule == rule)).first()
        habit = session.exec(select(Habit).where(Habit.contender_id == take.contender_id, Habit.rule == rule)).first()
        if accepted and always:
            if take.contender_id is None or rule not in OF_GEAR:
                raise Invalid("no gear does that: keep this take alone, or record it again", "not_of_gear")
            habit = habit or Habit(contender_id=take.contender_id, rule=rule)
            habit.reason = reason.strip()
            session.add(habit)
        elif accepted:
            row = row or Accepted(take_id=take_id, rule=rule)
            row.reason = reason.strip()
            session.add(row)
        elif not accepted:
            for one in (row, habit):
                if one is not None:
                    session.delete(one)
