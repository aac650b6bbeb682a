"""What a flight taught: the differences of its tests, the verdict, and where they are heard."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import asdict

from sqlmodel import Session

from cata.core.choose.takes import Scatter
from cata.core.measure.registry import BY_KEY, Reading
from cata.core.taught.differences import NOISE, TONE, Taken, alike, differences
from cata.core.taught.pictures import spectrum_beside, values_of
from cata.core.taught.sentences import told, told_alike
from cata.core.taught.verdict import Priced, Tested, verdict
from cata.errors import NotFound
from cata.said import Said
from cata.services.flights.rows import tests_of
from cata.services.flights.showing import contender_views
from cata.services.match.counted import counted, left_out_of
from cata.services.match.findings import kept_as_it_is
from cata.services.match.lags import lags_of
from cata.services.match.repeating import flight_repeats
from cata.services.takes.rows import placed_takes
from cata.services.tasting.telling import tasted_of
from cata.services.verdict.views import DifferencesView, PlaceView, Proof, SentenceView, ShownValue, VerdictView
from cata.services.workspace import Workspace, require
from cata.store.tables import Flight, Take, Test
from cata.tasks.proving import PROVE, ToProve


def _taken(session: Session, test: Test) -> tuple[Taken, ...]:
    """The takes of a test that count."""
    return tuple(
        Taken(contender.id or 0, contender.name, results, contender.is_bypass)
        for _, contender, results in counted(session, placed_takes(session, test.id or 0))
    )


def _scatter(session: Session, flight_id: int) -> tuple[Mapping[str, Scatter], Said]:
    repeats = flight_repeats(session, flight_id)
    return {key: Scatter(one.sd, one.freedom) for key, one in repeats.bands.items()}, repeats.said


def _proof_of(said: Said, test_id: int | None) -> Proof | None:
    """The proof that a sentence carries in its numbers."""
    numbers = said.numbers
    if test_id is None or "reading" not in numbers:
        return None
    return Proof(
        test_id=test_id,
        contender_id=int(numbers["contender"]),
        other_id=int(numbers["other"]),
        reading=str(numbers["reading"]),
        low_hz=float(numbers.get("low_hz", 0.0)),
        high_hz=float(numbers.get("high_hz", 0.0)),
    )


def _sentence(said: Said, test_id: int | None, holds_in: list[int], takes: Sequence[Taken]) -> SentenceView:
    """A sentence with its proof and what shows it."""
    proof = _proof_of(said, test_id)
    if proof is None:
        return SentenceView(said=said, holds_in=holds_in)
    picture = spectrum_beside(proof.contender_id, takes, proof.low_hz, proof.high_hz) if proof.reading == TONE else None
    reading = BY_KEY.get(proof.reading)
    values = [
        ShownValue(contender_id=one.ident, value=one.value, band=one.band, text=_in_words(reading, one.value))
        for one in (values_of(reading.key, takes) if reading else ())
    ]
    return SentenceView(
        said=said, proof=proof, holds_in=holds_in, picture=asdict(picture) if picture else None, values=values
    )


def _in_words(reading: Reading | None, value: float) -> str:
    if reading is None:
        return ""
    if reading.key == NOISE:
        return f"{-value:.0f} dB under the playing"
    return f"{value:.{reading.decimals}f} {reading.unit}".strip()


def get_differences(ws: Workspace, flight_id: int, test_id: int) -> DifferencesView:
    """How the contenders of a test differ, in sentences."""
    with ws.reading() as session:
        test = require(session, Test, test_id)
        if test.flight_id != flight_id:
            raise NotFound("test in this flight", test_id)
        takes = _taken(session, test)
        scatter, repeats = _scatter(session, flight_id)

    def view(said: Said) -> SentenceView:
        return _sentence(said, test_id, [test_id], takes)

    return DifferencesView(
        test_id=test_id,
        differences=[view(told(one, takes)) for one in differences(takes, scatter)],
        alike=[view(one) for one in told_alike(alike(takes, scatter), takes)],
        repeats=repeats,
    )


def get_verdict(ws: Workspace, flight_id: int) -> VerdictView:
    """What a flight taught."""
    with ws.reading() as session:
        flight = require(session, Flight, flight_id)
        tests = [Tested(test.id or 0, test.name, _taken(session, test)) for test in tests_of(session, flight_id)]
        contenders = [
            Priced(one.id, one.name, one.price_minor, one.currency, one.is_bypass)
            for one in contender_views(session, flight_id)
        ]
        scatter, repeats = _scatter(session, flight_id)
        kept, tasted = kept_as_it_is(session, flight_id), tasted_of(session, flight_id)
        left_out = left_out_of(session, flight_id)
    found = verdict(contenders, tests, scatter)
    takes_of = {test.ident: test.takes for test in tests}
    return VerdictView(
        flight_id=flight_id,
        flight_name=flight.name,
        question=flight.question,
        code="taught" if found else "nothing_yet",
        heading="What this flight taught" if found else "Nothing to say yet: two contenders with a take of one test.",
        sentences=[_sentence(one.said, one.test, list(one.holds_in), takes_of.get(one.test or 0, ())) for one in found],
        repeats=repeats,
        kept=kept,
        left_out=left_out,
        tasted=tasted,
    )


def find_place(ws: Workspace, flight_id: int, proof: Proof) -> PlaceView:
    """Where the two takes of a proof show it most; NotFound where one of them is not there."""
    with ws.reading() as session:
        takes = {contender.id: take for take, contender in placed_takes(session, proof.test_id)}
        pair = [takes.get(ident) for ident in (proof.contender_id, proof.other_id)]
        if pair[0] is None or pair[1] is None or pair[0].flight_id != flight_id:
            raise NotFound("take of this proof", proof.contender_id)
        copies = [ws.inside(ws.vault.copy_path(take.digest)) for take in pair if take]
        lags = _lags(session, [take for take in pair if take])
    wish = ToProve(copies[0], copies[1], lags[1] - lags[0], proof.reading, proof.low_hz, proof.high_hz)
    start, end = ws.ask(PROVE, wish)
    return PlaceView(start_s=round(start, 3), end_s=round(end, 3))


def _lags(session: Session, takes: list[Take]) -> list[float]:
    wanted = [take.id or 0 for take in takes]
    known = lags_of(session, wanted)
    return [known[one].lag_s or 0.0 if one in known else 0.0 for one in wanted]
