"""What is to be recorded again counts nowhere, until somebody keeps it."""

from __future__ import annotations

from sqlmodel import col, delete, select

from cata.core.measure.of_flights import MOTION
from cata.core.measure.results import Result, Results, as_kept
from cata.services.match.accepting import accept_finding
from cata.services.match.counted import counted
from cata.services.match.findings import get_match
from cata.services.match.worst import to_be_left_out
from cata.services.standing import flight as standing
from cata.services.takes.rows import placed_takes
from cata.services.verdict import teaching
from cata.services.vocabulary.scoring import laid_out
from cata.services.workspace import Workspace
from cata.store.database import moved
from cata.store.tables import Finding, Reading, Take
from tests.services.test_flow import afternoon, data_dir, imported

__all__ = ["afternoon", "data_dir", "imported"]


def test_a_clipped_take_is_left_out_of_words_and_verdicts_until_it_is_kept(ws: Workspace, imported: int) -> None:
    test = standing.get_flight(ws, imported).tests[0].id
    with ws.reading() as session:
        take = session.exec(select(Take).where(Take.test_id == test)).all()[-1]
        before = moved(session, "evidence")

    def counted() -> tuple[bool, bool, bool]:
        """Whether it is among the words, what the verdict compares, and what is not left out."""
        with ws.reading() as session:
            left_out = to_be_left_out(session, imported)
            words = take.id in laid_out(session, test).takes.values()
        told = teaching.get_differences(ws, imported, test)
        return words, bool(told.differences or told.alike), take.id not in left_out

    with ws.writing() as session:
        session.add(Finding(flight_id=imported, test_id=test, take_id=take.id or 0, rule="clipping", severity="fault",
                            text="clipped", advice=""))  # fmt: skip
    assert counted() == (False, False, False)
    with ws.reading() as session:
        assert moved(session, "evidence") != before  # choosing is counted anew
    accept_finding(ws, take.id or 0, "clipping", True, reason="the only one there is")
    assert counted() == (True, True, True)


def found(ws: Workspace, take: Take, rule: str, severity: str) -> None:
    with ws.writing() as session:
        session.add(Finding(flight_id=take.flight_id, test_id=take.test_id, take_id=take.id or 0, rule=rule,
                            severity=severity, text=rule, advice=""))  # fmt: skip


def test_what_may_have_moved_counts_not_for_tone_until_somebody_looked(ws: Workspace, imported: int) -> None:
    test = standing.get_flight(ws, imported).tests[0].id
    with ws.reading() as session:
        take, contender = placed_takes(session, test)[-1]

    def known() -> set[str]:
        with ws.reading() as session:
            return next(({*results} for one, _, results in counted(session, placed_takes(session, test))
                         if one.id == take.id), set())  # fmt: skip

    whole = known()
    assert {"third_octaves_db", "crest_db"} <= whole
    found(ws, take, "tone_moved", "check")
    assert "third_octaves_db" not in known()
    assert "crest_db" in known()
    told = teaching.get_verdict(ws, imported).left_out
    assert [one.words for one in told] == [
        f"{contender.name}, {standing.get_flight(ws, imported).tests[0].name}: tone moved in one take. "
        "Its tone counts nowhere until you look at it in Match."
    ]
    accept_finding(ws, take.id or 0, "tone_moved", True)
    assert known() == whole
    # What may be another contender's take counts for nothing.
    found(ws, take, "exchanged", "check")
    assert known() == set()


def test_what_moves_explains_what_was_found_and_the_take_counts(ws: Workspace, imported: int) -> None:
    test = standing.get_flight(ws, imported).tests[0].id
    with ws.reading() as session:
        take, _ = placed_takes(session, test)[-1]
    found(ws, take, "other_notes", "fault")
    with ws.reading() as session:
        assert take.id in to_be_left_out(session, imported)
    with ws.writing() as session:
        session.exec(delete(Reading).where(col(Reading.take_id) == take.id, col(Reading.key) == MOTION.key))
        echo = Result(value={"word": "repeats after 310 ms", "echo_ms": 310.0})
        session.add(Reading(take_id=take.id or 0, key=MOTION.key, version=MOTION.version,
                            result=as_kept(Results({MOTION.key: echo}))[MOTION.key]))  # fmt: skip
    with ws.reading() as session:
        assert take.id not in to_be_left_out(session, imported)
    mine = next(one for one in get_match(ws, imported).findings if one.rule == "other_notes")
    assert (mine.accepted, mine.reason) == (True, "repeats after 310 ms")
