"""How takes come in: by telephone, through coders that lose, after talk or a count-in, cut tight at either end."""

from __future__ import annotations

import io
import random
from collections.abc import Callable, Mapping

import numpy as np
import scipy.signal
import soundfile

from tests.corpus.moving import RATE_HZ
from tests.corpus.parts import Floats, compress, cut, gain, peak

Capture = Callable[[Floats, random.Random], tuple[Floats, float]]
"""A take as it came in, and by how many seconds its playing begins later than before."""
VOWELS = ((730, 1090, 2440), (270, 2290, 3010), (570, 840, 2410), (300, 870, 2240))


def _telephone(x: Floats, r: random.Random) -> tuple[Floats, float]:
    """A telephone on the table: a small microphone, its gain that follows, its noise, the room's first echoes."""
    room = np.zeros(round(0.03 * RATE_HZ))
    room[0] = 1.0
    for _ in range(8):
        room[r.randrange(200, len(room))] += r.uniform(-0.3, 0.3)
    heard = scipy.signal.fftconvolve(x, room)[: len(x)]
    heard = peak(cut(cut(heard, 180, "high", 2), 9000, "low", 2), 3200, 5.0, 1.2)
    heard = compress(heard / np.abs(heard).max(), over_db=-24.0, ratio=2.0, makeup_db=6.0)
    hiss = np.random.default_rng(r.getrandbits(32)).normal(0, gain(-58), len(x))
    return np.clip(0.7 * heard / np.abs(heard).max() + hiss, -1, 1), 0.0


def _coded(form: str, subtype: str) -> Capture:
    def coded(x: Floats, _: random.Random) -> tuple[Floats, float]:
        file = io.BytesIO()
        soundfile.write(file, np.asarray(x, dtype=np.float32), RATE_HZ, format=form, subtype=subtype)
        file.seek(0)
        back, _rate = soundfile.read(file, dtype="float64")
        return back, 0.0

    return coded


def _talk(x: Floats, r: random.Random) -> tuple[Floats, float]:
    """A few syllables before the playing: a buzz through the resonances of vowels."""
    said = []
    for _ in range(r.randrange(4, 8)):
        length, pitch = round(r.uniform(0.12, 0.3) * RATE_HZ), r.uniform(95, 140)
        buzz = scipy.signal.sawtooth(2 * np.pi * pitch * np.arange(length) / RATE_HZ)
        for hz in r.choice(VOWELS):
            buzz = peak(buzz, hz, 14.0, 6.0)
        said += [cut(buzz, 4000, "low", 2) * np.hanning(length), np.zeros(round(r.uniform(0.03, 0.15) * RATE_HZ))]
    voice = np.concatenate([*said, np.zeros(round(0.6 * RATE_HZ))])
    voice *= gain(-10) / np.abs(voice).max()
    return np.concatenate([voice, x]), len(voice) / RATE_HZ


def _count_in(x: Floats, r: random.Random) -> tuple[Floats, float]:
    """Four clicks of two sticks."""
    click = np.random.default_rng(r.getrandbits(32)).normal(0, 1, 2400) * np.exp(-np.arange(2400) / 240)
    every = round(0.5 * RATE_HZ)
    before = np.zeros(4 * every)
    for at in range(4):
        before[at * every : at * every + len(click)] += 0.3 * cut(click, 900, "high") / np.abs(click).max()
    return np.concatenate([before, x]), len(before) / RATE_HZ


def _tight(x: Floats, _: random.Random) -> tuple[Floats, float]:
    """Cut where it sounds, before the last note has died away."""
    loud = np.flatnonzero(np.abs(x) > 0.05 * np.abs(x).max())
    first, last = int(loud[0]), int(loud[-1])
    kept = x[max(0, first - 96) : last - round(0.3 * RATE_HZ)]
    return kept, -max(0, first - 96) / RATE_HZ


CAPTURES: Mapping[str, Capture] = {
    "telephone": _telephone,
    "mp3": _coded("MP3", "MPEG_LAYER_III"),
    "vorbis": _coded("OGG", "VORBIS"),
    "talk before": _talk,
    "count-in": _count_in,
    "tight cut": _tight,
}
