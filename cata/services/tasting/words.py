"""The vocabulary as pages show it, and takes by a word of it."""

from __future__ import annotations

from sqlmodel import Session

from cata.core.taste.words import WORD_OF, WORDS, apart, score, told
from cata.errors import NotFound
from cata.services.takes.rows import placed_takes, readings_of
from cata.services.tasting.views import ByWord, WordScore, WordView
from cata.services.workspace import Workspace, require
from cata.store.tables import Test


def list_words() -> list[WordView]:
    """All words, in the order of the alphabet."""
    found = [WordView(key=one.key, about=one.about, opposite=one.opposite, near=list(one.near)) for one in WORDS]
    return sorted(found, key=lambda one: one.key)


def by_word(ws: Workspace, flight_id: int, test_id: int, key: str) -> ByWord:
    """The contenders of a test by how much of a word is in their takes, the most first. NotFound for another word."""
    word = WORD_OF.get(key)
    if word is None:
        raise NotFound("word", key)
    with ws.reading() as session:
        if require(session, Test, test_id).flight_id != flight_id:
            raise NotFound("test in this flight", test_id)
        scores, names = scores_of(session, test_id, key), _names(session, test_id)
    known = {ident: value for ident, value in scores.items() if value is not None}
    order = sorted(scores, key=lambda ident: -(scores[ident] if scores[ident] is not None else -1e9))  # type: ignore[operator]
    rows = [WordScore(contender_id=ident, name=names[ident], score=scores[ident]) for ident in order]
    return ByWord(word=word.key, about=word.about, said=told(word, known, names), contenders=rows)


def scores_of(session: Session, test_id: int, key: str) -> dict[int, float | None]:
    """How much of a word is in the take of each contender of a test but the bypass, in steps that are just noticed."""
    takes = {contender.id or 0: take.id or 0 for take, contender in placed_takes(session, test_id)
             if not contender.is_bypass}  # fmt: skip
    readings = readings_of(session, takes.values())
    off = apart({ident: readings[take].numbers() for ident, take in takes.items()})
    return {ident: score(WORD_OF[key].signs, mine) for ident, mine in off.items()}


def _names(session: Session, test_id: int) -> dict[int, str]:
    return {contender.id or 0: contender.name for _, contender in placed_takes(session, test_id)}
