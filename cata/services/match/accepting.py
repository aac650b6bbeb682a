"""Findings that a person looked at: kept for a take, or known as what a contender does."""

from __future__ import annotations

from typing import Any

from sqlmodel import Session, col, select

from cata.core.match.finding import OF_GEAR, RULE_NAMES
from cata.errors import Invalid
from cata.services.workspace import Workspace, require
from cata.store.tables import Accepted, Contender, Habit, Take


class Kept:
    """What persons keep in some flights: a take's own findings, and those that a contender is known for."""

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

    def known(self, contender_id: int | None, rule: str) -> bool:
        """Whether a contender is known for what a rule finds."""
        return (contender_id, rule) in self._habits

    def keeps(self, take_id: int, contender_id: int | None, rule: str) -> bool:
        """Whether a finding needs no look."""
        return (take_id, rule) in self._takes or self.known(contender_id, rule)

    def reason(self, take_id: int | None, contender_id: int | None, rule: str) -> str:
        """Why a person keeps it; empty where nobody said."""
        return self._takes.get((take_id, rule)) or self._habits.get((contender_id, rule)) or ""


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
