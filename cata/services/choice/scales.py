"""The ranges of a brief in words, with what was played on them."""

from __future__ import annotations

from collections.abc import Sequence
from statistics import median

from sqlmodel import Session, col, select

from cata.core.brief import Need, Target
from cata.core.choose.ranking import shelf_of
from cata.core.choose.words import range_in_words
from cata.services.choice.choosing import candidates, flown
from cata.services.choice.costs import costs_of
from cata.services.choice.views import PlayedView, SoundScale, TargetScale
from cata.services.flights.rows import tests_of
from cata.services.flights.showing import contender_views
from cata.services.workspace import Workspace, require
from cata.store.tables import Analysed, Brief, Flight, Take


def get_scales(ws: Workspace, brief_id: int) -> list[SoundScale]:
    """Every sound of a brief: what each range asks for, and where the contenders of its newest flight stand."""
    with ws.reading() as session:
        need = Need.model_validate(require(session, Brief, brief_id).need)
        flight = _played(session, brief_id)
        if flight is None:
            return [SoundScale(key=sound.key, targets=[_scale(one) for one in sound.targets]) for sound in need.sounds]
        contenders = contender_views(session, flight.id or 0)
        tests = list(tests_of(session, flight.id or 0))
        costs = costs_of(session, flight.link, (one.gear_id or 0 for one in contenders), need, ws.now())
        standing = candidates(session, flight, tests, contenders, need, costs)
        shelf = shelf_of(standing, flown(session, flight, tests, need, costs))
    found = []
    for sound in need.sounds:
        names, _ = shelf.tests_for(sound)
        scales = []
        for target in sound.targets:
            played = []
            for one in contenders:
                known = [k.value for name in names if (k := shelf.known(one.id, name, target)) is not None]
                if known:
                    value = round(median(known), 3)
                    played.append(PlayedView(name=one.name, letter=one.letter, colour=one.colour, value=value))
            scales.append(_scale(target, played))
        found.append(SoundScale(key=sound.key, flight=flight.name, tests=list(names), targets=scales))
    return found


def _scale(target: Target, played: Sequence[PlayedView] = ()) -> TargetScale:
    return TargetScale(words=range_in_words(target).words, played=list(played))


def _played(session: Session, brief_id: int) -> Flight | None:
    """The newest flight with readings that stands for the brief, else the newest of all."""
    statement = (
        select(Flight)
        .join(Take, col(Take.flight_id) == Flight.id)
        .join(Analysed, col(Analysed.take_id) == Take.id)
        .where(col(Take.test_id).is_not(None))
        .order_by((col(Flight.brief_id) == brief_id).desc(), col(Flight.id).desc())
    )
    return session.exec(statement.limit(1)).first()
