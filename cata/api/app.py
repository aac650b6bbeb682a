"""The application: routers, guards, errors, and the life of its background work."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator, Callable
from contextlib import asynccontextmanager, suppress

from fastapi import FastAPI
from fastapi.routing import APIRoute

from cata import __version__
from cata.api import frontend, problems
from cata.api.browser import Browser
from cata.api.guard import Guard
from cata.api.routers import (
    beds,
    briefs,
    bundles,
    capture,
    cards,
    choice,
    flights,
    gear,
    meta,
    out,
    pickups,
    plan,
    probes,
    running,
    takes,
    tastings,
    together,
    undo,
    words,
    workshop,
)
from cata.services.background import runner_for
from cata.services.workspace import Workspace

MOST_JSON, MOST_SHELF_FILE = 2 << 20, 64 << 20
ROUTERS = (
    gear, briefs, choice, cards, bundles, flights, plan, takes, capture, probes, pickups, tastings, words, together,
    beds, workshop, out, meta, undo, running,
)  # fmt: skip


def _largest(app: FastAPI) -> Callable[[str], int | None]:
    """How large a body may be, by address: recordings are bounded where they are received."""
    routes = [route for module in ROUTERS for route in module.router.routes]
    streams = [route.path_regex for route in routes if isinstance(route, APIRoute) and route.openapi_extra]
    shelf_file = app.url_path_for("import_gear")

    def most(path: str) -> int | None:
        if path == shelf_file:
            return MOST_SHELF_FILE
        return None if any(pattern.match(path) for pattern in streams) else MOST_JSON

    return most


def create_app(workspace: Workspace) -> FastAPI:
    """The application on an open workspace; its workers start and stop with it."""
    runner = runner_for(workspace)

    @asynccontextmanager
    async def life(app: FastAPI) -> AsyncIterator[None]:
        runner.start()
        try:
            # Cancelled where the program is ended in haste: what is closed then is closed all the same.
            with suppress(asyncio.CancelledError):
                yield
        finally:
            app.state.stopping.set()
            runner.stop()
            workspace.close()

    app = FastAPI(title="Cata", version=__version__, lifespan=life, docs_url=None, redoc_url=None)
    app.state.workspace = workspace
    app.state.runner = runner
    app.state.stopping = workspace.stopping
    problems.install(app)
    for module in ROUTERS:
        app.include_router(module.router)
    frontend.install(app)
    app.add_middleware(Browser)
    app.add_middleware(Guard, most=_largest(app), library=workspace.library)
    return app
