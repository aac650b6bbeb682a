"""The API: guards, errors, uploads of every bad kind, and whatever a generator can think of."""

from __future__ import annotations

import errno
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from cata.api.app import create_app
from cata.api.guard import refusal
from cata.core.measure.registry import ALL_READINGS
from cata.services.workspace import open_workspace
from cata.store.vault import Vault
from tests.conftest import noise_file, write_take


def flight(client: TestClient) -> dict[str, Any]:
    return dict(client.post("/api/flights", json={"name": "Which drive?"}).json())


def upload(client: TestClient, flight_id: int, name: str, body: bytes) -> Any:
    return client.post(f"/api/flights/{flight_id}/takes", params={"name": name}, content=body)


@pytest.mark.parametrize("host", ["evil.example", "127.0.0.1.evil.example", "", "[::2]:80"])
def test_a_foreign_host_name_is_refused(client: TestClient, host: str) -> None:
    answer = client.get("/api/gear", headers={"host": host})
    assert answer.status_code == 403
    assert answer.headers["content-type"] == "application/problem+json"


@pytest.mark.parametrize(
    "headers", [{"origin": "http://evil.example"}, {"origin": "null"}, {"sec-fetch-site": "cross-site"}]
)
def test_writes_from_elsewhere_are_refused(client: TestClient, headers: dict[str, str]) -> None:
    assert client.post("/api/flights", json={"name": "x"}, headers=headers).status_code == 403
    assert client.get("/api/flights").json() == []


def test_the_page_of_this_server_may_write() -> None:
    ours = {"host": "localhost:8765", "origin": "http://localhost:8765", "sec-fetch-site": "same-origin"}
    assert refusal("POST", "http", ours) is None
    assert refusal("GET", "http", {"host": "[::1]:8765"}) is None


def test_every_answer_carries_a_strict_policy(client: TestClient) -> None:
    policy = client.get("/api/gear").headers["content-security-policy"]
    assert "default-src 'none'" in policy
    assert "unsafe-inline" not in policy.replace("style-src-attr 'unsafe-inline'", "")


def test_errors_are_problem_documents_with_a_sentence(client: TestClient) -> None:
    missing = client.get("/api/flights/999")
    assert missing.status_code == 404
    assert missing.json()["code"] == "not_found"
    invalid = client.post("/api/flights", json={"name": ""})
    assert invalid.status_code == 422
    assert "name" in invalid.json()["detail"]
    assert client.get("/api/nothing").json()["status"] == 404


def test_a_good_recording_is_acknowledged_and_placed_by_its_name(client: TestClient, tmp_path: Path) -> None:
    ident = flight(client)["id"]
    for name in ("Alder - riff", "Birk - riff"):
        answer = upload(client, ident, f"{name}.wav", write_take(tmp_path / "a.wav").read_bytes())
        assert answer.status_code == 201
    view = client.post(f"/api/flights/{ident}/takes/arrange").json()["flight"]
    assert [c["name"] for c in view["contenders"]] == ["Alder", "Birk"]
    assert all(take["test_id"] for take in view["takes"])


def test_bad_files_are_refused_one_by_one_and_the_rest_goes_on(client: TestClient, tmp_path: Path) -> None:
    ident = flight(client)["id"]
    good = write_take(tmp_path / "a.wav").read_bytes()
    bad = {
        "empty.wav": b"",
        "text.wav": b"hello " * 500,
        "cut.wav": good[: len(good) // 2],
        "half.flac": b"fLaC" + good,
    }
    for name, body in bad.items():
        answer = upload(client, ident, name, body)
        assert answer.status_code == 422, name
        assert answer.json()["detail"]
        assert upload(client, ident, f"good {name}", good).status_code == 201
    assert len(client.get(f"/api/flights/{ident}").json()["takes"]) == len(bad)


@pytest.mark.grid(5)
@pytest.mark.parametrize(
    "name",
    ["../../etc/passwd.wav", "a\\b\\c.wav", "<img src=x onerror=alert(1)>.wav", "' OR 1=1 --.wav", 'quo"te.wav',
     "Gitarre übersteuert ♯ 音.wav", "\x00\x07.wav", "." * 300, "-rf", "con.wav"],
)  # fmt: skip
def test_no_name_becomes_a_path_or_breaks_anything(client: TestClient, tmp_path: Path, name: str) -> None:
    ident = flight(client)["id"]
    answer = upload(client, ident, name, noise_file(tmp_path / "n.wav").read_bytes())
    assert answer.status_code == 201
    shown = client.get(f"/api/flights/{ident}").json()["takes"][0]["filename"]
    assert "\x00" not in shown
    assert client.post(f"/api/flights/{ident}/takes/arrange").status_code == 200
    assert not (tmp_path.parent / "etc").exists()


@pytest.mark.certify
def test_two_hundred_files_at_once(client: TestClient, tmp_path: Path) -> None:
    ident = flight(client)["id"]
    body = noise_file(tmp_path / "n.wav", 0.5).read_bytes()
    assert {upload(client, ident, f"c{n // 20} - t{n % 20}.wav", body).status_code for n in range(200)} == {201}
    view = client.post(f"/api/flights/{ident}/takes/arrange").json()["flight"]
    assert sum(take["test_id"] is not None for take in view["takes"]) == 200


def test_a_full_disk_is_told_and_loses_nothing(
    client: TestClient, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    ident = flight(client)["id"]
    body = write_take(tmp_path / "a.wav").read_bytes()
    assert upload(client, ident, "a.wav", body).status_code == 201

    def full(*_: object) -> None:
        raise OSError(errno.ENOSPC, "No space left on device")

    with monkeypatch.context() as patch:
        patch.setattr(Vault, "keep", full)
        answer = upload(client, ident, "b.wav", body)
    assert answer.status_code == 507
    assert answer.json()["code"] == "disk_full"
    assert upload(client, ident, "c.wav", body).status_code == 201
    assert len(client.get(f"/api/flights/{ident}").json()["takes"]) == 2


def test_an_upload_over_the_limit_is_refused(tmp_path: Path) -> None:
    workspace = open_workspace(tmp_path / "data", workers=1)
    workspace.vault.max_bytes = 10_000
    with TestClient(create_app(workspace), base_url="http://127.0.0.1:8765") as client:
        answer = upload(client, flight(client)["id"], "a.wav", write_take(tmp_path / "a.wav").read_bytes())
    assert answer.status_code == 422
    assert answer.json()["code"] == "too_large"


def test_the_table_is_edited_in_place_and_undone(client: TestClient) -> None:
    ident = flight(client)["id"]
    for name in ("Alder", "Birk", "Corm"):
        client.post(f"/api/flights/{ident}/contenders", json={"name": name})
    view = client.post(f"/api/flights/{ident}/tests", json={"name": "Riff"}).json()
    third = view["contenders"][2]["id"]
    moved = client.post(f"/api/contenders/{third}/move", json={"to": 0}).json()
    assert [c["name"] for c in moved["contenders"]] == ["Corm", "Alder", "Birk"]
    priced = client.patch(f"/api/contenders/{third}", json={"price_minor": 14900, "name": "Cormorant"}).json()
    assert priced["contenders"][0]["price_text"] == "149.00 EUR"
    assert client.post("/api/undo").json()["redo"] == "Change contender: Cormorant"
    assert client.get(f"/api/flights/{ident}").json()["contenders"][0]["name"] == "Corm"
    removed = client.delete(f"/api/contenders/{third}").json()
    assert [c["position"] for c in removed["contenders"]] == [0, 1]


def test_a_knob_is_set_as_people_write_it(client: TestClient) -> None:
    control = {"key": "gain", "name": "Gain", "scale": "clock", "default": 0.5}
    item = client.post("/api/gear", json={"kind": "pedal", "name": "Aldermoor", "controls": [control]}).json()
    ident = flight(client)["id"]
    view = client.post(f"/api/flights/{ident}/contenders", json={"gear_id": item["id"]}).json()
    contender = view["contenders"][0]
    assert contender["settings"][0]["text"] == "12:00"
    url = f"/api/contenders/{contender['id']}"
    assert (
        client.patch(url, json={"settings": {"gain": "2:30"}}).json()["contenders"][0]["settings"][0]["text"] == "2:30"
    )
    assert client.patch(url, json={"settings": {"gain": "13"}}).json()["code"] == "bad_position"
    client.post(f"/api/gear/{item['id']}/prices", json={"kind": "used", "price_minor": 9900})
    priced = client.get(f"/api/flights/{ident}").json()["contenders"][0]
    assert (priced["price_minor"], priced["own_price"]) == (9900, False)
    assert client.delete(f"/api/gear/{item['id']}").status_code == 204
    assert client.get(f"/api/flights/{ident}").json()["contenders"][0]["gear_id"] is None


def test_briefs_are_written_changed_and_undone(client: TestClient) -> None:
    brief = client.post("/api/briefs", json={"name": "Ferry"}).json()
    assert brief["need"]["sounds"] == []
    need = brief["need"] | {"budget_minor": 100000, "reserve_minor": 5000}
    assert client.patch(f"/api/briefs/{brief['id']}", json={"need": need}).json()["spendable_text"] == "950.00 EUR"
    client.post("/api/undo")
    assert client.get(f"/api/briefs/{brief['id']}").json()["need"]["budget_minor"] is None


def test_the_program_describes_what_it_measures(client: TestClient) -> None:
    meta = client.get("/api/meta").json()
    assert [r["key"] for r in meta["readings"]] == [r.key for r in ALL_READINGS]
    assert all(r["about"] and r["needs"] and r["source"] for r in meta["readings"])


def test_the_api_page_and_the_front_end_come_from_this_machine(client: TestClient) -> None:
    page = client.get("/docs").text
    assert "http" not in page.replace("http-equiv", "")
    assert client.get("/api-docs/swagger-ui-bundle.js").status_code == 200
    index = client.get("/flights/3/plan")
    assert "https://" not in index.text
    assert "'sha256-" in index.headers["content-security-policy"]
    assert client.get("/..%2f..%2fpyproject.toml").text == index.text


def test_the_web_process_starts_without_what_is_slow_to_load() -> None:
    code = (
        "import sys; import cata.api.app; "
        "sys.exit(any(name in sys.modules for name in ('scipy.signal', 'scipy.optimize', 'scipy.sparse', 'alembic')))"
    )
    assert subprocess.run([sys.executable, "-c", code], check=False).returncode == 0
