"""Where the takes of a test lie along words."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from math import hypot

from sqlmodel import Session

from cata.core.choose.takes import BAND_SDS
from cata.core.measure.results import Results
from cata.core.vocabulary.leaning import Leaning, Lying, apart, leaning, scatter_of, scatter_with
from cata.core.vocabulary.learned import KEYS
from cata.core.vocabulary.words import WORD_OF
from cata.services.match.repeating import flight_repeats
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
    placed = [(take, contender) for take, contender in placed_takes(session, test_id) if not contender.is_bypass]
    readings = readings_of(session, [take.id or 0 for take, _ in placed], {key.partition(".")[0] for key in KEYS})
    mine = {contender.id or 0: readings[take.id or 0] for take, contender in placed}
    off = apart({ident: results.numbers() for ident, results in mine.items()})
    scatters = _scatters(session, require(session, Test, test_id).flight_id)
    return Laid(
        names={contender.id or 0: contender.name for _, contender in placed},
        takes={contender.id or 0: take.id or 0 for take, contender in placed},
        lies={ident: Lying(off[ident], _sds(results, scatters)) for ident, results in mine.items()},
    )


def _scatters(session: Session, flight_id: int) -> dict[str, float]:
    """What playing it again does to readings: as the flight shows it, as far as that can be known from its repeats."""
    found = {key: scatter_of(key) for key in KEYS}
    for key, one in flight_repeats(session, flight_id, {key.partition(".")[0] for key in KEYS}).bands.items():
        if key in found:
            found[key] = scatter_with(key, one.sd, one.freedom)
    return found


def _sds(results: Results, scatters: Mapping[str, float]) -> dict[str, float]:
    bands = results.bands
    return {key: hypot(sd, bands.get(key.partition(".")[0], 0.0) / BAND_SDS) for key, sd in scatters.items()}


def leanings(laid: Laid, word: str) -> dict[int, Leaning]:
    """How much of a word, as it usually stands, is in each; those of which something tells."""
    found = {ident: leaning(WORD_OF[word].signs, mine) for ident, mine in laid.lies.items()}
    return {ident: one for ident, one in found.items() if one is not None}
