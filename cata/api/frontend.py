"""The built front end and the API's own documentation page, all from this machine."""

from __future__ import annotations

import base64
import hashlib
import re
from pathlib import Path

from fastapi import FastAPI
from fastapi.responses import FileResponse, HTMLResponse, Response
from starlette.exceptions import HTTPException
from starlette.staticfiles import StaticFiles

from cata.api.guard import policy

STATIC = Path(__file__).parent.parent / "static"
DOCS_PAGE = """<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8"><title>Cata: API</title>
<link rel="stylesheet" href="/api-docs/swagger-ui.css">
</head>
<body>
<div id="docs"></div>
<script src="/api-docs/swagger-ui-bundle.js"></script>
<script src="/api-docs/start.js"></script>
</body>
</html>
"""
NOT_BUILT = "The front end is not built. Run `make setup`, or install Cata from its wheel."


def install(app: FastAPI, static: Path = STATIC) -> None:
    """Serve the front end: files as they are, and the application for every other page address."""

    page_policy = policy(inline_script_hashes(static / "index.html"))

    @app.get("/docs", include_in_schema=False)
    def docs() -> HTMLResponse:
        return HTMLResponse(DOCS_PAGE)

    if (static / "_app").is_dir():
        app.mount("/_app", _Immutable(directory=static / "_app"))

    @app.get("/{path:path}", include_in_schema=False)
    def page(path: str) -> Response:
        if path.startswith("api/"):
            raise HTTPException(404, "There is no such address in the API.")
        if path and (target := _inside(static, path)) is not None:
            return FileResponse(target)
        index = static / "index.html"
        if not index.is_file():
            return HTMLResponse(NOT_BUILT, status_code=503)
        return FileResponse(index, headers={"cache-control": "no-cache", "content-security-policy": page_policy})


def _inside(static: Path, path: str) -> Path | None:
    """The built file of an address; None where there is none (or no file could have such a name)."""
    try:
        target = (static / path).resolve()
        return target if target.is_relative_to(static.resolve()) and target.is_file() else None
    except (OSError, ValueError):
        return None


def inline_script_hashes(page: Path) -> tuple[str, ...]:
    """SHA-256 (base64) of every inline script of the built page: the loader that the build puts there."""
    if not page.is_file():
        return ()
    scripts = re.findall(r"<script>(.*?)</script>", page.read_text(encoding="utf-8"), re.DOTALL)
    return tuple(base64.b64encode(hashlib.sha256(one.encode()).digest()).decode() for one in scripts)


class _Immutable(StaticFiles):
    """Built files whose names carry a hash of their content."""

    def file_response(self, *args: object, **kwargs: object) -> Response:
        response = super().file_response(*args, **kwargs)  # type: ignore[arg-type]
        response.headers["cache-control"] = "public, max-age=31536000, immutable"
        return response
