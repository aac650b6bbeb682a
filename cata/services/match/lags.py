"""How takes are lined up: as measured, or where a person has put them by hand."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from sqlmodel import Session, col, select

from cata.errors import Conflict, Invalid
from cata.services.workspace import Workspace, require
from cata.store.tables import Alignment, Take


@dataclass(frozen=True)
class LinedUp:
    """``lag_s``: how much later the take begins than its reference, None where that is open; ``by_hand`` or measured.

    ``reference``: it is the take that the others are lined up with.
    """

    lag_s: float | None
    by_hand: bool = False
    reference: bool = False


def lags_of(session: Session, take_ids: Sequence[int]) -> dict[int, LinedUp]:
    """How takes are lined up, by their numbers; those that have not been compared are left out.

    What was set by hand counts as long as the take is held against the one it was set against.
    """
    if not take_ids:
        return {}
    wanted: Any = (Alignment.take_id, Alignment.reference_id, Alignment.lag_s, Take.hand_s, Take.hand_to)
    statement = select(*wanted).join(Take, col(Take.id) == Alignment.take_id)
    rows = session.exec(statement.where(col(Alignment.take_id).in_(take_ids))).all()
    references = {reference for _, reference, _, hand_s, _ in rows if hand_s is not None}
    whose: Any = (Take.id, Take.digest)
    known = session.exec(select(*whose).where(col(Take.id).in_(references))).all() if references else ()
    digests: dict[int, str] = dict(known)
    found = {}
    for take_id, reference, lag_s, hand_s, hand_to in rows:
        by_hand = hand_s is not None and hand_to == digests.get(reference)
        found[take_id] = LinedUp(hand_s if by_hand else lag_s, by_hand, take_id == reference)
    return found


def line_up_by_hand(ws: Workspace, take_id: int, lag_s: float | None) -> None:
    """Say how much later a take begins than its reference; None takes that back: as measured.

    Conflict where it has not been compared yet or is the reference itself; Invalid where the two would not meet.
    """
    with ws.acting("Line up as measured" if lag_s is None else "Line up by hand") as session:
        take = require(session, Take, take_id)
        if lag_s is None:
            take.hand_s, take.hand_to = None, ""
            session.add(take)
            return
        alignment = session.get(Alignment, take_id)
        reference = alignment and session.get(Take, alignment.reference_id)
        if not reference:
            raise Conflict("this take is still being compared; it can be lined up in a moment", "being_compared")
        if reference.id == take_id:
            raise Conflict("the others are lined up with this take: move them instead", "is_reference")
        if not -reference.duration_s < lag_s < take.duration_s:
            raise Invalid("there the two takes would not meet at all", "too_far")
        take.hand_s, take.hand_to = lag_s, reference.digest
        session.add(take)
