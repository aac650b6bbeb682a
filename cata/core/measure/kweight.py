"""The K weighting of ITU-R BS.1770-4, as a filter in time and as a response over frequency."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
import numpy.typing as npt
import scipy

from cata.core.clip import Audio

# BS.1770-4 Annex 1: the analogue prototypes behind its 48 kHz coefficients.
SHELF_HZ, SHELF_DB, SHELF_Q = 1681.974450955533, 3.999843853973347, 0.7071752369554196
HIGH_PASS_HZ, HIGH_PASS_Q = 38.13547087602444, 0.5003270373238773


@lru_cache(maxsize=16)
def k_filter(rate_hz: int) -> npt.NDArray[np.float64]:
    """The weighting as second-order sections, shape (2, 6), re-derived for the rate (bilinear)."""
    k = np.tan(np.pi * SHELF_HZ / rate_hz)
    vh = 10 ** (SHELF_DB / 20)
    vb = vh**0.4996667741545416
    a0 = 1 + k / SHELF_Q + k * k
    shelf = [
        (vh + vb * k / SHELF_Q + k * k) / a0,
        2 * (k * k - vh) / a0,
        (vh - vb * k / SHELF_Q + k * k) / a0,
        1.0,
        2 * (k * k - 1) / a0,
        (1 - k / SHELF_Q + k * k) / a0,
    ]
    k = np.tan(np.pi * HIGH_PASS_HZ / rate_hz)
    a0 = 1 + k / HIGH_PASS_Q + k * k
    high_pass = [1.0, -2.0, 1.0, 1.0, 2 * (k * k - 1) / a0, (1 - k / HIGH_PASS_Q + k * k) / a0]
    return np.array([shelf, high_pass])


def k_weighted(plane: Audio, rate_hz: int) -> Audio:
    """One channel through the weighting.

    float32 up to 48 kHz (within 2e-5 LU); above that the high-pass poles come too close to 1.
    """
    dtype = np.float32 if rate_hz <= 48_000 else np.float64
    return np.asarray(scipy.signal.sosfilt(k_filter(rate_hz).astype(dtype), plane.astype(dtype, copy=False)))


@lru_cache(maxsize=8)
def k_response(rate_hz: int, bins: int) -> npt.NDArray[np.complex64]:
    """Complex response at ``bins`` evenly spaced frequencies from 0 to half the rate, both included."""
    points = np.exp(-1j * np.linspace(0, np.pi, bins))
    total = np.ones(bins, dtype=np.complex128)
    for b0, b1, b2, _, a1, a2 in k_filter(rate_hz):
        total *= (b0 + points * (b1 + points * b2)) / (1 + points * (a1 + points * a2))
    return np.asarray(total, dtype=np.complex64)
