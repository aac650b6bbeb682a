"""Decision cards as they are kept: made, shown, renamed, removed, written out, and held against today."""

from __future__ import annotations

from sqlmodel import Session, col, select

from cata.core.brief import Need
from cata.core.card.card import Card
from cata.core.card.compare import changes
from cata.documents.card import card_article, card_file
from cata.errors import CataError
from cata.said import Said
from cata.services.brief.needs import need_of
from cata.services.card.composing import compose
from cata.services.card.views import MAX_NAME, CardChanges, CardIn, CardLine, CardPatch, CardView
from cata.services.workspace import Workspace, require
from cata.store.changes import remove
from cata.store.tables import Brief, Choice, Flight


def list_cards(ws: Workspace) -> list[CardLine]:
    """All kept cards, the newest first."""
    with ws.reading() as session:
        rows = session.exec(select(Choice).order_by(col(Choice.id).desc())).all()
        return [_line(row) for row in rows]


def keep_card(ws: Workspace, asked: CardIn) -> CardView:
    """Make a card of a choice as it stands now, and keep it. Conflict where there is nothing to choose."""
    with ws.reading() as session:
        if asked.brief_id is not None:
            require(session, Brief, asked.brief_id)
        need = _need_of(session, asked)
    card = compose(ws, asked)
    card.title = asked.name or card.title
    with ws.acting(f"Keep the card of {card.title}") as session:
        row = Choice(
            name=card.title[:MAX_NAME], made_at=ws.now(), asked=asked.model_dump(mode="json"),
            need=need.model_dump(mode="json"), card=card.model_dump(mode="json"),
        )  # fmt: skip
        session.add(row)
        session.flush()
    return _view(row)


def get_card(ws: Workspace, card_id: int) -> CardView:
    """A kept card with its document."""
    with ws.reading() as session:
        return _view(require(session, Choice, card_id, "card"))


def rename_card(ws: Workspace, card_id: int, patch: CardPatch) -> CardView:
    """Give a card another name."""
    with ws.acting(f"Rename the card {patch.name}") as session:
        row = require(session, Choice, card_id, "card")
        card = Card.model_validate(row.card)
        card.title = patch.name
        row.name, row.card = patch.name, card.model_dump(mode="json")
        session.add(row)
    return _view(row)


def remove_card(ws: Workspace, card_id: int) -> None:
    """Take a card away."""
    with ws.acting("Remove the card") as session:
        remove(session, require(session, Choice, card_id, "card"))


def card_html(ws: Workspace, card_id: int) -> str:
    """A kept card as a file of its own."""
    with ws.reading() as session:
        return card_file(Card.model_validate(require(session, Choice, card_id, "card").card))


def changes_of(ws: Workspace, card_id: int) -> CardChanges:
    """What would be said otherwise if the card were made of what is known today, for the need it was made for."""
    with ws.reading() as session:
        row = require(session, Choice, card_id, "card")
        asked, need = CardIn.model_validate(row.asked), Need.model_validate(row.need)
        before = Card.model_validate(row.card)
        today = _need_of(session, asked)
        if asked.brief_id is not None and session.get(Brief, asked.brief_id) is None:
            asked.brief_id = None
    try:
        after = compose(ws, asked, need)
    except CataError as why:
        return CardChanges(changes=[], gone=Said("gone", f"It cannot be made again: {why}."))
    found = changes(before, after)
    if today != need:
        found.append(Said("brief", "the brief was changed since; this is about the brief as it was"))
    return CardChanges(changes=found)


def _need_of(session: Session, asked: CardIn) -> Need:
    """What the brief that a card is made for says now: the one asked for, the flight's, or the oldest."""
    ident = asked.brief_id
    if ident is None and asked.flight_id is not None:
        ident = require(session, Flight, asked.flight_id).brief_id
    brief = session.get(Brief, ident) if ident is not None else session.exec(select(Brief)).first()
    return need_of(session, brief) if brief is not None else Need()


def _line(row: Choice) -> CardLine:
    return CardLine(id=row.id or 0, name=row.name, made_at=row.made_at, sentence=Card.model_validate(row.card).sentence)


def _view(row: Choice) -> CardView:
    card, asked = Card.model_validate(row.card), CardIn.model_validate(row.asked)
    article = card_article(card)
    return CardView(id=row.id or 0, name=row.name, made_at=row.made_at, asked=asked, card=card, article=article)
