"""Odd takes, as they come from phones, snippets and mistakes: each a file that some program would write."""

from __future__ import annotations

import random
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
import numpy.typing as npt
import soundfile

from tests.corpus.moving import MOVING, STILL
from tests.corpus.phrases import PHRASES
from tests.corpus.strings import strum

Floats = npt.NDArray[np.float64]
RATE_HZ = 48_000


def _played(seed: int) -> Floats:
    r = random.Random(seed)
    notes = PHRASES[r.choice(sorted(PHRASES))](r)
    return strum([one for one in notes if one.start < 3.0], r)


def _hiss(n: int, db: float, seed: int) -> Floats:
    return np.random.default_rng(seed).normal(0, 10 ** (db / 20), n)


SIGNALS: tuple[Callable[[int], Floats], ...] = (
    _played,
    lambda seed: _played(seed)[: RATE_HZ // 10],
    lambda seed: np.zeros(seed % 5 * RATE_HZ),
    lambda seed: _hiss(2 * RATE_HZ, -96, seed),
    lambda seed: _hiss(2 * RATE_HZ, -20, seed),
    lambda seed: np.clip(8 * _played(seed), -1, 1),
    lambda seed: np.clip(_played(seed) + 0.5, -1, 1),
    lambda seed: np.sin(np.arange(3 * RATE_HZ) * 0.05 * (1 + seed % 7)),
    lambda seed: _played(seed) * 1e-4,
    lambda seed: np.concatenate((np.zeros(RATE_HZ), [1.0], np.zeros(RATE_HZ))),
    lambda seed: np.full(RATE_HZ, 0.3),
    lambda seed: MOVING[sorted(MOVING)[seed % len(MOVING)]].through(_played(seed)),
    lambda seed: STILL[sorted(STILL)[seed % len(STILL)]](_played(seed)),
    lambda seed: np.concatenate((_hiss(RATE_HZ, -30, seed), _played(seed))),
    lambda seed: _played(seed)[::-1],
)
BROKEN: tuple[bytes, ...] = (b"", b"RIFF", b"not a sound at all\n" * 40, bytes(5000), b"RIFF\x24\x00\x00\x00WAVEfmt ")


def odd_takes(folder: Path, count: int) -> Iterator[Path]:
    """So many files: of every rate, channel count and container, whole, cut short, or no sound at all."""
    folder.mkdir(parents=True, exist_ok=True)
    for number in range(count):
        r = random.Random(number)
        if number % 20 == 19:
            path = folder / f"{number:03d} broken.wav"
            path.write_bytes(BROKEN[number // 20 % len(BROKEN)])
            yield path
            continue
        samples = SIGNALS[number % len(SIGNALS)](number)
        rate = r.choice((8000, 22_050, 44_100, 48_000, 96_000))
        shape = r.choice(("one", "two", "apart", "turned", "left"))
        other = {"two": samples, "apart": np.roll(samples, 30), "turned": -samples, "left": samples * 0}
        if shape != "one":
            samples = np.stack((samples, other[shape]), axis=1)
        ending = r.choice(("wav", "flac", "ogg", "aiff", "wav"))
        path = folder / f"{number:03d} {shape}, {rate}.{ending}"
        limits = np.clip(samples, -1, 1) if ending != "wav" else samples
        subtype = "FLOAT" if ending == "wav" and number % 3 == 0 else None
        soundfile.write(path, limits, rate, subtype=subtype)
        if number % 17 == 5:
            whole = path.read_bytes()
            path.write_bytes(whole[: max(20, len(whole) * 2 // 3)])
        yield path
