"""The one shape of background work.

A :class:`Task` is what a worker does: a name, a function from a typed payload to a typed result, and how long it may
take. It runs in a process of its own, here or on another machine, so payload and result are plain values, and files are
named relative to the data directory.

A :class:`Duty` is work that is due by itself: it says from the data what is due, makes the payload, and keeps the
result or the refusal. There is no queue to lose: after a crash what is due is found again.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any, Generic, TypeVar

from sqlmodel import Session

from cata.errors import CataError
from cata.tasks.desk import Desk

P = TypeVar("P")
R = TypeVar("R")

HOUR_S = 3600.0


@dataclass(frozen=True)
class Task(Generic[P, R]):
    """What a worker does. Raises a CataError from ``run`` where the input itself is declined.

    ``limit_s`` is far beyond what the largest permitted input takes: what reaches it hangs.
    """

    name: str
    run: Callable[[P, Desk], R]
    limit_s: float = HOUR_S


@dataclass(frozen=True)
class Due:
    """One piece of work: of which duty, on which row, for which flight (0 for none), and from what state of the data.

    Another state is another piece of work; a result of an older one is not kept.
    """

    duty: str
    ident: int
    flight_id: int = 0
    state: str = ""

    @property
    def name(self) -> str:
        """A name that no other row's work has."""
        return f"{self.duty}-{self.ident}"


@dataclass(frozen=True)
class Duty:
    """One kind of work that is due by itself; its functions run in the server.

    ``due`` lists what is due, the most urgent first; ``payload`` makes what the task gets; ``keep`` stores the result
    in a transaction of its own, unless the data went on meanwhile; ``refuse`` stores that the input was declined (None:
    it is kept as a failure, which can be tried again). ``lasting`` marks work so long that nobody waits for it on a
    command line.
    """

    name: str
    task: Task[Any, Any]
    due: Callable[[Session], Sequence[Due]]
    payload: Callable[[Any, Session, Due], Any]
    keep: Callable[[Any, Due, Any], None]
    refuse: Callable[[Any, Due, CataError], None] | None = None
    lasting: bool = False
