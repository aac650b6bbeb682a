"""Signals whose readings are known by mathematics."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from cata.core.clip import Clip
from cata.core.measure.analysis import function_of
from cata.core.measure.material import Material
from cata.core.measure.outcome import Outcome
from cata.core.measure.registry import BY_KEY

Floats = npt.NDArray[np.float64]
RATE_HZ = 48_000


def seconds(duration_s: float, rate_hz: int = RATE_HZ) -> Floats:
    return np.arange(int(duration_s * rate_hz)) / rate_hz


def sine(hz: float, dbfs: float, duration_s: float, rate_hz: int = RATE_HZ) -> Floats:
    return 10 ** (dbfs / 20) * np.sin(2 * np.pi * hz * seconds(duration_s, rate_hz))


def white(rms_dbfs: float, duration_s: float, seed: int = 1) -> Floats:
    return np.random.default_rng(seed).standard_normal(int(duration_s * RATE_HZ)) * 10 ** (rms_dbfs / 20)


def pink(rms_dbfs: float, duration_s: float, seed: int = 1) -> Floats:
    """Exactly -3.01 dB per octave: shaped over frequency, not by a filter."""
    spectrum = np.fft.rfft(white(0.0, duration_s, seed))
    hz = np.fft.rfftfreq(int(duration_s * RATE_HZ), 1 / RATE_HZ)
    shaped = np.fft.irfft(spectrum / np.sqrt(np.maximum(hz, 10.0)))
    return shaped / np.sqrt(np.mean(shaped**2)) * 10 ** (rms_dbfs / 20)


def plucks(
    times_s: list[float], hz: float, db_per_s: float, duration_s: float, lead_noise_dbfs: float = -90.0
) -> Floats:
    """Notes that die away exponentially, each ending where the next begins."""
    t = seconds(duration_s)
    out = white(lead_noise_dbfs, duration_s, seed=9)
    for start, end in zip(times_s, [*times_s[1:], duration_s], strict=True):
        inside = (t >= start) & (t < end)
        since = t[inside] - start
        attack = np.minimum(1.0, since / 0.002)
        partials = sum(np.sin(2 * np.pi * hz * k * since) / k for k in (1, 2, 3))
        out[inside] += 0.3 * attack * partials * 10 ** (-db_per_s * since / 20)
    return out


def reading(key: str, samples: npt.ArrayLike, rate_hz: int = RATE_HZ, **options: object) -> Outcome:
    """What one reading answers for some samples."""
    material = Material(Clip.of(samples, rate_hz), **options)  # type: ignore[arg-type]
    return material.shared(function_of(BY_KEY[key].compute))


def code_of(outcome: Outcome) -> str:
    """The code of a refusal, empty where there is a value."""
    return outcome.refusal.code if outcome.refusal else ""


def value(key: str, samples: npt.ArrayLike, rate_hz: int = RATE_HZ, **options: object) -> float:
    """The number of a reading; fails with the reason where it was refused."""
    outcome = reading(key, samples, rate_hz, **options)
    assert isinstance(outcome.value, float), outcome.refusal
    return outcome.value
