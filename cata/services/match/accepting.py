"""Findings that a person looked at: kept for a take, or known as what a contender does."""

from __future__ import annotations

from sqlmodel import Session, col, select

from cata.core.match.finding import OF_GEAR, RULE_NAMES
from cata.errors import Invalid
from cata.services.workspace import Workspace, require
from cata.store.tables import Accepted, Contender, Habit, Take


class Kept:
    """What persons keep in some flights: a take's own findings, and those that a contender is known for."""

    def __init__(self, session: Session, *flights: int) -> None:
        inside = col(Take.flight_id).in_(flights)
        takes = select(Accepted.take_id, Accepted.rule).join(Take, col(Take.id) == Accepted.take_id).where(inside)
        self._takes = set(session.exec(takes).all())
        habits = (
            select(Habit.contender_id, Habit.rule)
            .join(Contender, col(Contender.id) == Habit.contender_id)
            .where(col(Contender.flight_id).in_(flights))
        )
        self._habits = set(session.exec(habits).all())

    def known(self, contender_id: int | None, rule: str) -> bool:
        """Whether a contender is known for what a rule finds."""
        return (contender_id, rule) in self._habits

    def keeps(self, take_id: int, contender_id: int | None, rule: str) -> bool:
        """Whether a finding needs no look."""
        return (take_id, rule) in self._takes or self.known(contender_id, rule)


def accept_finding(ws: Workspace, take_id: int, rule: str, accepted: bool, *, always: bool = False) -> None:
    """Say that a finding was looked at and the take is kept, or take that back.

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
            if habit is None:
                session.add(Habit(contender_id=take.contender_id, rule=rule))
        elif accepted and row is None:
            session.add(Accepted(take_id=take_id, rule=rule))
        elif not accepted:
            for one in (row, habit):
                if one is not None:
                    session.delete(one)
