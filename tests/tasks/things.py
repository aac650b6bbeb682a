"""Small tasks for the tests of workers: they must be importable where workers run."""

from __future__ import annotations

import os
import signal
import time
from pathlib import Path

from cata.errors import BadAudio
from cata.tasks.desk import Desk
from cata.tasks.shape import Task


def double(number: float, _desk: Desk) -> float:
    return 2 * number


def sleep(seconds: float, _desk: Desk) -> float:
    time.sleep(seconds)
    return seconds


def die(_how: int, _desk: Desk) -> None:
    os.kill(os.getpid(), signal.SIGKILL)


def die_once(mark: str, _desk: Desk) -> str:
    path = Path(mark)
    if not path.exists():
        path.write_text("was here")
        os.kill(os.getpid(), signal.SIGKILL)
    return "done"


def decline(_what: str, _desk: Desk) -> None:
    raise BadAudio("empty", "the file is empty (0 bytes)", bytes=0)


DOUBLE, SLEEP, DIE, DIE_ONCE, DECLINE = (
    Task("double", double), Task("sleep", sleep), Task("die", die), Task("die once", die_once), Task("decline", decline)
)  # fmt: skip
HANG = Task("hang", sleep, limit_s=0.3)
