"""Takes and their readings, as other rooms want them."""

from __future__ import annotations

from collections.abc import Iterable

from sqlmodel import Session, col, select

from cata.core.measure.of_flights import MOTION
from cata.core.measure.results import Results, kept_result
from cata.core.motion.told import withheld
from cata.services.flights.views import FailureView
from cata.store.tables import Analysed, Contender, Failure, Reading, Take


def placed_takes(session: Session, test_id: int, *, repeats: bool = False) -> list[tuple[Take, Contender]]:
    """The usable takes of a test with their contenders, in the contenders' order.

    The take that counts for each cell; with ``repeats`` also those that played a cell again.
    """
    statement = (
        select(Take, Contender)
        .join(Contender, col(Contender.id) == Take.contender_id)
        .join(Analysed, col(Analysed.take_id) == Take.id)
        .where(Take.test_id == test_id, Analysed.refusal == "")
        .order_by(col(Contender.position), col(Contender.id), col(Take.repeat))
    )
    if not repeats:
        statement = statement.where(Take.repeat == 0)
    return [(take, contender) for take, contender in session.exec(statement).all()]


def readings_of(
    session: Session, takes: Iterable[int], keys: Iterable[str] = (), *, as_read: bool = False
) -> dict[int, Results]:
    """The readings of some takes by key; of these keys only, or of all. One question for all of them.

    What a take's motion spoils is refused there: it was read before anybody knew of the motion. ``as_read``: not so.
    """
    found = {take: Results() for take in takes}
    statement = select(Reading.take_id, Reading.key, Reading.result).where(col(Reading.take_id).in_(found))
    if wanted := set(keys):
        statement = statement.where(col(Reading.key).in_({*wanted, MOTION.key}))
    for take, key, result in session.exec(statement).all():
        found[take][key] = kept_result(result)
    if as_read:
        return found
    told = {take: withheld(results) for take, results in found.items()}
    if wanted and MOTION.key not in wanted:
        for results in told.values():
            results.pop(MOTION.key, None)
    return told


def failures_of(session: Session, flight_id: int) -> list[FailureView]:
    """Background work on a flight that came to no result."""
    rows = session.exec(select(Failure).where(Failure.flight_id == flight_id).order_by(col(Failure.id))).all()
    return [FailureView(duty=row.duty, ident=row.ident, code=row.code, text=row.text) for row in rows]
