"""Briefs: what is needed, and what may be spent."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, Field
from sqlmodel import Session, col, select

from cata.core.brief import Need
from cata.core.money import exponent, show_price
from cata.core.workshop.loudness import caution
from cata.services.brief.needs import need_of, needs_of, put_need
from cata.services.brief.views import BriefView
from cata.services.workspace import Workspace, require
from cata.store.changes import remove
from cata.store.tables import Brief, Test

ONE_SLIDE_S = 2.0
"""Weights that move so soon after each other are one slide, and one undo."""


class BriefIn(BaseModel):
    """A brief as a person writes it; a new one is empty."""

    name: str = Field(min_length=1, max_length=120)
    need: Need | None = None


class BriefPatch(BaseModel):
    """A changed brief."""

    name: str | None = Field(default=None, min_length=1, max_length=120)
    need: Need | None = None


class ShowsIn(BaseModel):
    """Which sounds of a brief some tests show; None: those that the tests themselves and their names propose."""

    test_ids: list[Annotated[int, Field(ge=1, le=2**31 - 1)]] = Field(min_length=1, max_length=5000)
    sounds: list[Annotated[str, Field(max_length=40)]] | None = Field(default=None, max_length=12)


def spendable_text(need: Need) -> str:
    """What can be spent, in words."""
    if need.spendable_minor is None:
        return "no budget given"
    return show_price(need.spendable_minor, need.currency)


def _line(need: Need) -> str:
    sounds = ", ".join(sound.name.lower() for sound in need.sounds) or "no sounds chosen yet"
    return f"{need.style or 'any style'}: {sounds}; {spendable_text(need)} to spend"


def view_of(brief: Brief, need: Need) -> BriefView:
    """A brief with its line."""
    return BriefView(
        id=brief.id or 0,
        name=brief.name,
        need=need,
        decimals=exponent(need.currency),
        line=_line(need),
        spendable_text=spendable_text(need),
        caution=caution(need.loudness_limit_dba),
    )


def list_briefs(ws: Workspace) -> list[BriefView]:
    """All briefs, oldest first."""
    with ws.reading() as session:
        briefs = session.exec(select(Brief).order_by(col(Brief.id))).all()
        needs = needs_of(session, briefs)
        return [view_of(brief, needs[brief.id or 0]) for brief in briefs]


def get_brief(ws: Workspace, brief_id: int) -> BriefView:
    """One brief."""
    with ws.reading() as session:
        brief = require(session, Brief, brief_id)
        return view_of(brief, need_of(session, brief))


def meant(session: Session, ident: int | None, need: Need | None = None) -> tuple[Brief | None, Need]:
    """The brief that is meant, the oldest where none is named, and its need, or another that is tried."""
    brief = require(session, Brief, ident) if ident is not None else session.exec(select(Brief)).first()
    return brief, need or (need_of(session, brief) if brief is not None else Need())


def add_brief(ws: Workspace, data: BriefIn) -> BriefView:
    """Write a brief."""
    with ws.acting(f"Add brief {data.name}") as session:
        brief = Brief(name=data.name, created_at=ws.now())
        put_need(session, brief, data.need or Need())
        return view_of(brief, need_of(session, brief))


def change_brief(ws: Workspace, brief_id: int, patch: BriefPatch) -> BriefView:
    """Change a brief in place."""
    with ws.reading() as session:
        before = need_of(session, require(session, Brief, brief_id))
    slid = patch.name is None and patch.need is not None and _unweighted(patch.need) == _unweighted(before)
    label = "Change weights" if slid else "Change brief"
    with ws.acting(label, joined=slid, within_s=ONE_SLIDE_S) as session:
        brief = require(session, Brief, brief_id)
        if patch.name is not None:
            brief.name = patch.name
        if patch.need is not None:
            put_need(session, brief, patch.need)
        session.add(brief)
        return view_of(brief, need_of(session, brief))


def say_shows(ws: Workspace, brief_id: int, data: ShowsIn) -> BriefView:
    """Say for one brief which sounds some tests show; no other brief's answer changes."""
    with ws.acting("Say which phrase shows which sound") as session:
        brief = require(session, Brief, brief_id)
        need = need_of(session, brief)
        shows = {test: sounds for test, sounds in need.shows.items() if test not in data.test_ids}
        for test_id in data.test_ids:
            require(session, Test, test_id)
            if data.sounds is not None:
                shows[test_id] = data.sounds
        put_need(session, brief, need.model_copy(update={"shows": shows}))
        return view_of(brief, need_of(session, brief))


def _unweighted(need: Need) -> Need:
    """A need without how much each thing in it counts."""
    sounds = [sound.model_copy(update={"weight": 1.0}) for sound in need.sounds]
    return need.model_copy(update={"sounds": sounds, "fit_weight": 1.0, "price_weight": 1.0})


def remove_brief(ws: Workspace, brief_id: int) -> None:
    """Remove a brief; flights that stood for it stay."""
    with ws.acting("Remove brief") as session:
        remove(session, require(session, Brief, brief_id))
