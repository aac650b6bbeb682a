"""What blind tastings say elsewhere: evidence of a grade of its own, beside what was measured."""

from __future__ import annotations

from collections.abc import Iterable

from pydantic import BaseModel
from sqlalchemy import ColumnElement
from sqlmodel import Session, col, select

from cata.core.taste import prefer
from cata.core.taste.prefer import SURE
from cata.core.taste.rounds import choices
from cata.said import Said
from cata.services.tasting.revealing import NOBODY, Heard, heard_of, round_of
from cata.store.tables import Glass, Tasting


class Tasted(BaseModel):
    """What a round of a revealed tasting came to."""

    tasting_id: int
    tasting: str
    tasters: int
    said: Said
    more: list[Said] = []


def tasted_of(session: Session, flight_id: int) -> list[Tasted]:
    """What the revealed tastings of a flight came to, the newest first; rounds that nobody answered are left out."""
    return [
        Tasted(tasting_id=heard.row.id or 0, tasting=heard.row.name, tasters=len(heard.of_round(at)), said=was.said,
               more=was.more)
        for heard in _revealed(session, col(Tasting.flight_id) == flight_id)
        for at in range(len(heard.rounds))
        if (was := round_of(heard, at)).said != NOBODY and was.kind != "notes"
    ]  # fmt: skip


def blind_of(session: Session, items: Iterable[int]) -> dict[int, list[Said]]:
    """What was found blind of items of the shelf: liked more or less than others, or not told from them."""
    poured = select(Glass.tasting_id).where(col(Glass.gear_id).in_(set(items)))
    found: dict[int, list[Said]] = {}
    for heard in _revealed(session, col(Tasting.id).in_(poured)):
        for at, plan in enumerate(heard.rounds):
            mine = heard.of_round(at)
            everything = [one for answers in mine.values() for one in choices(answers)]
            if plan.kind != "prefer" or not everything:
                continue
            now, names = prefer.liked(plan.of, everything), heard.names
            for one in plan.of:
                gear_id = heard.glasses[one].gear_id
                if gear_id is None:
                    continue
                over = [names[other] for other in plan.of if other != one and now.ahead(one, other) >= SURE]
                under = [names[other] for other in plan.of if other != one and now.ahead(other, one) >= SURE]
                found.setdefault(gear_id, []).extend(_told(heard, over, under))
    return found


def _told(heard: Heard, over: list[str], under: list[str]) -> list[Said]:
    numbers = {"tasting": heard.row.id or 0}
    told = []
    if over:
        told.append(Said("liked_blind", f"liked more than {', '.join(over)} in a blind tasting", numbers))
    if under:
        told.append(Said("liked_less_blind", f"liked less than {', '.join(under)} in a blind tasting", numbers))
    return told


def _revealed(session: Session, which: ColumnElement[bool]) -> list[Heard]:
    statement = select(Tasting.id).where(which, Tasting.revealed_at != "").order_by(col(Tasting.id).desc())
    return [heard_of(session, ident or 0) for ident in session.exec(statement).all()]
