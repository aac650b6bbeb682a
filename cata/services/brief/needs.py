"""A brief's need as the core has it, and as it is kept: what it says of items and tests stands in rows of its own."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping

from sqlmodel import Session, col, select

from cata.core.brief import Feel, Need
from cata.store.tables import Brief, BriefItem, BriefTest, Gear, Test

OF_ROWS = {"own_items", "feel", "shows"}
"""What of a need is kept by item and by test."""


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
    shows: dict[int, dict[int, list[str]]] = defaultdict(dict)
    for shown in session.exec(select(BriefTest).where(col(BriefTest.brief_id).in_(rows))).all():
        shows[shown.brief_id][shown.test_id] = shown.sounds
    return {
        ident: Need.model_validate(
            brief.need
            | {
                "own_items": [item.gear_id for item in items[ident] if item.own],
                "feel": {item.gear_id: item.feel for item in items[ident] if item.feel},
                "shows": shows[ident],
            }
        )
        for ident, brief in rows.items()
    }


def put_need(session: Session, brief: Brief, need: Need) -> None:
    """Make this what a brief asks for. Items and tests that are not there are left out."""
    brief.need = need.model_dump(mode="json", exclude=OF_ROWS)
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
    _put_shows(session, brief.id or 0, need)
    session.flush()


def _put_shows(session: Session, brief_id: int, need: Need) -> None:
    known = {row.test_id: row for row in session.exec(select(BriefTest).where(BriefTest.brief_id == brief_id)).all()}
    for test_id in known.keys() - need.shows.keys():
        session.delete(known[test_id])
    there = set(session.exec(select(Test.id).where(col(Test.id).in_(need.shows))).all())
    for test_id, sounds in need.shows.items():
        if test_id in there:
            row = known.get(test_id) or BriefTest(brief_id=brief_id, test_id=test_id)
            row.sounds = list(dict.fromkeys(sounds))
            session.add(row)


def _kept(feel: Feel | None) -> dict[str, object] | None:
    return feel.model_dump(mode="json") if feel is not None else None
