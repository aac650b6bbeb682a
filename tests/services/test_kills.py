"""A server killed at any moment: what it acknowledged is there, and nothing of it is left running or half written."""

from __future__ import annotations

import os
import random
import signal
import threading
import time
from contextlib import suppress
from pathlib import Path

import httpx
import pytest

from tests.conftest import Server, until, write_take
from tests.memory import family


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


def _below(pid: int) -> list[tuple[int, str]]:
    """Processes below one, with what they were started as."""
    found = []
    for one in family(pid):
        try:
            found.append((one, Path(f"/proc/{one}/cmdline").read_bytes().replace(b"\0", b" ").decode()))
        except OSError:
            continue
    return [(one, command) for one, command in found if one != pid]


def _kill_one_of(pid: int, kind: str, rng: random.Random) -> bool:
    """End what starts workers, or a worker; False where there is none yet."""
    some = [one for one, command in _below(pid) if ("forkserver" in command) and "resource_tracker" not in command]
    if not some:
        return False
    # What starts workers was there first; those it started have the same name.
    victim = min(some) if kind == "forkserver" else rng.choice(some)
    with suppress(ProcessLookupError):
        os.kill(victim, signal.SIGKILL)
    return True


def end_workers(folder: Path, body: bytes, seeds: range) -> None:
    """A server loses what works for it, from its first moment on: whatever is asked is done within 30 s."""
    for seed in seeds:
        rng = random.Random(seed)
        server = Server("serve", folder / f"data{seed}")
        try:
            server.wait()
            flight = httpx.post(f"{server.url}/api/flights", json={"name": "F"}).json()["id"]
            begun = time.monotonic()
            killer = threading.Thread(target=_keep_killing, args=(server.process.pid, rng, seed))
            killer.start()
            for number in range(3):
                name = {"name": f"{seed}-{number}.wav"}
                answer = httpx.post(f"{server.url}/api/flights/{flight}/takes", params=name, content=body, timeout=40)
                assert answer.status_code == 201, (seed, answer.text)
            killer.join()
            until(
                lambda url=f"{server.url}/api/flights/{flight}": {  # type: ignore[misc]
                    one["state"] for one in httpx.get(url).json()["takes"]
                },
                lambda states: states == {"ready"},
                seconds=30,
            )
            assert time.monotonic() - begun < 40, seed
        finally:
            server.stop(signal.SIGKILL)


def _keep_killing(pid: int, rng: random.Random, seed: int) -> None:
    end = time.monotonic() + 2.0
    time.sleep(rng.uniform(0.0, 0.5))
    while time.monotonic() < end:
        if _kill_one_of(pid, "forkserver" if seed % 2 else "worker", rng):
            time.sleep(rng.uniform(0.3, 1.0))
        time.sleep(0.01)


@pytest.mark.whole
def test_what_starts_workers_may_be_ended_from_its_first_moment_on(tmp_path: Path) -> None:
    end_workers(tmp_path, write_take(tmp_path / "a.wav").read_bytes(), range(4))
