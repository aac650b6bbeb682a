"""Long recordings over HTTP, waited for."""

from __future__ import annotations

from typing import Any

from fastapi.testclient import TestClient

from tests.conftest import until


def found(client: TestClient, recording: int) -> dict[str, Any]:
    """The recording when its takes were looked for."""
    return until(lambda: client.get(f"/api/recordings/{recording}").json(), lambda one: one["state"] != "looking")


def make_takes(client: TestClient, recording: int, count: int) -> dict[str, Any]:
    """The recording when so many takes were made of it."""
    found(client, recording)
    assert client.post(f"/api/recordings/{recording}/takes").status_code == 202
    return until(lambda: client.get(f"/api/recordings/{recording}").json(), lambda one: one["made"] == count)
