"""The rig within a budget: an answer that a page waits for. It needs a solver, which the web process does not load."""

from __future__ import annotations

from cata.core.rig.answer import Answer, Asked, answer
from cata.tasks.desk import Desk
from cata.tasks.shape import Task


def rig(asked: Asked, _desk: Desk) -> Answer:
    """All that is told of a problem."""
    return answer(asked)


RIG = Task("the rig within a budget", rig, limit_s=60)
