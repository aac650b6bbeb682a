"""Where the takes of a test lie along words."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from sqlmodel import Session

from cata.core.choose.takes import Scatter
from cata.core.measure.of_flights import STROKES
from cata.core.vocabulary.leaning import Leaning, Lying, apart, doubts, leaning, scatters_of
from cata.core.vocabulary.words import DRIVE, KEYS, WORD_OF
from cata.services.match.counted import counted
from cata.services.match.repeating import flight_repeats
from cata.services.takes.rows import placed_takes
from cata.services.workspace import require
from cata.store.tables import Test

READINGS = {key.partition(".")[0] for key in KEYS}


@dataclass(frozen=True)
class Laid:
    """The takes of a test but the bypass, by contender: names, takes, and where they lie against the others."""

    names: Mapping[int, str]
    takes: Mapping[int, int]
    lies: Mapping[int, Lying]


def laid_out(session: Session, test_id: int) -> Laid:
    """Where the takes of a test lie."""
    flight_id = require(session, Test, test_id).flight_id
    played = [pair for pair in placed_takes(session, test_id) if not pair[1].is_bypass]
    placed = counted(session, played, {STROKES.key, *READINGS})
    mine = {contender.id or 0: results for _, contender, results in placed}
    off = apart({ident: results.numbers() for ident, results in mine.items()})
    repeats = flight_repeats(session, flight_id, READINGS).bands if mine else {}
    scatters = scatters_of(list(mine.values()), {key: Scatter(one.sd, one.freedom) for key, one in repeats.items()})
    sds = doubts(list(mine.values()), scatters) if mine else {}
    return Laid(
        names={contender.id or 0: contender.name for _, contender, _ in placed},
        takes={contender.id or 0: take.id or 0 for take, contender, _ in placed},
        lies={ident: Lying(off[ident], sds, results.number(DRIVE)) for ident, results in mine.items()},
    )


def leanings(laid: Laid, word: str) -> dict[int, Leaning]:
    """How much of a word, as it usually stands, is in each; those of which something tells."""
    found = {ident: leaning(WORD_OF[word], mine) for ident, mine in laid.lies.items()}
    return {ident: one for ident, one in found.items() if one is not None}
