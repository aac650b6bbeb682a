"""Answers that are kept: worked out once, of one state at a time."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from threading import Barrier, Event

import pytest

from cata.services.answers import KEPT, Answers


def test_whoever_asks_while_an_answer_is_worked_out_waits_for_it() -> None:
    answers, begun, go, times = Answers(), Barrier(4), Event(), []

    def compute() -> int:
        times.append(1)
        assert go.wait(20)
        return 7

    def ask() -> int:
        begun.wait(20)
        return answers.remember("what", compute)

    with ThreadPoolExecutor(4) as pool:
        asked = [pool.submit(ask) for _ in range(4)]
        # Another question is answered meanwhile.
        assert answers.remember("else", lambda: 3) == 3
        go.set()
        assert [one.result(20) for one in asked] == [7] * 4
    assert len(times) == 1


def test_an_answer_is_of_a_state_and_nothing_is_an_answer_too() -> None:
    answers = Answers()
    assert answers.of_before("what", 1) is None
    assert answers.remember_as_of("what", 1, lambda: "old") == "old"
    assert (answers.of_before("what", 1), answers.of_before("what", 2)) == (None, "old")
    assert answers.remember_as_of("what", 2, lambda: None) is None
    assert answers.remember_as_of("what", 2, lambda: "again") is None
    answers.forget()
    assert answers.remember_as_of("what", 2, lambda: "again") == "again"


def test_what_failed_is_tried_again() -> None:
    answers = Answers()
    with pytest.raises(ZeroDivisionError):
        answers.remember("what", lambda: 1 // 0)
    assert answers.remember("what", lambda: 1) == 1


def test_of_many_answers_the_latest_are_kept() -> None:
    answers = Answers()
    for n in range(KEPT + 1):
        answers.remember(n, lambda n=n: n)  # type: ignore[misc]
    assert answers.remember(0, lambda: "anew") == "anew"
    assert answers.remember(KEPT, lambda: "anew") == KEPT
