"""The takes of a flight as others hear them: the stretch that all of a test have in common, at one level."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from sqlmodel import Session

from cata.core.clip import Clip
from cata.core.match.gains import School
from cata.core.taste.glass import Stretch, common, wine
from cata.errors import Conflict
from cata.media.decode import decode
from cata.services.flights.rows import tests_of
from cata.services.flights.showing import contender_views
from cata.services.flights.views import ContenderView
from cata.services.listen.tray import get_tray, listening_copy
from cata.services.workspace import Workspace, require
from cata.store.tables import Flight

Named = tuple[int, str, str]
"""A test by its number, with its name and what is said of it."""
LEAST_S = 0.5


ONE_AT_A_TIME = threading.Lock()
"""Held while takes are written for others: eight who ask at once wait for each other instead of for memory."""


@dataclass(frozen=True)
class ShownTake:
    """A take as others hear it; its sound is read when it is wanted, one take at a time."""

    view: ContenderView
    copy: Path
    lag_s: float
    gain_db: float
    stretch: Stretch

    def clip(self) -> Clip:
        """Its sound: cut to the stretch of its test, at its level, in as many channels as it has."""
        clip = decode(self.copy).clip
        sound = np.clip(wine(clip.samples, clip.rate_hz, self.lag_s, self.gain_db, self.stretch), -1.0, 1.0)
        return Clip.of(sound[: min(2, clip.channels)], clip.rate_hz)


@dataclass(frozen=True)
class ShownTest:
    """A test of which something can be heard: its takes in the order of the flight, all of one length."""

    name: str
    about: str
    school_text: str
    takes: tuple[ShownTake, ...]


@dataclass(frozen=True)
class ShownFlight:
    """A flight with what can be heard of it."""

    name: str
    question: str
    tests: tuple[ShownTest, ...]


def shown(ws: Workspace, flight_id: int, school: School | None = None) -> ShownFlight:
    """A flight's takes as others hear them. Conflict where there is nothing to hear yet."""
    with ws.reading() as session:
        flight = require(session, Flight, flight_id)
        name, question = flight.name, flight.question
        tests, views = _of(session, flight_id)
    found = tuple(one for test in tests for one in _test(ws, flight_id, test, views, school))
    if not found:
        raise Conflict("nothing of this flight can be heard yet", "nothing_to_hear")
    return ShownFlight(name, question, found)


def _of(session: Session, flight_id: int) -> tuple[list[Named], dict[int, ContenderView]]:
    tests = [(test.id or 0, test.name, test.about) for test in tests_of(session, flight_id)]
    return tests, {one.id: one for one in contender_views(session, flight_id)}


def _test(
    ws: Workspace, flight_id: int, test: Named, views: dict[int, ContenderView], school: School | None
) -> Iterator[ShownTest]:
    test_id, name, about = test
    tray = get_tray(ws, flight_id, test_id, school)
    if not tray.takes:
        return
    stretch = common([(take.lag_s, take.duration_s) for take in tray.takes])
    if stretch.length_s < LEAST_S:
        return
    takes = []
    for take in tray.takes:
        view, copy = views[take.contender_id or 0], listening_copy(ws, take.take_id or 0)
        takes.append(ShownTake(view, copy, take.lag_s, take.gain_db, stretch))
    yield ShownTest(name, about, tray.school_text, tuple(takes))
