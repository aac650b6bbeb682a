"""What left the player, held against the recordings it was to play."""

from __future__ import annotations

from pathlib import Path

import httpx
import numpy as np
import scipy.fft
from playwright.sync_api import Page, expect

from cata.media.decode import decode
from tests.conftest import Server
from tests.ui.conftest import heard

MAX_SILENCE_S, MAX_JUMP_S = 0.015, 0.004


def hear_for(page: Page, seconds: float) -> None:
    """Wait until that much more was heard: on a busy machine the sound's clock runs behind that on the wall."""
    blocks = page.evaluate("window.heard.length") + round(seconds * 48000 / 128)
    page.wait_for_function("(blocks) => window.heard.length >= blocks", arg=blocks, timeout=60_000)


def hear_again(page: Page, seconds: float) -> None:
    """Forget what was heard, and wait until that much was heard since something sounds: what is new is loaded first."""
    hear_for(page, 0.2)
    page.evaluate("window.heard = []")
    page.wait_for_function("window.heard.some((block) => block.some((sample) => sample !== 0))", timeout=60_000)
    page.evaluate("window.heard = []")
    hear_for(page, seconds)


def hear_anew(page: Page) -> None:
    """Forget what was heard, once all of it has died away: the last blocks of a pause come a little after its key."""
    page.wait_for_function(
        """() => {
          const last = window.heard.slice(-40);
          const sounding = last.some((block) => block.some((sample) => sample !== 0));
          if (sounding || (last.length > 0 && last.length < 40)) return false;
          window.heard = [];
          return true;
        }""",
        timeout=60_000,
    )


def heard_whole(page: Page, number: int, length_s: float = 4.0) -> np.ndarray:
    """What left the player while a contender was heard from its beginning to its end."""
    page.keyboard.press(str(number))
    page.keyboard.press("Home")
    hear_anew(page)
    page.keyboard.press("Space")
    expect(page.get_by_role("button", name="Pause the music")).to_be_visible()
    # On a busy machine the sound's own clock runs behind that on the wall.
    expect(page.get_by_role("button", name="Play the music")).to_be_visible(timeout=60_000 + length_s * 1000)
    return heard(page)


def agreements(samples: np.ndarray, file: np.ndarray) -> np.ndarray:
    """How well some heard samples agree with a file, 0 to 1, at each place of it that holds them whole.

    Each place is weighed by its own strength: a string that dies away agrees best with its louder self a period
    earlier otherwise.
    """
    count = len(file) - len(samples) + 1
    size = scipy.fft.next_fast_len(len(file) + len(samples), real=True)
    r = np.fft.irfft(np.fft.rfft(file, size) * np.conj(np.fft.rfft(samples, size)), size)[:count]
    energy = np.concatenate(([0.0], np.cumsum(np.square(file, dtype=float))))
    strength = np.sqrt(np.maximum(energy[len(samples) :] - energy[: -len(samples)], 1e-9) * np.sum(samples**2))
    return np.abs(r) / strength


def longest_silence(samples: np.ndarray) -> float:
    quiet = np.concatenate(([0], (np.abs(samples) < 1e-5).astype(int), [0]))
    edges = np.flatnonzero(np.diff(quiet))
    return float(np.max(edges[1::2] - edges[::2], initial=0)) / 48000


def listening_copy(server: Server, url: str, folder: Path) -> np.ndarray:
    path = folder / "listening.flac"
    path.write_bytes(httpx.get(server.url + url).content)
    return decode(path).clip.samples


def check_switches(
    samples: np.ndarray, names: list[str], files: dict[str, np.ndarray], lags: dict[str, float], least: int = 10
) -> None:
    """Several contenders were heard without a gap, all on one timeline; so many stretches told whose they are."""
    sounding = np.flatnonzero(np.abs(samples) > 1e-3)
    start, stop = int(sounding[0]), int(sounding[-1])
    assert longest_silence(samples[start:stop]) <= MAX_SILENCE_S
    # Where the timeline began is told by the first contender's long stretch: its notes are found once only.
    begun = float(np.argmax(agreements(samples[start : start + 38400], files[names[0]]))) / 48000 - lags[names[0]]
    # From there it moves with the clock: whoever is recognised in a stretch of 0.2 s is recognised at that place.
    window, room = 9600, round(MAX_JUMP_S * 48000)
    stretches = 0
    seen = set()
    for at in range(start, stop - window, window // 2):
        anywhere, here = {}, {}
        for name in names:
            found = agreements(samples[at : at + window], files[name])
            place = round((begun + lags[name]) * 48000) + at - start
            anywhere[name] = float(np.max(found))
            here[name] = float(np.max(found[max(place - room, 0) : max(place + room + 1, 0)], initial=0.0))
        name = max(anywhere, key=anywhere.__getitem__)
        if anywhere[name] > 0.999:
            stretches += 1
            seen.add(name)
            assert here[name] > 0.999, (at / 48000, anywhere, here)
    assert seen == set(names)
    assert stretches >= least
