"""Two sources at once: what their sum does in each third octave, and the gain that gives a wanted sum.

With powers a and b and the complex correlation c of a band, a second source at gain g sums to a + 2 g Re c + g² b.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import scipy

from cata.core.clip import ANALYSIS_RATE_HZ, Audio
from cata.core.match.lag import MAX_RIVAL
from cata.core.measure.outcome import Outcome, measured, refused
from cata.said import said

Floats = npt.NDArray[np.float64]

POINTS = 1 << 15
CENTRES_HZ = tuple(1000.0 * 10 ** (n / 10) for n in range(-12, 12))
GAIN_DB = (-30.0, 30.0)
SAME_LEVEL_DB = 3.0
MAX_NOTCHES = 6


@dataclass(frozen=True)
class Pair:
    """Two takes in step: powers ``a`` and ``b`` and the real part of their correlation ``c`` in 24 third octaves."""

    a: Floats
    b: Floats
    c: Floats

    def sum_db(self, gain_db: float, sign: int = 1) -> Floats:
        """Level of the sum in each third octave, dB: the second source at a gain, upright (1) or inverted (-1)."""
        g = sign * 10 ** (gain_db / 20)
        return np.asarray(10 * np.log10(np.maximum(self.a + 2 * g * self.c + g * g * self.b, 1e-20)))

    def kept_db(self, gain_db: float, sign: int = 1) -> Floats:
        """What phase gives or takes in each band: the sum re the two powers added; -3 dB and less is cancelling."""
        g2 = 10 ** (gain_db / 10)
        return self.sum_db(gain_db, sign) - 10 * np.log10(np.maximum(self.a + g2 * self.b, 1e-20))


def pair_of(first: Audio, second: Audio) -> Pair:
    """Band powers and correlation of two signals of equal length (samples,), in step, at 48 kHz."""
    length = min(len(first), len(second))
    window = np.hanning(POINTS)
    hz = np.fft.rfftfreq(POINTS, 1 / ANALYSIS_RATE_HZ)
    edges = np.searchsorted(hz, [[f * 10**-0.05, f * 10**0.05] for f in CENTRES_HZ])
    a, b, c = (np.zeros(len(CENTRES_HZ)) for _ in range(3))
    for start in range(0, max(length - POINTS, 0) + 1, POINTS // 2):
        x = np.fft.rfft(np.resize(first[start : start + POINTS], POINTS) * window)
        y = np.fft.rfft(np.resize(second[start : start + POINTS], POINTS) * window)
        for total, power in ((a, np.abs(x) ** 2), (b, np.abs(y) ** 2), (c, np.real(np.conj(x) * y))):
            running = np.concatenate(([0.0], np.cumsum(power)))
            total += running[np.maximum(edges[:, 1], edges[:, 0] + 1)] - running[edges[:, 0]]
    return Pair(a, b, c)


def gain_for(pair: Pair, target_db: Floats, rival: float = 0.0) -> Outcome:
    """{"gain_db", "sign", "off_db"}: the second source's gain and polarity whose sum comes nearest a target spectrum.

    ``target_db`` shape (24,), level aside; ``rival`` the strongest correlation of opposite sign that
    :mod:`cata.core.match.lag` found: refused where it leaves the polarity open.
    """
    if rival > MAX_RIVAL:
        return refused(said("polarity_open", "the polarity of the two cannot be told: move one microphone, or listen"))
    best: tuple[float, float, int] | None = None
    for sign in (1, -1):

        def off(gain: float, sign: int = sign) -> float:
            return float(np.std(pair.sum_db(gain, sign) - target_db))

        coarse = min(np.arange(*GAIN_DB, 1.5), key=off)
        found = scipy.optimize.minimize_scalar(off, bounds=(coarse - 2, coarse + 2), method="bounded",
                                               options={"xatol": 0.005})  # fmt: skip
        best = min(best or (float("inf"), 0.0, 1), (float(found.fun), float(found.x), sign))
    assert best is not None
    return measured({"gain_db": best[1], "sign": best[2], "off_db": best[0]})


def notches_hz(lag_s: float, *, inverted: bool = False) -> list[float]:
    """Where two equal sources that far apart in time cancel: odd multiples of 1/2τ, or multiples of 1/τ inverted."""
    if lag_s == 0:
        return []
    tau = abs(lag_s)
    return [(n + 1) / tau if inverted else (2 * n + 1) / (2 * tau) for n in range(MAX_NOTCHES)]
