"""What the tests share: a workspace, an application, a running server."""

from __future__ import annotations

import os
import shutil
import signal
import socket
import subprocess
import sys
import time
import urllib.request
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TypeVar

import numpy as np
import pytest
import soundfile
from fastapi.testclient import TestClient
from hypothesis import settings

from cata.api.app import create_app
from cata.errors import CataError
from cata.services.workspace import Workspace, open_workspace
from cata.tasks import workers
from cata.tasks.takes import Facts
from tests.tones import plucks

# How long an example takes says how busy the machine is, not whether the code is right.
settings.register_profile("steady", deadline=None)
settings.load_profile("steady")

T = TypeVar("T")
ORIGIN = {"host": "127.0.0.1:8765"}
SOME_FACTS = Facts(container="WAV", codec="PCM_16", rate_hz=48000, channels=1, duration_s=3.2)


def write_take(
    path: Path, *, hz: float = 196.0, level: float = 1.0, subtype: str = "PCM_16", rate_hz: int = 48000
) -> Path:
    """A short take of plucked notes."""
    samples = plucks([0.4, 0.9, 1.3, 1.9, 2.4], hz, 12.0, 3.2) * level
    soundfile.write(str(path), samples, rate_hz, subtype=subtype)
    return path


@pytest.fixture(scope="session", autouse=True)
def eager_workers() -> Iterator[None]:
    """Workers that step back for other work would wait for the tests that run beside this one."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(workers, "STEPS_BACK", 0)
        yield


@pytest.fixture(scope="session")
def empty(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """An empty data directory: to make one takes longer than most tests."""
    folder = tmp_path_factory.mktemp("empty") / "data"
    open_workspace(folder, workers=1).close()
    return folder


@pytest.fixture
def data_dir(empty: Path, tmp_path: Path) -> Path:
    """Where a test's data lies; a module may lay something else there."""
    return Path(shutil.copytree(empty, tmp_path / "data"))


@pytest.fixture
def ws(data_dir: Path) -> Iterator[Workspace]:
    workspace = open_workspace(data_dir, workers=1)
    yield workspace
    workspace.close()


@pytest.fixture
def client(data_dir: Path) -> Iterator[TestClient]:
    workspace = open_workspace(data_dir, workers=1)
    with TestClient(create_app(workspace), base_url="http://127.0.0.1:8765") as test_client:
        yield test_client


@contextmanager
def declines(kind: type[CataError], *codes: str) -> Iterator[None]:
    """Something is declined, with one of these codes: what is said in words is for people."""
    with pytest.raises(kind) as declined:
        yield
    assert declined.value.code in codes, declined.value


def until(look: Callable[[], T], true: Callable[[T], object], seconds: float = 60.0) -> T:
    """What is seen as soon as it is so."""
    end = time.monotonic() + seconds
    while not true(seen := look()):
        assert time.monotonic() < end, seen
        time.sleep(0.05)
    return seen


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


class Server:
    """A Cata in a process of its own."""

    def __init__(self, command: str, data_dir: Path, port: int | None = None) -> None:
        self.port = port or free_port()
        self.url = f"http://127.0.0.1:{self.port}"
        self.process = subprocess.Popen(
            [sys.executable, "-m", "cata.cli", command, "--port", str(self.port), "--data-dir", str(data_dir)],
            stdout=subprocess.DEVNULL,
            stderr=subprocess.PIPE,
            start_new_session=True,
        )

    def wait(self, seconds: float = 120.0) -> None:
        end = time.monotonic() + seconds
        while time.monotonic() < end:
            if self.process.poll() is not None:
                raise AssertionError((self.process.stderr.read() if self.process.stderr else b"").decode())
            try:
                with urllib.request.urlopen(f"{self.url}/api/undo", timeout=2):
                    return
            except OSError:
                time.sleep(0.05)
        raise AssertionError("the server did not answer")

    def stop(self, how: signal.Signals = signal.SIGTERM) -> int:
        if self.process.poll() is None:
            if how == signal.SIGKILL:
                os.killpg(self.process.pid, how)
            else:
                self.process.send_signal(how)
        code = self.process.wait(timeout=30)
        if self.process.stderr:
            self.process.stderr.close()
        return code


@contextmanager
def running(command: str, data_dir: Path) -> Iterator[Server]:
    server = Server(command, data_dir)
    try:
        server.wait()
        yield server
    finally:
        server.stop(signal.SIGKILL)


def noise_file(path: Path, seconds: float = 1.0, seed: int = 1) -> Path:
    samples = np.random.default_rng(seed).uniform(-0.5, 0.5, int(48000 * seconds))
    soundfile.write(str(path), samples, 48000, subtype="PCM_16")
    return path


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Of a grid of devices the first few are tested with every change, the next certify, the rest only `make whole`."""
    seen: dict[str, int] = {}
    for item in items:
        grid = item.get_closest_marker("grid")
        if grid is not None:
            name = item.nodeid.split("[")[0]
            seen[name] = seen.get(name, 0) + 1
            fast, certified = (*grid.args, len(items))[:2]
            if seen[name] > fast:
                item.add_marker(pytest.mark.certify if seen[name] <= certified else pytest.mark.whole)
