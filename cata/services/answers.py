"""Answers that pages ask for again, kept in memory."""

from __future__ import annotations

import threading
from collections.abc import Callable, Hashable
from typing import Any, TypeVar
from weakref import WeakValueDictionary

from cachetools import LRUCache

T = TypeVar("T")
KEPT = 300


class Answers:
    """The latest few hundred answers, each with the state that it is of."""

    def __init__(self) -> None:
        self._kept: LRUCache[Hashable, tuple[Hashable, Any]] = LRUCache(KEPT)
        self._keeping = threading.Lock()
        self._at_work: WeakValueDictionary[Hashable, threading.Lock] = WeakValueDictionary()

    def remember(self, key: Hashable, compute: Callable[[], T]) -> T:
        """What ``compute`` gave for a key the last time; the key says all that the answer depends on."""
        return self.remember_as_of(key, (), compute)

    def remember_as_of(self, key: Hashable, state: Hashable, compute: Callable[[], T]) -> T:
        """As :meth:`remember`, of one state at a time: what was known of an older one makes room for the new."""
        with self._keeping:
            if (known := self._kept.get(key)) is not None and known[0] == state:
                return known[1]
            alone = self._at_work.setdefault(key, threading.Lock())
        # Who asks for what is being worked out waits for it: two at once would take twice as long.
        with alone:
            with self._keeping:
                if (known := self._kept.get(key)) is not None and known[0] == state:
                    return known[1]
            found = compute()
            self.keep(key, state, found)
        return found

    def keep(self, key: Hashable, state: Hashable, answer: Any) -> None:
        """An answer that is there already."""
        with self._keeping:
            self._kept[key] = (state, answer)

    def of_before(self, key: Hashable, state: Hashable) -> Any:
        """The answer for an older state; None where that for this one is known, or nothing is."""
        with self._keeping:
            known = self._kept.get(key)
        return known[1] if known is not None and known[0] != state else None

    def forget(self) -> None:
        """As after a start."""
        with self._keeping:
            self._kept.clear()
