"""What may talk to Cata: this machine's own pages, by this machine's own name.

Foreign Host headers are refused (a page elsewhere could otherwise reach a loopback server by a name of its
own), and so are writes that come from another origin.
"""

from __future__ import annotations

import re
from collections.abc import Callable

from starlette.exceptions import HTTPException
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from cata.api.problems import problem

LOCAL_HOST = re.compile(r"(?:127\.0\.0\.1|localhost|\[::1\])(?::\d{1,5})?")
LIBRARY_HEADER = "x-cata-library"
OTHER_LIBRARY = "Another library is open here by now. Load this page anew; nothing was changed."
TOO_LARGE = "The request is larger than {} MB; nothing was changed."
SAFE_METHODS = ("GET", "HEAD", "OPTIONS")


def policy(script_hashes: tuple[str, ...] = ()) -> str:
    """The content security policy; ``script_hashes`` are those of the built page's own inline scripts."""
    return "; ".join(
        (
            "default-src 'none'",
            " ".join(("script-src 'self'", *(f"'sha256-{one}'" for one in script_hashes))),
            "style-src 'self'",
            # Positions of handles and lanes are set as style attributes.
            "style-src-attr 'unsafe-inline'",
            "img-src 'self' data:",
            "font-src 'self'",
            "connect-src 'self'",
            "media-src 'self' blob:",
            "worker-src 'self' blob:",
            "manifest-src 'self'",
            "base-uri 'none'",
            "form-action 'self'",
            "frame-ancestors 'none'",
        )
    )


HEADERS = (
    (b"content-security-policy", policy().encode()),
    (b"x-content-type-options", b"nosniff"),
    (b"referrer-policy", b"no-referrer"),
    (b"cross-origin-opener-policy", b"same-origin"),
    (b"cross-origin-resource-policy", b"same-origin"),
)


def refusal(method: str, scheme: str, headers: dict[str, str]) -> str | None:
    """Why a request is refused, or None."""
    host = headers.get("host", "")
    if not LOCAL_HOST.fullmatch(host):
        return "Cata answers only under the name of this machine (127.0.0.1 or localhost)."
    if method in SAFE_METHODS:
        return None
    origin = headers.get("origin")
    if origin is not None and origin != f"{scheme}://{host}":
        return "A page of another origin may not change anything in Cata."
    if headers.get("sec-fetch-site", "same-origin") not in ("same-origin", "none"):
        return "A page of another site may not change anything in Cata."
    return None


class Guard:
    """ASGI middleware that refuses foreign requests and sets the security headers."""

    def __init__(self, app: ASGIApp, most: Callable[[str], int | None], library: str) -> None:
        """``most`` says how many bytes a body of an address may have; None where its receiver bounds it itself.

        A page that was made of another ``library`` is refused: its numbers name other things here.
        """
        self.app = app
        self.most = most
        self.library = library

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Handle one request."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        headers = {name.decode("latin-1").lower(): value.decode("latin-1") for name, value in scope["headers"]}
        reason = refusal(scope["method"], scope["scheme"], headers)

        async def secured(message: Message) -> None:
            if message["type"] == "http.response.start":
                present = {name.lower() for name, _ in message["headers"]}
                message["headers"] = [*message["headers"], *(pair for pair in HEADERS if pair[0] not in present)]
            await send(message)

        if reason is not None:
            await problem(403, reason)(scope, receive, secured)
            return
        if headers.get(LIBRARY_HEADER, self.library) != self.library and scope["path"] != "/api/meta":
            await problem(409, OTHER_LIBRARY, code="other_library", numbers={})(scope, receive, secured)
            return
        most = self.most(scope["path"])
        if most is not None and headers.get("content-length", "0").isdecimal():
            if int(headers.get("content-length", "0")) > most:
                await problem(413, TOO_LARGE.format(most >> 20))(scope, receive, secured)
                return
            receive = _bounded(receive, most)
        await self.app(scope, receive, secured)


def _bounded(receive: Receive, most: int) -> Receive:
    """A body that ends in an error beyond so many bytes, whatever its length was said to be."""
    taken = 0

    async def bounded() -> Message:
        nonlocal taken
        message = await receive()
        taken += len(message.get("body", b""))
        if taken > most:
            raise HTTPException(413, TOO_LARGE.format(most >> 20))
        return message

    return bounded
