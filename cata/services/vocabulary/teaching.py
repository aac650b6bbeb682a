"""Words as people use them: what was said of takes here and in the notes of tastings, and what that teaches."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterable, Mapping

from pydantic import BaseModel, Field
from sqlmodel import Session, col, select

from cata.core.vocabulary.ears import EVERYBODY, Taught
from cata.core.vocabulary.learned import Example, Learned, agreeing, learn, told_learned
from cata.core.vocabulary.notes import words_in
from cata.core.vocabulary.words import WORD_OF, Word
from cata.errors import Conflict, NotFound
from cata.services.vocabulary.scoring import laid_out
from cata.services.vocabulary.views import LearnedView, WordPart
from cata.services.workspace import Workspace, require
from cata.store.tables import Answer, Glass, Pointed, Take, Taster, Tasting

MOST_WHO = 60


class PointIn(BaseModel):
    """What is said of a take by a word; None takes back what was said. ``who``: whose ears, a name or nobody's."""

    take_id: int = Field(ge=1, le=2**53)
    said: bool | None
    who: str = Field(default="", max_length=MOST_WHO)


def point(ws: Workspace, key: str, data: PointIn) -> None:
    """Note what somebody says of a take by a word. Conflict where the take has no place in a flight yet."""
    word, who = word_of(key), data.who.strip()
    if who == EVERYBODY:
        who = ""
    what = {True: "Say of a take: {}", False: "Say of a take: not {}", None: "Take back of a take: {}"}[data.said]
    with ws.acting(what.format(word.key)) as session:
        if require(session, Take, data.take_id).test_id is None:
            raise Conflict("a take is held against the others of its test: give it its place first", "not_placed")
        wanted = (Pointed.take_id == data.take_id, Pointed.word == word.key, Pointed.who == who)
        row = session.exec(select(Pointed).where(*wanted)).first()
        if data.said is None:
            if row is not None:
                session.delete(row)
            return
        row = row or Pointed(take_id=data.take_id, word=word.key, who=who, said=data.said)
        row.said, row.at = data.said, ws.now()
        session.add(row)


def word_of(key: str) -> Word:
    """A word by its key; NotFound for another."""
    word = WORD_OF.get(key)
    if word is None:
        raise NotFound("word", key)
    return word


def taught(session: Session, word: Word) -> Taught:
    """All that was said of takes by a word: what was pointed at here, and the notes of tastings that were revealed."""
    found: dict[str, dict[int, bool]] = defaultdict(dict)
    for name, take, word_said, sign in noted(session):
        if word_said == word.key:
            found[name][take] = sign > 0
    for row in session.exec(select(Pointed).where(Pointed.word == word.key)).all():
        found[row.who][row.take_id] = row.said
    return Taught(word, dict(found))


def noted(session: Session) -> Iterable[tuple[str, int, str, int]]:
    """Who said which word of which take in the notes of tastings that were revealed, and whether it was denied."""
    statement = (
        select(Tasting, Taster.name, Answer.what)
        .join(Taster, col(Taster.tasting_id) == Tasting.id)
        .join(Answer, col(Answer.taster_id) == Taster.id)
        .where(Tasting.revealed_at != "")
        .order_by(col(Answer.id))
    )
    for tasting, name, what in session.exec(statement).all():
        for place, text in what.get("notes", {}).items():
            poured = (Glass.tasting_id == tasting.id, Glass.place == int(place), Take.flight_id == tasting.flight_id)
            same = select(Take.id).join(Glass, col(Glass.digest) == Take.digest).where(*poured)
            own = col(Take.contender_id) == Glass.contender_id
            take = session.exec(same.order_by(own.desc(), col(Take.id))).first()
            if take is not None:
                yield from ((name, take, word, sign) for word, sign in words_in(text))


def counts(session: Session) -> Counter[str]:
    """Of how many takes each word was said or denied."""
    takes = {(word, take) for _, take, word, _ in noted(session)}
    takes |= {(word, take) for word, take in session.exec(select(Pointed.word, Pointed.take_id)).all()}
    return Counter(word for word, _ in takes)


def learned(session: Session, told: Taught, ears: str) -> tuple[Learned, int | None] | None:
    """A word as these ears use it, and of how many takes the others foretell what was said; None where nothing was."""
    said_of = told.of(ears)
    examples = _examples(session, said_of)
    return (learn(told.word, examples), agreeing(told.word, examples)) if examples else None


def _examples(session: Session, said_of: Mapping[int, bool]) -> list[Example]:
    places = select(Take.id, Take.test_id, Take.contender_id).where(col(Take.id).in_(said_of))
    by_test: dict[int, list[tuple[int, int]]] = defaultdict(list)
    for take, test, contender in session.exec(places).all():
        if test is not None and contender is not None:
            by_test[test].append((take or 0, contender))
    found = []
    for test, takes in by_test.items():
        laid = laid_out(session, test)
        found += [Example(laid.lies[who].off, said_of[take]) for take, who in takes
                  if laid.takes.get(who) == take and laid.lies[who].off]  # fmt: skip
    return found


def learned_view(one: Learned, foretold: int | None) -> LearnedView:
    """What was learnt of a word, as pages show it."""
    parts = [WordPart(key=part.key, name=part.words, weight=part.weight, sd=part.sd) for part in one.parts]
    return LearnedView(takes=one.of, agreeing=foretold, parts=parts, said=told_learned(one, foretold))
