"""A server killed at any moment: what it acknowledged is there, and nothing of it is left running or half written."""

from __future__ import annotations

import random
import signal
import threading
import time
from pathlib import Path

import httpx
import pytest

from tests.conftest import Server, until, write_take


def _work(url: str, body: bytes, kept: list[tuple[str, str]], seed: int) -> None:
    """Edit and upload until nobody answers; note what was acknowledged."""
    rng = random.Random(seed)
    try:
        for _ in range(1000):
            name = f"{rng.randrange(10**9)}"
            if rng.random() < 0.3:
                answer = httpx.post(f"{url}/api/flights/1/takes", params={"name": f"{name}.wav"}, content=body)
                kind = "take"
            else:
                answer = httpx.post(f"{url}/api/flights", json={"name": name})
                kind = "flight"
            if answer.status_code == 201:
                kept.append((kind, name))
    except httpx.HTTPError:
        return


@pytest.mark.certify
def test_kills_at_random_lose_nothing_and_leave_nothing(tmp_path: Path) -> None:
    body, rng, kept = write_take(tmp_path / "a.wav").read_bytes(), random.Random(1), []  # type: ignore[var-annotated]
    data = tmp_path / "data"
    for number in range(12):
        server = Server("serve", data)
        server.wait()
        if number == 0:
            httpx.post(f"{server.url}/api/flights", json={"name": "first"})
        hands = [threading.Thread(target=_work, args=(server.url, body, kept, 10 * number + n)) for n in range(3)]
        for hand in hands:
            hand.start()
        time.sleep(rng.uniform(0.5, 2.0))
        server.process.send_signal(signal.SIGKILL)
        server.process.wait()
        for hand in hands:
            hand.join()
        session = server.process.pid
        until(lambda session=session: _left(session), lambda pids: not pids, seconds=20)  # type: ignore[misc]
    server = Server("serve", data)
    server.wait()
    flights = {one["name"] for one in httpx.get(f"{server.url}/api/flights", params={"limit": 500}).json()}
    takes = {one["filename"] for one in httpx.get(f"{server.url}/api/flights/1", timeout=60).json()["takes"]}
    assert {name for kind, name in kept if kind == "flight"} <= flights or len(flights) == 500
    assert {f"{name}.wav" for kind, name in kept if kind == "take"} <= takes
    assert len(kept) > 12
    until(lambda: _halves(data), lambda left: not left, seconds=20)
    server.stop()


def _left(session: int) -> list[str]:
    """Processes of a server's session that still run: its fork server, its workers."""
    found = []
    for stat in Path("/proc").glob("[0-9]*/stat"):
        try:
            state, _, _, of = stat.read_text().rsplit(")", 1)[1].split()[:4]
        except OSError:
            continue
        if int(of) == session and state != "Z":
            found.append(stat.parent.name)
    return found


def _halves(data: Path) -> list[Path]:
    """Files that are only begun."""
    return [path for path in data.rglob("*") if path.name.endswith(".part") or path.parent.name == "incoming"]
