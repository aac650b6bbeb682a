"""A brief's need as the core has it, and as it is kept: what it says of items stands in rows of its own."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping

from sqlmodel import Session, col, select

from cata.core.brief import Feel, Need
from cata.store.tables import Brief, BriefItem, Gear

OF_ITEMS = {"own_items", "feel"}
"""What of a need is kept by item."""


def need_of(session: Session, brief: Brief) -> Need:
    """What a brief asks for."""
    return needs_of(session, [brief])[brief.id or 0]


def needs_of(session: Session, briefs: Iterable[Brief]) -> Mapping[int, Need]:
    """What each brief asks for, by its number. An item that was taken off the shelf is nobody's."""
    rows = {brief.id or 0: brief for brief in briefs}
    items: dict[int, list[BriefItem]] = defaultdict(list)
    statement = select(BriefItem).where(col(BriefItem.brief_id).in_(rows), col(BriefItem.gear_id).is_not(None))
    for item in session.exec(statement.order_by(col(BriefItem.id))).all():
        items[item.brief_id].append(item)
    return {
        ident: Need.model_validate(
            brief.need
            | {
                "own_items": [item.gear_id for item in items[ident] if item.own],
                "feel": {item.gear_id: item.feel for item in items[ident] if item.feel},
            }
        )
        for ident, brief in rows.items()
    }


def put_need(session: Session, brief: Brief, need: Need) -> None:
    """Make this what a brief asks for. Items that are not on the shelf are left out."""
    brief.need = need.model_dump(mode="json", exclude=OF_ITEMS)
    session.add(brief)
    session.flush()
    known = {
        item.gear_id: item
        for item in session.exec(select(BriefItem).where(BriefItem.brief_id == brief.id)).all()
        if item.gear_id is not None
    }
    own, feel = dict.fromkeys(need.own_items), need.feel
    for gear_id, item in known.items():
        if gear_id not in own and gear_id not in feel:
            session.delete(item)
    names = session.exec(select(Gear.id, Gear.name).where(col(Gear.id).in_({*own, *feel}))).all()
    name_of = dict(names)
    for gear_id in dict.fromkeys((*own, *feel)):
        if gear_id not in name_of:
            continue
        item = known.get(gear_id) or BriefItem(brief_id=brief.id or 0, gear_id=gear_id)
        item.name, item.own, item.feel = name_of[gear_id], gear_id in own, _kept(feel.get(gear_id))
        session.add(item)
    session.flush()


def _kept(feel: Feel | None) -> dict[str, object] | None:
    return feel.model_dump(mode="json") if feel is not None else None
