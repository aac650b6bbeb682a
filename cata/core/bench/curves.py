"""Static clipping curves with their integrals.

A clipper run at discrete times folds its overtones back. Eight times the rate alone leaves a hard clip at about -50 dB,
for its overtones fall by 1/n only. Taking the mean of the curve between two samples, from its integral, makes them
fall by 1/n^2. Source: Parker, Zavalishin and Le Bivic 2016, first-order antiderivative antialiasing.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from cata.core.clip import Audio
from cata.core.resample import downsample, upsample

OVERSAMPLING = 8
SMALL_STEP = 1e-5
STRETCH = 1 << 14
Floats = npt.NDArray[np.float64]


@dataclass(frozen=True)
class Curve:
    """A static curve and its integral."""

    value: Callable[[Floats], Floats]
    integral: Callable[[Floats], Floats]


def soft(ceiling: float) -> Curve:
    """A hyperbolic tangent that ends at ``ceiling``, slope 1 at rest."""

    def integral(x: Floats) -> Floats:
        # log cosh without overflow.
        size = np.abs(x) / ceiling
        return ceiling**2 * (size + np.log1p(np.exp(-2 * size)) - np.log(2.0))

    return Curve(lambda x: ceiling * np.tanh(x / ceiling), integral)


def hard(low: float, high: float) -> Curve:
    """Straight between ``low`` (negative) and ``high``, flat beyond."""

    def integral(x: Floats) -> Floats:
        inside = np.clip(x, low, high)
        return 0.5 * inside**2 + np.where(x > high, high * (x - high), 0.0) + np.where(x < low, low * (x - low), 0.0)

    return Curve(lambda x: np.clip(x, low, high), integral)


def rounded(knee: float, ceiling: float) -> Curve:
    """Straight up to ``knee``, then bending into ``ceiling``."""
    bend = soft(ceiling - knee)

    def value(x: Floats) -> Floats:
        size = np.abs(x)
        return np.sign(x) * np.where(size <= knee, size, knee + bend.value(size - knee))

    def integral(x: Floats) -> Floats:
        size = np.abs(x)
        beyond = np.maximum(size - knee, 0.0)
        return np.where(size <= knee, 0.5 * size**2, 0.5 * knee**2 + knee * beyond + bend.integral(beyond))

    return Curve(value, integral)


def uneven(low: float, high: float) -> Curve:
    """A hyperbolic tangent to ``high`` above and to ``low`` below: one stage off its centre, slope 1 at rest."""
    above, below = soft(high), soft(low)
    return Curve(
        lambda x: np.where(x > 0, above.value(x), below.value(x)),
        lambda x: np.where(x > 0, above.integral(x), below.integral(x)),
    )


def folded() -> Curve:
    """The absolute value, its tip rounded: a full-wave rectifier."""
    tip = 0.08

    def value(x: Floats) -> Floats:
        return np.sqrt(x * x + tip * tip) - tip

    def integral(x: Floats) -> Floats:
        root = np.sqrt(x * x + tip * tip)
        return 0.5 * (x * root + tip * tip * np.arcsinh(x / tip)) - tip * x

    return Curve(value, integral)


def clip_with(signal: Audio, curve: Curve) -> Audio:
    """The curve applied at eight times the rate, as its mean between samples; the length is kept."""
    fast = upsample(signal, OVERSAMPLING)
    mean = np.empty_like(fast)
    last = 0.0
    # Stretch by stretch, in double precision: a difference of integrals has no digits to spare, and a whole file of
    # them does not fit the cache.
    for start in range(0, len(fast), STRETCH):
        part = np.concatenate(([last], fast[start : start + STRETCH].astype(np.float64)))
        mean[start : start + STRETCH] = _mean_between(part, curve)
        last = float(part[-1])
    slow = downsample(mean, OVERSAMPLING)
    if len(slow) < len(signal):
        slow = np.pad(slow, (0, len(signal) - len(slow)))
    return slow[: len(signal)]


def _mean_between(x: Floats, curve: Curve) -> Floats:
    """The curve's mean from each sample to the next, shape (samples - 1,)."""
    step = np.diff(x)
    still = np.flatnonzero(np.abs(step) < SMALL_STEP)
    step[still] = 1.0
    mean = np.diff(curve.integral(x)) / step
    mean[still] = curve.value(0.5 * (x[still] + x[still + 1]))
    return np.asarray(mean)
