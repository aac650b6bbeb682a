"""Hostile requests and a failing disk: each gets a plain answer, and nothing is half done."""

from __future__ import annotations

import sqlite3
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from cata.api.app import MOST_JSON
from cata.api.guard import refusal
from cata.services.workspace import Workspace

HALF = chr(0xD800)
LOCAL = {"host": "127.0.0.1:8765"}


@pytest.mark.parametrize(
    ("scheme", "headers", "fine"),
    [
        ("http", LOCAL, True),
        ("http", LOCAL | {"origin": "http://127.0.0.1:8765"}, True),
        ("http", {"host": "localhost"}, True),
        ("http", {"host": "[::1]:8765"}, True),
        ("http", LOCAL | {"origin": "https://127.0.0.1:8765"}, False),
        ("http", LOCAL | {"origin": "http://127.0.0.1:9999"}, False),
        ("http", LOCAL | {"origin": "http://localhost:8765"}, False),
        ("http", LOCAL | {"origin": "null"}, False),
        ("http", LOCAL | {"sec-fetch-site": "cross-site"}, False),
        ("http", {"host": "127.0.0.1:8765.example"}, False),
        ("http", {"host": "127.0.0.1.example:8765"}, False),
        ("http", {"host": "localhost:80:80"}, False),
        ("http", {"host": "127.0.0.1@example"}, False),
        ("http", {"host": ""}, False),
        ("http", {}, False),
    ],
)
def test_only_this_machines_own_pages_may_write(scheme: str, headers: dict[str, str], fine: bool) -> None:
    assert (refusal("POST", scheme, headers) is None) == fine


@pytest.mark.parametrize(
    ("path", "body"),
    [
        ("/api/gear", {"kind": "pedal", "name": HALF}),
        ("/api/gear", {"kind": "pedal", "name": "A", "specs": {HALF: "x"}}),
        ("/api/gear", {"kind": "pedal", "name": "A", "specs": {"x": f"a{HALF}"}}),
        ("/api/flights", {"name": f"F {HALF}"}),
        ("/api/briefs", {"name": HALF}),
    ],
)
def test_half_a_character_never_reaches_the_shelf(client: TestClient, path: str, body: dict[str, Any]) -> None:
    import json

    answer = client.post(path, content=json.dumps(body), headers={"content-type": "application/json"})
    assert answer.status_code == 422
    assert client.get(path).json() == []


def test_a_body_that_is_too_large_is_turned_away_with_or_without_its_length(client: TestClient) -> None:
    body = b'{"name": "' + b"a" * MOST_JSON + b'"}'
    kind = {"content-type": "application/json"}
    assert client.post("/api/flights", content=body, headers=kind).status_code == 413
    parts = (body[at : at + 65536] for at in range(0, len(body), 65536))
    assert client.post("/api/flights", content=parts, headers=kind).status_code == 413
    assert client.get("/api/flights").json() == []


@pytest.mark.parametrize("path", ["/%00", "/a%00b", "/" + "a" * 5000, "/" + "a/" * 2000, "/%ff%fe", "/..%2f..%2fetc"])
def test_odd_addresses_show_the_application_or_nothing(client: TestClient, path: str) -> None:
    assert client.get(path).status_code in (200, 404, 503)
    assert client.get(f"/api{path}").status_code == 404


def limited(client: TestClient, pragma: str) -> None:
    """Every new connection of the database has a limit; the pool's are thrown away."""
    from sqlalchemy import event

    ws: Workspace = client.app.state.workspace  # type: ignore[attr-defined]
    event.listen(ws.engine, "connect", lambda connection, _: connection.execute(pragma))
    ws.engine.dispose()


def test_a_full_disk_on_an_edit_is_told_and_what_was_there_stays(client: TestClient, tmp_path: Path) -> None:
    made = client.post("/api/flights", json={"name": "F"}).json()
    with sqlite3.connect(tmp_path / "data/cata.db") as database:
        database.execute("VACUUM")
        pages = database.execute("PRAGMA page_count").fetchone()[0]
    database.close()
    limited(client, f"PRAGMA max_page_count = {pages}")
    answers = [client.patch(f"/api/flights/{made['id']}", json={"held": "x" * 3900}) for _ in range(30)]
    full = answers[-1]
    assert (full.status_code, full.json()["code"]) == (507, "disk_full")
    assert client.get(f"/api/flights/{made['id']}").json()["name"] == "F"


def test_a_folder_that_is_read_only_is_told(client: TestClient) -> None:
    limited(client, "PRAGMA query_only = ON")
    answer = client.post("/api/flights", json={"name": "F"})
    assert (answer.status_code, answer.json()["code"]) == (507, "read_only")
