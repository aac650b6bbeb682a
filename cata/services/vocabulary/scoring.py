"""Where the takes of a test lie along words."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from sqlmodel import Session

from cata.core.vocabulary.leaning import Leaning, Lying, apart, doubts, leaning, scatter_of, scatter_with
from cata.core.vocabulary.learned import KEYS
from cata.core.vocabulary.words import DRIVE, WORD_OF
from cata.services.match.repeating import flight_repeats
from cata.services.match.worst import to_be_left_out
from cata.services.takes.rows import placed_takes, readings_of
from cata.services.workspace import require
from cata.store.tables import Test


@dataclass(frozen=True)
class Laid:
    """The takes of a test but the bypass, by contender: names, takes, and where they lie against the others."""

    names: Mapping[int, str]
    takes: Mapping[int, int]
    lies: Mapping[int, Lying]


def laid_out(session: Session, test_id: int) -> Laid:
    """Where the takes of a test lie."""
    left_out = to_be_left_out(session, require(session, Test, test_id).flight_id)
    placed = [
        (take, contender)
        for take, contender in placed_takes(session, test_id)
        if not contender.is_bypass and take.id not in left_out
    ]
    readings = readings_of(session, [take.id or 0 for take, _ in placed], {key.partition(".")[0] for key in KEYS})
    mine = {contender.id or 0: readings[take.id or 0] for take, contender in placed}
    off = apart({ident: results.numbers() for ident, results in mine.items()})
    sds = doubts(list(mine.values()), _scatters(session, require(session, Test, test_id).flight_id)) if mine else {}
    return Laid(
        names={contender.id or 0: contender.name for _, contender in placed},
        takes={contender.id or 0: take.id or 0 for take, contender in placed},
        lies={ident: Lying(off[ident], sds, results.number(DRIVE)) for ident, results in mine.items()},
    )


def _scatters(session: Session, flight_id: int) -> dict[str, float]:
    """What playing it again does to readings: as the flight shows it, as far as that can be known from its repeats."""
    found = {key: scatter_of(key) for key in KEYS}
    for key, one in flight_repeats(session, flight_id, {key.partition(".")[0] for key in KEYS}).bands.items():
        if key in found:
            found[key] = scatter_with(key, one.sd, one.freedom)
    return found


def leanings(laid: Laid, word: str) -> dict[int, Leaning]:
    """How much of a word, as it usually stands, is in each; those of which something tells."""
    found = {ident: leaning(WORD_OF[word], mine) for ident, mine in laid.lies.items()}
    return {ident: one for ident, one in found.items() if one is not None}
