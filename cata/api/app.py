"""The application: routers, guards, errors, and the life of its background work."""

from __future__ import annotations

import threading
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager

from fastapi import FastAPI

from cata import __version__
from cata.api import frontend, problems
from cata.api.guard import Guard
from cata.api.routers import briefs, capture, flights, gear, meta, pickups, plan, probes, takes
from cata.services.background import runner_for
from cata.services.workspace import Workspace


def create_app(workspace: Workspace) -> FastAPI:
    """The application on an open workspace; its workers start and stop with it."""
    runner = runner_for(workspace)

    @asynccontextmanager
    async def life(app: FastAPI) -> AsyncIterator[None]:
        runner.start()
        yield
        app.state.stopping.set()
        runner.stop()
        workspace.close()

    app = FastAPI(title="Cata", version=__version__, lifespan=life, docs_url=None, redoc_url=None)
    app.state.workspace = workspace
    app.state.runner = runner
    app.state.stopping = threading.Event()
    problems.install(app)
    for module in (gear, briefs, flights, plan, takes, capture, probes, pickups, meta):
        app.include_router(module.router)
    frontend.install(app)
    app.add_middleware(Guard)
    return app
