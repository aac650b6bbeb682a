"""A lock that is had in the order of asking."""

from __future__ import annotations

import threading
import time

import pytest

from cata.store.inturn import InTurn
from tests.conftest import until


def test_who_asks_first_is_first_and_who_asks_again_is_last() -> None:
    lock, order, waiting = InTurn(), [], []  # type: ignore[var-annotated]

    def twice(name: str) -> None:
        for _ in range(2):
            with lock:
                order.append(name)

    with lock:
        for name in "abcd":
            waiting.append(threading.Thread(target=twice, args=(name,)))
            waiting[-1].start()
            until(lambda: len(lock._waiting), lambda count, want=len(waiting): count == want)  # type: ignore[misc]
        assert order == []
    for one in waiting:
        one.join()
    assert order == [*"abcd", *"abcd"]


def test_who_is_interrupted_while_waiting_leaves_the_queue(monkeypatch: pytest.MonkeyPatch) -> None:
    lock = InTurn()
    held = threading.Event()

    class Torn:
        """A turn in whose wait Ctrl+C comes."""

        def __init__(self) -> None:
            self.asked = 0

        def acquire(self) -> None:
            self.asked += 1
            if self.asked > 1:
                raise KeyboardInterrupt

        def release(self) -> None:
            raise AssertionError("nobody waits here any more")

    def hold() -> None:
        with lock:
            held.set()
            time.sleep(0.2)

    holder = threading.Thread(target=hold)
    holder.start()
    held.wait()
    with monkeypatch.context() as patch:
        patch.setattr(threading, "Lock", Torn)
        with pytest.raises(KeyboardInterrupt), lock:
            raise AssertionError("it never had its turn")
    holder.join()
    with lock:
        assert lock._held
    assert not lock._held
