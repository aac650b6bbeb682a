"""Who is acting: the browser that asks, so that an undo takes back what was done there and nothing of others."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar

ACTOR: ContextVar[str] = ContextVar("actor", default="")
"""Empty for the command line and for whoever does not say."""


@contextmanager
def acting_as(who: str) -> Iterator[None]:
    """What happens inside is done by this browser."""
    token = ACTOR.set(who)
    try:
        yield
    finally:
        ACTOR.reset(token)
