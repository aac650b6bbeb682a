"""What is to be recorded again counts nowhere, until somebody keeps it."""

from __future__ import annotations

from sqlmodel import select

from cata.services.match.accepting import accept_finding
from cata.services.match.worst import to_be_left_out
from cata.services.standing import flight as standing
from cata.services.verdict import teaching
from cata.services.vocabulary.scoring import laid_out
from cata.services.workspace import Workspace
from cata.store.database import moved
from cata.store.tables import Finding, Take
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
