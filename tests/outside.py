"""The world outside: a device between two sockets of an interface, with noise, a clock of its own, gain and delay."""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache

import numpy as np
import numpy.typing as npt
import soxr

from cata.core.clip import Clip
from cata.core.measure.device.returned import Returned, Sent, as_written, read_returned
from cata.core.signals.testfile.layout import PartName
from cata.core.signals.testfile.waves import sent_file

Floats = npt.NDArray[np.float64]
Through = Callable[[Floats], Floats]
RATE_HZ = 48_000
OVERSAMPLING = 8


@lru_cache(maxsize=8)
def sent_samples(part: PartName = "all") -> Floats:
    return sent_file(part).samples[0].astype(np.float64)


def shaped(curve: Through) -> Through:
    """A static curve without aliases worth mentioning: eight times the rate."""

    def through(x: Floats) -> Floats:
        fast = soxr.resample(x.astype(np.float32), 1, OVERSAMPLING, quality="MQ")
        slow = soxr.resample(curve(fast).astype(np.float32), OVERSAMPLING, 1, quality="MQ")
        return slow[: len(x)].astype(np.float64)

    return through


class Recorder:
    """How it was recorded: signal to noise re the loudest tone, clock, gain, delay, polarity; drawn from a seed."""

    def __init__(self, seed: int, *, snr_db: float = 50.0, plain: bool = False) -> None:
        rng = np.random.default_rng(seed)
        self.rng, self.snr_db = rng, snr_db
        self.clock_ppm = 0.0 if plain else float(rng.uniform(-50, 50))
        self.gain_db = 0.0 if plain else float(rng.uniform(-6, 6))
        self.delay_s = 0.0 if plain else float(rng.uniform(0, 1))
        self.sign = 1 if plain else int(rng.choice([-1, 1]))

    def record(self, through: Floats) -> Clip:
        """The recording of what came out, peaking at -8 dBFS give or take the gain."""
        out = np.pad(through, (round(self.delay_s * RATE_HZ), 9600))
        if self.clock_ppm:
            out = soxr.resample(out, RATE_HZ, RATE_HZ * (1 + self.clock_ppm * 1e-6), quality="VHQ")
        loudest = float(np.max(np.abs(out)))
        self.scale = self.sign * 10 ** ((self.gain_db - 8) / 20) / loudest
        noise = self.rng.standard_normal(len(out)) * loudest / np.sqrt(2) * 10 ** (-self.snr_db / 20)
        return Clip.of((out + noise) * self.scale, RATE_HZ)


def come_back(through: Floats, part: PartName, seed: int = 1, **how: object) -> tuple[Returned, Sent, float]:
    """The answer of a device, the file, and the factor that the recording put on it."""
    recorder = Recorder(seed, **how)  # type: ignore[arg-type]
    clip = recorder.record(through)
    sent = as_written(part)
    return read_returned(clip, sent), sent, recorder.scale
