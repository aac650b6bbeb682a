"""Which browser asks: it names itself in a header, so that its undo takes back its own actions.

What a page links to or plays comes without that header: then the cookie of the same name says it.
"""

from __future__ import annotations

import re

from starlette.types import ASGIApp, Receive, Scope, Send

from cata.store.actor import acting_as

HEADER = b"x-cata-browser"
COOKIE = re.compile(rb"(?:^|;\s*)cata-browser=([0-9a-zA-Z-]{8,64})(?:;|$)")
NAME = re.compile(rb"[0-9a-zA-Z-]{8,64}")


class Browser:
    """ASGI middleware that remembers who is acting while a request is answered."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Handle one request; what is no such name is nobody."""
        headers = dict(scope.get("headers", ()))
        given = headers.get(HEADER) or (COOKIE.search(headers.get(b"cookie", b"")) or (b"", b""))[1]
        with acting_as(given.decode() if NAME.fullmatch(given) else ""):
            await self.app(scope, receive, send)
