"""What the routers depend on: the open workspace and its analyst."""

from __future__ import annotations

from typing import Annotated

from fastapi import Depends, Path, Request

from cata.services.analyst import Analyst
from cata.services.workspace import Workspace


def _workspace(request: Request) -> Workspace:
    workspace: Workspace = request.app.state.workspace
    return workspace


def _analyst(request: Request) -> Analyst:
    analyst: Analyst = request.app.state.analyst
    return analyst


WS = Annotated[Workspace, Depends(_workspace)]
Work = Annotated[Analyst, Depends(_analyst)]
# SQLite integers are 64 bits; a larger id cannot exist and must not reach the database.
Id = Annotated[int, Path(ge=1, le=2**53)]
