"""Every noun of the API, read and written, and what belongs together stays together."""

from __future__ import annotations

import csv
import io
import shutil
import time
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from cata.api.app import create_app
from cata.services.workspace import open_workspace
from cata.tasks.runner import Runner
from tests.conftest import write_take

OURS = "http://127.0.0.1:8765"


def post(client: TestClient, path: str, body: dict[str, Any] | None = None, status: int = 201) -> Any:
    answer = client.post(path, json=body)
    assert answer.status_code == status, answer.text
    return answer.json() if answer.content else None


@pytest.fixture(scope="module")
def matched(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Data with a flight of two contenders in two tests, one of them in another tuning, read and matched."""
    folder = tmp_path_factory.mktemp("matched")
    with TestClient(create_app(open_workspace(folder / "data", workers=2)), base_url=OURS) as client:
        fill(client, folder)
    return folder / "data"


@pytest.fixture
def data_dir(request: pytest.FixtureRequest, tmp_path: Path) -> Path:
    source = "matched" if "filled" in request.fixturenames else "empty"
    return Path(shutil.copytree(request.getfixturevalue(source), tmp_path / "data"))


@pytest.fixture
def filled(client: TestClient) -> dict[str, Any]:
    """The flight of ``matched``."""
    return dict(client.get("/api/flights/1").json())


def keep_all(client: TestClient, flight: dict[str, Any]) -> None:
    """Keep what is to be recorded again: until then it counts nowhere."""
    for one in client.get(f"/api/flights/{flight['id']}/match").json()["findings"]:
        if one["severity"] == "fault":
            post(client, f"/api/takes/{one['take_id']}/accept", {"rule": one["rule"]}, status=204)


def fill(client: TestClient, folder: Path) -> None:
    flight = post(client, "/api/flights", {"name": "F", "link": "pedal"})
    for name, level, hz in (("Alder", 1.0, 196.0), ("Birk", 0.4, 196.0 * 2 ** (-30 / 1200))):
        for test, factor in (("riff", 1.0), ("high", 2.0)):
            body = write_take(folder / "a.wav", hz=hz * factor, level=level).read_bytes()
            path = f"/api/flights/{flight['id']}/takes"
            assert client.post(path, params={"name": f"{name} - {test}.wav"}, content=body).status_code == 201
    post(client, f"/api/flights/{flight['id']}/takes/arrange", status=200)
    runner: Runner = client.app.state.runner  # type: ignore[attr-defined]
    for _ in range(600):
        view = client.get(f"/api/flights/{flight['id']}").json()
        if not view["progress"]["auditing"] and view["progress"]["done"] == view["progress"]["total"]:
            break
        runner.wake()
        time.sleep(0.05)


def test_a_filled_flight_shows_its_next_thing(client: TestClient, filled: dict[str, Any]) -> None:
    assert [step["state"] for step in filled["steps"]][:3] == ["done", "done", "open"]
    summary = client.get("/api/flights").json()[0]
    assert (summary["takes"], summary["cells"], summary["faults"]) == (4, 4, 2)
    assert summary["next_text"] == filled["next_text"]


def test_the_match_names_the_lower_tuning_with_a_picture(client: TestClient, filled: dict[str, Any]) -> None:
    match = client.get(f"/api/flights/{filled['id']}/match").json()
    found = [f for f in match["findings"] if f["rule"] == "other_tuning"]
    assert len(found) == 2
    assert all(f["picture"]["marks"][0][0] == pytest.approx(-30, abs=2) for f in found)
    assert len(match["redo"]) == 2
    assert len(match["alignments"]) == 4
    assert sum(a["take_id"] == a["reference_id"] for a in match["alignments"]) == 2
    first = found[0]
    post(client, f"/api/takes/{first['take_id']}/accept", {"rule": first["rule"], "accepted": True}, status=204)
    again = client.get(f"/api/flights/{filled['id']}/match").json()
    assert sum(f["accepted"] for f in again["findings"]) == 1
    assert again["findings"][-1]["accepted"]
    assert all(f["sure"].startswith({"fault": "Sure", "check": "Likely"}[f["severity"]]) for f in found)


def test_what_a_gear_does_is_remembered_for_all_its_takes(client: TestClient, filled: dict[str, Any]) -> None:
    def tuned() -> list[dict[str, Any]]:
        match = client.get(f"/api/flights/{filled['id']}/match").json()
        return [f for f in match["findings"] if f["rule"] == "other_tuning"]

    address = f"/api/takes/{tuned()[0]['take_id']}/accept"
    always = {"rule": "other_tuning", "accepted": True, "always": True}
    post(client, address, always, status=204)
    assert [f["accepted"] and f["always"] for f in tuned()] == [True, True]
    assert client.get(f"/api/flights/{filled['id']}/match").json()["redo"] == []
    post(client, "/api/undo", {}, status=200)
    assert not any(f["accepted"] for f in tuned())
    post(client, address, always, status=204)
    post(client, f"/api/takes/{tuned()[1]['take_id']}/accept", {"rule": "other_tuning", "accepted": False}, status=204)
    assert not any(f["accepted"] for f in tuned())
    assert client.post(address, json=always | {"rule": "clipping"}).json()["code"] == "not_of_gear"


def test_the_tray_can_be_heard(client: TestClient, filled: dict[str, Any]) -> None:
    tray = client.get(f"/api/flights/{filled['id']}/tray/{filled['tests'][0]['id']}").json()
    assert tray["school"] == "equal"
    assert [take["letter"] for take in tray["takes"]] == ["A", "B"]
    audio = client.get(tray["takes"][0]["url"])
    assert audio.headers["content-type"] == "audio/flac"
    assert "immutable" in audio.headers["cache-control"]
    assert audio.content[:4] == b"fLaC"
    part = client.get(tray["takes"][0]["url"], headers={"range": "bytes=0-3"})
    assert part.status_code == 206
    other = post(client, "/api/flights", {"name": "other"})
    assert client.get(f"/api/flights/{other['id']}/tray/{filled['tests'][0]['id']}").status_code == 404


def test_readings_come_with_and_without_a_reference(client: TestClient, filled: dict[str, Any]) -> None:
    base = f"/api/flights/{filled['id']}/readings/{filled['tests'][0]['id']}"
    plain = client.get(base).json()
    assert plain["against"] is None
    assert len(plain["hz"]) == len(plain["spectra"][0]["levels_db"])
    against = client.get(base, params={"against": filled["contenders"][0]["id"]}).json()
    assert {v for v in against["spectra"][0]["levels_db"] if v is not None} == {0.0}
    assert against["rows"][0]["cells"][0]["trust"] == "reference"
    assert client.get(base, params={"against": 0}).status_code == 422


def test_a_choice_can_be_tried_without_keeping_it(client: TestClient, filled: dict[str, Any]) -> None:
    keep_all(client, filled)
    brief = post(client, "/api/briefs", {"name": "B"})
    for contender, price in zip(filled["contenders"], (40000, 10000), strict=True):
        client.patch(f"/api/contenders/{contender['id']}", json={"price_minor": price})
    path = f"/api/choice?flight={filled['id']}"
    tried = post(client, path, brief["need"] | {"budget_minor": 20000}, status=200)
    assert tried["ranked"][0]["name"] == "Birk"
    assert tried["ranked"][1]["over_minor"] == 20000
    assert client.get(path).json()["ranked"][0]["over_minor"] == 0
    assert post(client, path, {"fit_weight": 99}, status=422)["detail"].startswith("fit_weight")


def test_takes_are_taken_out_placed_and_removed(client: TestClient, filled: dict[str, Any]) -> None:
    take = filled["takes"][0]
    cell = {"contender_id": take["contender_id"], "test_id": take["test_id"]}
    out = post(client, f"/api/takes/{take['id']}/place", {"contender_id": None, "test_id": None}, status=200)
    loose = next(t for t in out["takes"] if t["id"] == take["id"])
    assert (loose["aside"], loose["proposal"]) == (True, None)
    back = post(client, f"/api/takes/{take['id']}/bring-back", {}, status=200)
    proposal = next(t for t in back["takes"] if t["id"] == take["id"])["proposal"]
    assert cell.items() <= proposal.items()
    half = post(client, f"/api/takes/{take['id']}/place", {"contender_id": cell["contender_id"]}, status=422)
    assert half["code"] == "half_a_cell"
    back = post(client, f"/api/takes/{take['id']}/place", cell, status=200)
    assert all(t["test_id"] for t in back["takes"])
    assert len(client.delete(f"/api/takes/{take['id']}").json()["takes"]) == 3
    assert client.get(f"/api/takes/{take['id']}/audio").status_code == 404
    post(client, "/api/undo", status=200)
    assert len(client.get(f"/api/flights/{filled['id']}").json()["takes"]) == 4


def test_a_declared_lead_in_makes_a_take_due_again(client: TestClient, filled: dict[str, Any]) -> None:
    runner: Runner = client.app.state.runner  # type: ignore[attr-defined]
    runner.pause(filled["id"])
    take = filled["takes"][0]["id"]
    post(client, f"/api/takes/{take}/lead-in", {"lead_in_s": 0.3}, status=204)
    view = client.get(f"/api/flights/{filled['id']}").json()
    assert next(t for t in view["takes"] if t["id"] == take)["state"] == "waiting"
    assert view["progress"]["paused"]
    resumed = post(client, f"/api/flights/{filled['id']}/work/continue", status=202)
    assert not resumed["progress"]["paused"]
    assert client.post(f"/api/takes/{take}/lead-in", json={"lead_in_s": 50}).status_code == 422


def test_what_is_not_there_is_said_everywhere(client: TestClient) -> None:
    for method, path in [
        ("get", "/api/gear/9"), ("delete", "/api/gear/9"), ("get", "/api/briefs/9"), ("delete", "/api/flights/9"),
        ("delete", "/api/contenders/9"), ("delete", "/api/tests/9"), ("delete", "/api/takes/9"),
        ("delete", "/api/prices/9"), ("get", "/api/flights/9/match"), ("get", "/api/choice?flight=9"),
        ("get", "/api/takes/9/audio"),
    ]:  # fmt: skip
        answer = getattr(client, method)(path)
        assert answer.status_code == 404, path
        assert answer.json()["code"] == "not_found", path
    assert post(client, "/api/undo", status=200) == {"undo": None, "redo": None}
    assert post(client, "/api/redo", status=200) == {"undo": None, "redo": None}


def rows_of(client: TestClient, path: str) -> list[dict[str, str]]:
    answer = client.get(path)
    assert answer.status_code == 200, answer.text
    return list(csv.DictReader(io.StringIO(answer.content.decode("utf-8-sig"))))


def test_results_are_taken_out_as_tables(client: TestClient, filled: dict[str, Any]) -> None:
    takes = rows_of(client, "/api/out/flights/1/takes.csv")
    assert [(row["contender"], row["test"], row["audit"]) for row in takes].count(("Birk", "Riff", "record again")) == 1
    found = rows_of(client, "/api/out/flights/1/match.csv")
    assert {row["finding"] for row in found if row["severity"] == "fault"} == {"other_tuning"}
    test = filled["tests"][0]["id"]
    readings = rows_of(client, f"/api/out/flights/1/readings/{test}.csv")
    shown = client.get(f"/api/flights/1/readings/{test}").json()["rows"]
    assert len(readings) == sum(len(row["cells"]) for row in shown)
    loudness = next(row for row in shown if row["key"] == "loudness_lufs")
    told = {row["contender"]: float(row["value"]) for row in readings if row["reading"] == loudness["name"]}
    assert sorted(told.values()) == pytest.approx(sorted(cell["value"] for cell in loudness["cells"]))
    brief = post(client, "/api/briefs", {"name": "=1+1", "need": {"style": "=cmd", "sounds": [LEAD]}})
    lines = rows_of(client, f"/api/out/briefs/{brief['id']}.csv")
    assert [row["from"] for row in lines if row["reading"] == "Drive"] == ["10"]
    # What a spreadsheet would calculate is written as text.
    assert next(row["part"] for row in lines if row["reading"] == "style") == "'=cmd"
    item = post(client, "/api/gear", {"kind": "pedal", "name": "Alder"})
    assert rows_of(client, f"/api/out/gear/{item['id']}/measured.csv") == []


LEAD = {"key": "singing-lead", "name": "Singing lead", "targets": [
    {"reading": "equivalent_drive", "part": "percent", "low": 10, "high": 45},
    {"reading": "harshness_db", "low": -5, "high": 4, "against": "reference"},
]}  # fmt: skip


def test_a_brief_says_its_ranges_in_words_with_what_was_played(client: TestClient, filled: dict[str, Any]) -> None:
    keep_all(client, filled)
    brief = post(client, "/api/briefs", {"name": "B", "need": {"sounds": [LEAD]}})
    scale = client.get(f"/api/briefs/{brief['id']}/scales").json()[0]
    assert [one["words"] for one in scale["targets"]] == [
        "crunch to saturated (10 to 45 %)", "from 5 dB smoother to 4 dB harsher than the reference",
    ]  # fmt: skip
    assert {one["name"] for one in scale["targets"][1]["played"]} == {"Alder", "Birk"}


def test_which_test_stands_for_which_sound_is_proposed_and_said(client: TestClient, filled: dict[str, Any]) -> None:
    test = filled["tests"][0]
    client.patch(f"/api/tests/{test['id']}", json={"name": "Lead line"})
    brief = post(client, "/api/briefs", {"name": "B", "need": {"sounds": [LEAD]}})
    other = post(client, "/api/briefs", {"name": "C", "need": {"sounds": [LEAD]}})

    def shown(whose: dict[str, Any]) -> tuple[bool, dict[str, tuple[list[str], str]]]:
        found = client.get(f"/api/choice?flight=1&brief={whose['id']}").json()
        return found["sounds"][0]["open"], {one["name"]: (one["sounds"], one["by"]) for one in found["tests"]}

    second = filled["tests"][1]["name"]
    assert shown(brief) == (False, {"Lead line": (["singing-lead"], "name"), second: ([], "nobody")})
    url = f"/api/briefs/{brief['id']}/shows"
    said = {"test_ids": [test["id"]], "sounds": []}
    assert client.put(url, json=said).status_code == 200
    assert shown(brief) == (True, {"Lead line": ([], "brief"), second: (["singing-lead"], "nobody")})
    # What one customer says changes no other's answer.
    assert shown(other) == (False, {"Lead line": (["singing-lead"], "name"), second: ([], "nobody")})
    client.post("/api/undo")
    assert shown(brief)[1]["Lead line"] == (["singing-lead"], "name")
    client.put(url, json=said)
    client.put(url, json=said | {"sounds": None})
    assert shown(brief)[1]["Lead line"] == (["singing-lead"], "name")
    assert client.put(url, json=said | {"test_ids": [99]}).status_code == 404


def test_what_was_kept_is_said_with_the_result_and_its_reason(client: TestClient, filled: dict[str, Any]) -> None:
    found = next(one for one in client.get("/api/flights/1/match").json()["findings"] if one["severity"] == "fault")
    body = {"rule": found["rule"], "reason": "it was meant"}
    post(client, f"/api/takes/{found['take_id']}/accept", body, status=204)
    for page in ("flights/1/verdict", "choice?flight=1"):
        told = client.get(f"/api/{page}").json()["kept"]
        assert [one["numbers"]["rule"] for one in told] == ["other_tuning"], page
        assert "it was meant" in told[0]["words"]


def test_what_match_wants_again_is_an_order_of_its_own(client: TestClient, filled: dict[str, Any]) -> None:
    order = post(client, "/api/flights/1/order", {"anchors": False}, status=200)
    again = [step for step in order["steps"] if step["state"] == "redo"]
    assert {(step["contender"], step["why"]) for step in again} == {("Birk", "other tuning")}
    short = client.get("/api/flights/1/order", params={"short": True}).json()
    assert [step["planned_id"] for step in short["steps"]] == [step["planned_id"] for step in again]
    assert short["total_s"] < order["total_s"]


def test_an_item_gathers_its_flights_and_a_contender_is_offered_its_item(
    client: TestClient, filled: dict[str, Any]
) -> None:
    specs = {"weight_kg": 0.4}
    item = post(client, "/api/gear", {"kind": "pedal", "name": "Alder Drive", "structure": "soft clip", "specs": specs})
    row = filled["contenders"][0]
    offered = client.get("/api/flights/1").json()["contenders"][0]
    assert (offered["offer_id"], offered["offer"]) == (item["id"], "Alder Drive")
    path = f"/api/contenders/{row['id']}"
    assert client.patch(path, json={"item": "Elder"}).json()["code"] == "which_item"
    assert client.patch(path, json={"item": "alder drive"}).json()["contenders"][0]["gear_id"] == item["id"]
    known = client.get(f"/api/gear/{item['id']}/known").json()
    assert [(one["flight_id"], one["takes"], one["cells"], one["to_redo"]) for one in known] == [(1, 2, 2, 0)]
    for query, count in (({"spec": "weight_kg", "spec_to": "0,5"}, 1), ({"spec": "weight_kg", "spec_from": "1"}, 0),
                         ({"spec": "structure", "spec_from": "CLIP"}, 1), ({"spec": "watts"}, 0)):  # fmt: skip
        assert len(client.get("/api/gear", params=query).json()) == count, query
    assert client.get("/api/gear", params={"spec": "weight_kg", "spec_from": "light"}).json()["code"] == "no_number"
    assert [len(client.get("/api/flights", params={"q": q}).json()) for q in ("f", "nothing")] == [1, 0]
