"""The vocabulary as pages show it, and takes by a word of it."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from sqlmodel import Session

from cata.core.vocabulary.leaning import differ, told
from cata.core.vocabulary.learned import Learned
from cata.core.vocabulary.wanted import wanted
from cata.core.vocabulary.words import WORDS
from cata.errors import NotFound
from cata.services.vocabulary import teaching
from cata.services.vocabulary.scoring import Laid, laid_out, leanings
from cata.services.vocabulary.teaching import learned_view, taught, word_of
from cata.services.vocabulary.views import AS_USUAL, ByWord, WantedView, WordScore, WordView
from cata.services.workspace import Workspace, require
from cata.store.tables import Test

More = Callable[[int, int], bool]


def list_words(ws: Workspace) -> list[WordView]:
    """All words, in the order of the alphabet."""
    with ws.reading() as session:
        counts = teaching.counts(session)
    found = [
        WordView(key=one.key, about=one.about, opposite=one.opposite, near=list(one.near), takes=counts[one.key])
        for one in WORDS
    ]
    return sorted(found, key=lambda one: one.key)


def by_word(ws: Workspace, flight_id: int, test_id: int, key: str, ears: str | None = None) -> ByWord:
    """The contenders of a test by how much of a word is in their takes, the most first. NotFound for another word.

    ``ears``: the word as they use it; None: as everybody does where anybody said something of takes by it.
    """
    word = word_of(key)
    with ws.reading() as session:
        if require(session, Test, test_id).flight_id != flight_id:
            raise NotFound("test in this flight", test_id)
        laid, all_said = laid_out(session, test_id), taught(session, word)
        chosen = ears if ears is not None else next(iter(all_said.ears), AS_USUAL)
        use = teaching.learned(session, all_said, chosen) if chosen != AS_USUAL else None
    mine = all_said.of(chosen)
    steps, more = _as_usual(laid, key) if use is None else _as_used(laid, use[0])
    order = sorted(laid.names, key=lambda ident: -steps.get(ident, -1e9))
    return ByWord(
        word=word.key, about=word.about, said=told(word, steps, laid.names, more),
        contenders=[
            WordScore(contender_id=ident, take_id=(take := laid.takes[ident]), name=laid.names[ident],
                      score=steps.get(ident), pointed="" if take not in mine else "yes" if mine[take] else "no")
            for ident in order
        ],
        ears=chosen, all_ears=all_said.ears, learned=learned_view(*use) if use is not None else None,
    )  # fmt: skip


def want(text: str) -> WantedView:
    """The ranges that a sound in words asks for."""
    found = wanted(text)
    return WantedView(targets=list(found.targets), said=found.said)


def lying(session: Session, test_id: int, key: str) -> tuple[Laid, Mapping[int, float], More]:
    """The takes of a test, how much of a word is in each as it is used here, and which have certainly more."""
    laid, all_said = laid_out(session, test_id), taught(session, word_of(key))
    use = teaching.learned(session, all_said, all_said.ears[0]) if all_said.ears else None
    return laid, *(_as_usual(laid, key) if use is None else _as_used(laid, use[0]))


def _as_usual(laid: Laid, key: str) -> tuple[Mapping[int, float], More]:
    found = leanings(laid, key)
    steps = {ident: one.steps for ident, one in found.items()}
    return steps, lambda one, other: differ(found[one], found[other], len(found))


def _as_used(laid: Laid, use: Learned) -> tuple[Mapping[int, float], More]:
    found = {ident: steps for ident, lies in laid.lies.items() if (steps := use.steps(lies.off)) is not None}
    return found, lambda one, other: use.certainly(laid.lies[one], laid.lies[other], len(found))
