"""Tastings from setting up to taking away."""

from __future__ import annotations

import secrets
from collections.abc import Sequence

from sqlmodel import Session, col, select

from cata.core.taste.glass import common
from cata.core.taste.rounds import Given, Round, trial_of
from cata.errors import Conflict, Invalid, NotFound
from cata.services.flights.showing import contender_views
from cata.services.listen.tray import get_tray
from cata.services.listen.views import PouredView
from cata.services.tasting.views import TasterIn, TasterView, TastingIn, TastingView
from cata.services.workspace import Workspace, require
from cata.store.changes import remove
from cata.store.tables import Answer, Flight, Glass, Take, Taster, Tasting, Test

LEAST_S = 1.0
"""Shorter than this nothing can be listened to."""
MOST_TASTERS = 40


def list_tastings(ws: Workspace, flight_id: int | None = None) -> list[TastingView]:
    """All tastings, or those of a flight, the newest first."""
    with ws.reading() as session:
        statement = select(Tasting).order_by(col(Tasting.id).desc())
        if flight_id is not None:
            statement = statement.where(Tasting.flight_id == flight_id)
        return [view_of(session, one) for one in session.exec(statement).all()]


def get_tasting(ws: Workspace, tasting_id: int) -> TastingView:
    """One tasting."""
    with ws.reading() as session:
        return view_of(session, require(session, Tasting, tasting_id))


def add_tasting(ws: Workspace, data: TastingIn) -> TastingView:
    """Set up a tasting. Invalid where its rounds ask of what is not poured or takes cannot be heard side by side."""
    if len(set(data.contenders)) != len(data.contenders):
        raise Invalid("a contender is poured twice", "twice")
    if any(one >= len(data.contenders) for plan in data.rounds for one in plan.of):
        raise Invalid("a round asks of what is not poured", "not_poured")
    tray = get_tray(ws, data.flight_id, data.test_id, data.school)
    takes = _takes_of(tray.takes, data.contenders)
    stretch = common([(take.lag_s, take.duration_s) for take in takes])
    if stretch.length_s < LEAST_S:
        raise Invalid("the takes have less than a second in common", "too_short")
    with ws.acting("Set up a tasting") as session:
        flight, test = require(session, Flight, data.flight_id), require(session, Test, data.test_id)
        number = len(session.exec(select(Tasting.id).where(Tasting.flight_id == flight.id)).all()) + 1
        row = Tasting(
            flight_id=data.flight_id, test_id=data.test_id, test=test.name,
            name=data.name.strip() or f"Tasting {number}", rounds=[plan.model_dump() for plan in data.rounds],
            school=tray.school, seed=secrets.token_hex(16), created_at=ws.now(),
        )  # fmt: skip
        session.add(row)
        session.flush()
        set_glasses(session, row, [(take.take_id or 0, take.lag_s, take.gain_db) for take in takes])
        return view_of(session, row)


def set_glasses(session: Session, row: Tasting, takes: Sequence[tuple[int, float, float]]) -> None:
    """Keep what a tasting pours: each take with its lag in s and gain in dB, and who plays it at what price."""
    views = {view.id: view for view in contender_views(session, row.flight_id)}
    for place, (take_id, lag_s, gain_db) in enumerate(takes):
        take = require(session, Take, take_id)
        view = views[take.contender_id or 0]
        session.add(Glass(
            tasting_id=row.id or 0, place=place, contender_id=view.id, gear_id=view.gear_id, name=view.name,
            letter=view.letter, colour=view.colour, price_minor=view.price_minor, currency=view.currency,
            digest=take.digest, lag_s=lag_s, gain_db=gain_db, duration_s=take.duration_s,
        ))  # fmt: skip
    session.flush()


def _takes_of(poured: Sequence[PouredView], contenders: Sequence[int]) -> list[PouredView]:
    by_contender = {take.contender_id: take for take in poured}
    if lacking := [ident for ident in contenders if ident not in by_contender]:
        raise Invalid(f"{len(lacking)} of them have no take of this test that can be heard", "no_take")
    return [by_contender[ident] for ident in contenders]


def remove_tasting(ws: Workspace, tasting_id: int) -> None:
    """Take a tasting away, with all its answers."""
    with ws.acting("Remove a tasting") as session:
        remove(session, require(session, Tasting, tasting_id))


def add_taster(ws: Workspace, tasting_id: int, data: TasterIn) -> TasterView:
    """Somebody sits down. Conflict after the reveal, or where the name is taken."""
    with ws.writing() as session:
        row = open_tasting(session, tasting_id)
        there = tasters_of(session, tasting_id)
        name = data.name.strip() or f"Taster {len(there) + 1}"
        if any(one.name.casefold() == name.casefold() for one in there):
            raise Conflict(f"{name} is there already: take that place, or another name", "name_taken")
        if len(there) >= MOST_TASTERS:
            raise Conflict(f"no more than {MOST_TASTERS} can taste together", "too_many")
        number = max((one.number for one in there), default=-1) + 1
        taster = Taster(tasting_id=row.id or 0, number=number, name=name, created_at=ws.now())
        session.add(taster)
        session.flush()
        view = _taster_view(row, taster, [])
    ws.changed("A taster sits down")
    return view


def open_tasting(session: Session, tasting_id: int) -> Tasting:
    """A tasting that was not revealed yet. Conflict where it was: nobody can taste blind what is known."""
    row = require(session, Tasting, tasting_id)
    if row.revealed_at:
        raise Conflict("this tasting was revealed: set up another to taste again", "revealed")
    return row


def tasters_of(session: Session, tasting_id: int) -> list[Taster]:
    """Who listens, in the order in which they came."""
    return list(session.exec(select(Taster).where(Taster.tasting_id == tasting_id).order_by(col(Taster.number))).all())


def taster_of(session: Session, tasting_id: int, taster_id: int) -> Taster:
    """One of them; NotFound where it is nobody of this tasting."""
    taster = require(session, Taster, taster_id)
    if taster.tasting_id != tasting_id:
        raise NotFound("taster in this tasting", taster_id)
    return taster


def answers_of(session: Session, tasters: Sequence[Taster]) -> dict[int, list[Answer]]:
    """What each answered, in order."""
    found: dict[int, list[Answer]] = {taster.id or 0: [] for taster in tasters}
    order = (col(Answer.round), col(Answer.trial))
    for row in session.exec(select(Answer).where(col(Answer.taster_id).in_(found)).order_by(*order)).all():
        found[row.taster_id].append(row)
    return found


def given(answers: Sequence[Answer]) -> list[Given]:
    """Answers as the core has them."""
    return [Given(one.round, one.trial, one.what) for one in answers]


def rounds_of(row: Tasting) -> list[Round]:
    """What is asked."""
    return [Round.model_validate(one) for one in row.rounds]


def view_of(session: Session, row: Tasting) -> TastingView:
    """A tasting as it may be seen."""
    tasters = tasters_of(session, row.id or 0)
    answers = answers_of(session, tasters)
    return TastingView(
        id=row.id or 0, name=row.name, flight_id=row.flight_id, test=row.test,
        kinds=[plan.kind for plan in rounds_of(row)], glasses=len(glasses_of(session, row)),
        created_at=row.created_at, revealed_at=row.revealed_at, looked=len(row.looked),
        tasters=[_taster_view(row, one, answers[one.id or 0]) for one in tasters],
    )  # fmt: skip


def _taster_view(row: Tasting, taster: Taster, answers: Sequence[Answer]) -> TasterView:
    rounds = rounds_of(row)
    done = trial_of(rounds, row.seed, taster.number, given(answers)) is None
    return TasterView(
        id=taster.id or 0, name=taster.name, answered=len(answers), of=sum(plan.trials for plan in rounds), done=done
    )


def glasses_of(session: Session, row: Tasting) -> list[Glass]:
    """What is poured, in the order in which answers count it."""
    return list(session.exec(select(Glass).where(Glass.tasting_id == row.id).order_by(col(Glass.place))).all())
