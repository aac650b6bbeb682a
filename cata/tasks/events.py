"""Events: what open pages are told while they are open."""

from __future__ import annotations

import queue
import threading
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from typing import Any


class Bus:
    """Events to every listener (an open page); a slow listener loses its oldest events, never blocks work."""

    CAPACITY = 256

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._listeners: set[queue.Queue[dict[str, Any]]] = set()

    def publish(self, event: dict[str, Any]) -> None:
        """Tell every listener."""
        with self._lock:
            for listener in self._listeners:
                if listener.full():
                    with suppress(queue.Empty):
                        listener.get_nowait()
                listener.put_nowait(event)

    @contextmanager
    def listen(self) -> Iterator[queue.Queue[dict[str, Any]]]:
        """A queue that receives events until the context ends."""
        listener: queue.Queue[dict[str, Any]] = queue.Queue(self.CAPACITY)
        with self._lock:
            self._listeners.add(listener)
        try:
            yield listener
        finally:
            with self._lock:
                self._listeners.discard(listener)
