"""What the routers depend on: the open workspace, and what does its background work."""

from __future__ import annotations

from typing import Annotated

from fastapi import Depends, Path, Request

from cata.services.workspace import Workspace
from cata.tasks.runner import Runner


def _workspace(request: Request) -> Workspace:
    workspace: Workspace = request.app.state.workspace
    return workspace


def _runner(request: Request) -> Runner:
    runner: Runner = request.app.state.runner
    return runner


WS = Annotated[Workspace, Depends(_workspace)]
Work = Annotated[Runner, Depends(_runner)]
# SQLite integers are 64 bits; a larger id cannot exist and must not reach the database.
Id = Annotated[int, Path(ge=1, le=2**53)]
