"""Undo and redo of a person's actions."""

from __future__ import annotations

import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Literal

from sqlalchemy.exc import IntegrityError

from cata.core.words import plural
from cata.errors import Conflict
from cata.services.upkeep.views import UndoView
from cata.services.workspace import Workspace
from cata.store import journal
from cata.store import undo as turning
from cata.store.actor import ACTOR
from cata.store.rowwise import InTheWay
from cata.store.tables import Change
from cata.store.undo import Stopped

How = Literal["all", "rest", "skip"]
"""All of it or nothing; what can be; or leave it and go on to what was done before."""
BREATH_S = 0.004
"""Between two steps, in which others get the lock."""
TOLD_EACH_S = 0.25
PATIENCE_S = 5.0
"""So long a second undo waits for the first."""
WHY = {"gone": "no longer there", "there": "there again", "used": "in use elsewhere by now"}


def state(ws: Workspace) -> UndoView:
    """What can be undone and redone now."""
    with ws.reading() as session:
        undo, redo = journal.labels(session)
        return UndoView(undo=undo, redo=redo)


def undo(ws: Workspace, how: How = "all") -> UndoView:
    """Take the last action back. Conflict where something stands in its way, or an undo is under way here."""
    return _turn(ws, how, back=True)


def redo(ws: Workspace, how: How = "all") -> UndoView:
    """Bring the last undone action back. Conflict as of :func:`undo`."""
    return _turn(ws, how, back=False)


def stop(ws: Workspace) -> None:
    """Stop the undo or redo that is under way in this browser after its next step."""
    if (under_way := ws.turning.get(ACTOR.get())) is not None:
        under_way.set()


def _turn(ws: Workspace, how: How, *, back: bool) -> UndoView:
    rest = how == "rest"
    with _alone(ws) as stopped, _told(back=back):
        with ws.writing() as session:
            change = journal.next_undo(session) if back else journal.next_redo(session)
            if change is None:
                undo, redo = journal.labels(session)
                return UndoView(undo=undo, redo=redo)
            steps = [] if how == "skip" else turning.steps_of(session, change, back=back)
            if how == "skip":
                change.dropped = True
                session.add(change)
            elif len(steps) <= 1:
                # Found and turned under one lock: nobody's next action comes between.
                for step in steps:
                    turning.take(session, step, back=back, rest=rest)
                _note(change, back=back, partly=False)
        if len(steps) > 1:
            _in_steps(ws, change, steps, stopped, back=back, rest=rest)
    ws.changed(f"{'Undo' if back else 'Redo'}: {change.label}")
    return state(ws)


@contextmanager
def _alone(ws: Workspace) -> Iterator[threading.Event]:
    """One undo at a time in a browser; an event that is set when it is to stop."""
    who, stopped = ACTOR.get(), threading.Event()
    patience = time.monotonic() + PATIENCE_S
    while ws.turning.setdefault(who, stopped) is not stopped:
        if time.monotonic() > patience:
            raise Conflict("Another undo is still under way.", "under_way")
        time.sleep(BREATH_S)
    try:
        yield stopped
    finally:
        del ws.turning[who]


@contextmanager
def _told(*, back: bool) -> Iterator[None]:
    """What stands in the way, as a person is told of it."""
    try:
        yield
    except Stopped as error:
        raise _refused(error.found, error.total, back=back) from error
    except IntegrityError as error:
        raise _refused([], 0, back=back) from error


def _in_steps(
    ws: Workspace, change: Change, steps: list[turning.Step], stopped: threading.Event, *, back: bool, rest: bool
) -> None:
    """Turn a long change; others write between two steps."""
    total, done, told = sum(len(step.idents) for step in steps), 0, time.monotonic()
    if not rest:
        # Looked at before anything is moved.
        with ws.reading() as session:
            found = [one for step in steps for one in turning.in_the_way(session, step, back=back)]
        if found:
            raise Stopped(found, total)
    for step in steps:
        if stopped.is_set() or ws.stopping.is_set():
            break
        with ws.writing() as session:
            row = session.get(Change, change.id)
            if row is None:
                raise Conflict(f"{change.label} lies too far back by now.", "too_old")
            turning.take(session, step, back=back, rest=rest)
            _note(row, back=back, partly=step is not steps[-1])
        done += len(step.idents)
        time.sleep(BREATH_S)
        if time.monotonic() > told + TOLD_EACH_S:
            told = time.monotonic()
            ws.bus.publish({"kind": "turning", "label": change.label, "done": done, "total": total})


def _note(change: Change, *, back: bool, partly: bool) -> None:
    """How far a change is turned now."""
    change.partly = partly
    if not partly:
        change.undone = back
    elif not back:
        change.undone = False


def _refused(found: list[InTheWay], total: int, *, back: bool) -> Conflict:
    """What stands in the way, by name, so that a person can decide; ``rest`` is how much could be done without it."""
    what = "Not undone" if back else "Not done again"
    if not found:
        return Conflict(f"{what}: others have changed what belongs to it since.", "changed_since", blocked=0, rest=0)
    first = found[0]
    name = first.name or first.table.lower()
    words = f"{name} was changed since" if first.why == "changed" else f"{name} is {WHY[first.why]}"
    more = f", and {plural(len(found) - 1, 'thing')} more stand in the way" if len(found) > 1 else ""
    return Conflict(f"{what}: {words}{more}.", "changed_since", blocked=len(found), rest=total - len(found))
