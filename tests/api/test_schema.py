"""The API as it describes itself: whatever a generator can think of is answered as described."""

from __future__ import annotations

import tempfile
from pathlib import Path
from typing import Any

import pytest
import schemathesis
from hypothesis import HealthCheck, settings

from cata.api.app import create_app
from cata.services.workspace import open_workspace

HOST = {"host": "127.0.0.1"}
_folder = tempfile.TemporaryDirectory()
_app = create_app(open_workspace(Path(_folder.name), workers=1))


async def without_workers(scope: Any, receive: Any, send: Any) -> None:
    """The application without its background life, which every single call would start and stop."""
    if scope["type"] != "lifespan":
        await _app(scope, receive, send)
        return
    for moment in ("startup", "shutdown"):
        await receive()
        await send({"type": f"lifespan.{moment}.complete"})


schema = (
    schemathesis.openapi.from_asgi("/openapi.json", without_workers, headers=HOST)
    # The stream of events has no end, and uploads need a worker for each try; both have tests of their own.
    .exclude(path="/api/events")
    .exclude(path="/api/flights/{flight_id}/takes")
    .exclude(path="/api/beds", method="POST")
)


PATIENCE_S = 120
"""The example takes a while where the machine is busy."""
ANY = {"deadline": None, "suppress_health_check": list(HealthCheck)}


@schema.include(method="GET").parametrize()
@settings(max_examples=2, **ANY)
def test_whatever_is_asked_is_answered_as_described(case: Any) -> None:
    answered(case)


@pytest.mark.certify
@schema.parametrize()
@settings(max_examples=31, **ANY)
def test_five_thousand_requests_are_answered_as_described(case: Any) -> None:
    answered(case)


def answered(case: Any) -> None:
    response = case.call(headers=HOST, timeout=PATIENCE_S)
    assert response.status_code < 500, response.text
    case.validate_response(
        response,
        checks=[schemathesis.checks.not_a_server_error, schemathesis.checks.response_schema_conformance],
    )
