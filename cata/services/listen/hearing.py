"""Perceived loudness of takes: due when all else of them is done, kept, and held equal by gains."""

from __future__ import annotations

from collections.abc import Sequence

from sqlmodel import Session, col, select

from cata.core.hearing.by_ear import VERSION, Curves
from cata.services.takes.rows import readings_of
from cata.services.workspace import Workspace
from cata.store.tables import Analysed, Heard, Reading, Take
from cata.tasks.hearing import HEAR, ToHear
from cata.tasks.shape import Due, Duty

DUTY = "hearing"


def _due(session: Session) -> list[Due]:
    statement = (
        select(Take.id, Take.flight_id, Take.digest)
        .join(Analysed, col(Analysed.take_id) == Take.id)
        .join(Reading, (col(Reading.take_id) == Take.id) & (col(Reading.key) == "loudness_lufs"))
        .join(Heard, (col(Heard.take_id) == Take.id) & (col(Heard.version) == VERSION), isouter=True)
        .where(Analysed.refusal == "", col(Take.test_id).is_not(None), col(Heard.take_id).is_(None))
        .order_by(col(Take.id))
    )
    rows = session.exec(statement).all()
    loud = readings_of(session, [ident or 0 for ident, *_ in rows], ("loudness_lufs",))
    return [
        Due(DUTY, ident or 0, flight, f"{VERSION}/{digest}")
        for ident, flight, digest in rows
        if loud[ident or 0].number("loudness_lufs") is not None
    ]


def _payload(ws: Workspace, session: Session, due: Due) -> ToHear:
    take = session.get_one(Take, due.ident)
    loudness = readings_of(session, [due.ident], ("loudness_lufs",))[due.ident].number("loudness_lufs")
    gain_db = session.get_one(Analysed, due.ident).copy_gain_db
    # A copy that was scaled down to fit is that much softer than the take.
    return ToHear(ws.inside(ws.vault.copy_path(take.digest)), (loudness or 0.0) - gain_db)


def _keep(ws: Workspace, due: Due, sone: list[list[float]]) -> None:
    with ws.writing() as session:
        take = session.get(Take, due.ident)
        if take is not None and due.state == f"{VERSION}/{take.digest}":
            session.merge(Heard(take_id=due.ident, version=VERSION, sone=sone))


def curves_of(session: Session, takes: Sequence[int]) -> dict[int, Curves]:
    """What is known of the perceived loudness of some takes."""
    statement = select(Heard).where(col(Heard.take_id).in_(takes), Heard.version == VERSION)
    return {row.take_id: Curves(tuple(row.sone)) for row in session.exec(statement).all()}


HEARING = Duty(DUTY, HEAR, _due, _payload, _keep, lasting=True)
