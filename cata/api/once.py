"""Files that are made for one answer and gone after it, however it ends."""

from __future__ import annotations

from pathlib import Path

from fastapi.responses import FileResponse
from starlette.types import Receive, Scope, Send


class FileOnce(FileResponse):
    """A file that is removed when it was sent, refused (a range that it has not), or nobody took it."""

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Send it."""
        try:
            await super().__call__(scope, receive, send)
        finally:
            Path(self.path).unlink(missing_ok=True)
