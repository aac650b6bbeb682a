"""A lock that is had in the order of asking."""

from __future__ import annotations

import threading
from collections import deque
from types import TracebackType


class InTurn:
    """Who asks first is first: one of ``threading`` goes to anybody, and who asks again at once may have it again.

    With it nobody waits longer than all who were there before take, however often these come back.
    """

    def __init__(self) -> None:
        self._guard = threading.Lock()
        self._held = False
        self._waiting: deque[threading.Lock] = deque()

    def __enter__(self) -> None:
        with self._guard:
            if not self._held:
                self._held = True
                return
            turn = threading.Lock()
            turn.acquire()
            self._waiting.append(turn)
        try:
            turn.acquire()  # let go of by who had it before
        except BaseException:  # Ctrl+C: what may have come to this one meanwhile goes to the next
            with self._guard:
                mine = turn not in self._waiting
                if not mine:
                    self._waiting.remove(turn)
            if mine:
                self._pass_on()
            raise

    def __exit__(
        self, _kind: type[BaseException] | None, _error: BaseException | None, _at: TracebackType | None
    ) -> None:
        self._pass_on()

    def _pass_on(self) -> None:
        with self._guard:
            if self._waiting:
                self._waiting.popleft().release()
            else:
                self._held = False
