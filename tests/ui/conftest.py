"""Headless Chromium, a fresh Cata, a demo Cata, and a tap on what would be heard."""

from __future__ import annotations

import base64
import shutil
import signal
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import httpx
import numpy as np
import pytest
from playwright.sync_api import Browser, Page, Playwright, expect, sync_playwright

from tests.conftest import Server, running, until

CHROMIUM = "/usr/bin/chromium"
# Two busy cores may take their time; what is expected must come, not come quickly.
expect.set_options(timeout=20_000)
ARGUMENTS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--autoplay-policy=no-user-gesture-required",
]

# In front of the loudspeaker stands a node that hands every sample that would be heard to the test.
TAP_WORKLET = """
registerProcessor('tap', class extends AudioWorkletProcessor {
  process(inputs, outputs) {
    const input = inputs[0], output = outputs[0];
    input.forEach((channel, i) => output[i]?.set(channel));
    this.port.postMessage(input.length ? input[0].slice() : new Float32Array(128));
    return true;
  }
});
"""
TAP = """
(() => {
  window.heard = [];
  window.tapModule = () => URL.createObjectURL(new Blob([`WORKLET`], { type: 'text/javascript' }));
  const connect = AudioNode.prototype.connect;
  const taps = new WeakMap();
  const ready = new WeakMap();
  const Original = window.AudioContext;
  window.AudioContext = class extends Original {
    constructor(...rest) {
      super(...rest);
      ready.set(this, this.audioWorklet.addModule(window.tapModule()).then(() => {
        const tap = new AudioWorkletNode(this, 'tap');
        tap.port.onmessage = (event) => window.heard.push(event.data);
        connect.call(tap, this.destination);
        taps.set(this, tap);
      }));
    }
    async resume() { await ready.get(this); return super.resume(); }
  };
  AudioNode.prototype.connect = function (target, ...rest) {
    const tap = target === this.context.destination ? taps.get(this.context) : null;
    return connect.call(this, tap ?? target, ...rest);
  };
})();
""".replace("WORKLET", TAP_WORKLET)


@pytest.fixture(scope="session")
def driver() -> Iterator[Playwright]:
    with sync_playwright() as playwright:
        yield playwright


@pytest.fixture(scope="session")
def browser(driver: Playwright) -> Iterator[Browser]:
    chromium = driver.chromium.launch(executable_path=CHROMIUM, args=ARGUMENTS)
    yield chromium
    chromium.close()


@pytest.fixture(autouse=True)
def nothing_left_open(browser: Browser) -> Iterator[None]:
    """Pages of a finished test are closed: they would go on listening, playing and asking beside the next one."""
    yield
    for context in browser.contexts:
        context.close()


@contextmanager
def interface_playing(driver: Playwright, file: Path) -> Iterator[Browser]:
    """A browser whose audio interface hears a file, over and over."""
    fake = ["--use-fake-ui-for-media-stream", "--use-fake-device-for-media-stream"]
    chromium = driver.chromium.launch(
        executable_path=CHROMIUM, args=[*ARGUMENTS, *fake, f"--use-file-for-fake-audio-capture={file}"]
    )
    yield chromium
    chromium.close()


def new_page(
    browser: Browser, url: str, *, theme: str = "cellar", width: int = 1280, height: int = 800, tapped: bool = False
) -> Page:
    """A page; ``tapped`` hands what would be heard to the test, for which the policy on scripts is lifted."""
    context = browser.new_context(viewport={"width": width, "height": height}, base_url=url, bypass_csp=tapped)
    if tapped:
        context.add_init_script(TAP)
    context.add_init_script(f"localStorage.setItem('cata-theme', '{theme}')")
    page = context.new_page()
    page.set_default_timeout(20_000)
    page.problems = []  # type: ignore[attr-defined]
    page.on("pageerror", lambda error: page.problems.append(str(error)))  # type: ignore[attr-defined]
    page.on("console", lambda m: page.problems.append(m.text) if "Content Security Policy" in m.text else None)  # type: ignore[attr-defined]
    return page


def heard(page: Page) -> np.ndarray[tuple[int], np.dtype[np.float64]]:
    """Everything that left the player so far, 48 kHz."""
    # As one string: a list of a million numbers takes the driver half a minute to check.
    encoded = page.evaluate("""async () => {
      const reader = new FileReader();
      const read = new Promise((resolve) => (reader.onload = () => resolve(reader.result)));
      reader.readAsDataURL(new Blob(window.heard.map((part) => Float32Array.from(part))));
      return (await read).split(',')[1];
    }""")
    return np.frombuffer(base64.b64decode(encoded), dtype=np.float32).astype(np.float64)


def measured(url: str) -> None:
    """Wait until everything that the demo measures is read: a choice rests on it."""
    for item in httpx.get(f"{url}/api/gear-names", timeout=60).json():
        evidence = f"{url}/api/gear/{item['id']}/evidence"
        until(
            lambda evidence=evidence: httpx.get(evidence, timeout=60).json()["probes"],
            lambda probes: all(probe["state"] != "waiting" for probe in probes),
            seconds=240,
        )


@pytest.fixture(scope="session")
def demo(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    with running("demo", tmp_path_factory.mktemp("demo") / "data") as server:
        yield server


class Spares:
    """Servers on empty data, the next of which starts while a test still runs."""

    def __init__(self, folder: Path, empty: Path) -> None:
        self._folder, self._empty, self._made = folder, empty, 0
        self._next = self._start()

    def _start(self) -> Server:
        self._made += 1
        data = shutil.copytree(self._empty, self._folder / str(self._made))
        return Server("serve", Path(data))

    def take(self) -> Server:
        """One that answers."""
        server = self._next
        server.wait()
        self._next = self._start()
        return server

    def close(self) -> None:
        """End the one that nobody took."""
        self._next.stop(signal.SIGKILL)


@pytest.fixture(scope="session")
def spares(tmp_path_factory: pytest.TempPathFactory, empty: Path) -> Iterator[Spares]:
    made = Spares(tmp_path_factory.mktemp("spares"), empty)
    yield made
    made.close()


@pytest.fixture
def fresh(spares: Spares) -> Iterator[Server]:
    """A server on data of its own, empty."""
    server = spares.take()
    yield server
    server.stop(signal.SIGKILL)


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """The demo comes last: it goes on measuring its gear for minutes, which would slow all that runs beside it."""
    here = Path(__file__).parent
    mine = [item for item in items if item.path.is_relative_to(here)]
    last = [item for item in mine if "demo" in getattr(item, "fixturenames", ())]
    order = [item for item in items if item not in mine]
    items[:] = [*order, *(item for item in mine if item not in last), *last]
