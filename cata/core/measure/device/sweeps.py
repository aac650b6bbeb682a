"""Exponential sweeps: the linear response and the harmonics over frequency, one level at a time.

The harmonics of a synchronised sweep are the same sweep a fixed time earlier, so dividing by the sweep sets them apart
in time: the n-th stands L ln n before the linear response. Source: Farina 2000; Novak, Lotton and Simon 2015.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
import numpy.typing as npt
import scipy

from cata.core.clip import ANALYSIS_RATE_HZ
from cata.core.measure.device.bands import scatter
from cata.core.measure.device.returned import Returned
from cata.core.measure.regions import THIRD_OCTAVES_HZ
from cata.core.signals.testfile.layout import Section
from cata.core.signals.testfile.waves import SWEEP_HIGH_HZ, SWEEP_L_S, SWEEP_S, amplitude, sweep
from cata.said import Said, said

Floats = npt.NDArray[np.float64]
Complex = npt.NDArray[np.complex128]

POINTS = 1 << 19
BEFORE_S = 0.1
"""How much of the recording before the sweep goes into the transform."""
WINDOW_POINTS = 1 << 15
LINEAR_AFTER_S, HARMONIC_AFTER_S, MAX_BEFORE_S = 0.35, 0.09, 0.120
FADE_SHARE = 0.25
HARMONICS = 5
EPSILON = 1e-6
CENTRES_HZ = tuple(1000.0 * 10 ** (n / 10) for n in range(-13, 13))
NAMES = [str(hz) for hz in (50, *THIRD_OCTAVES_HZ, 16000)]
TONE_BANDS = slice(NAMES.index("80"), NAMES.index("10000") + 1)
MIDDLE, LOW = slice(NAMES.index("400"), NAMES.index("1600") + 1), slice(NAMES.index("80"), NAMES.index("125") + 1)
PEAK_CLEAR_DB = 20.0


@lru_cache(maxsize=1)
def _reference() -> Complex:
    """Spectrum of the sweep of amplitude 1 inverted: X* / (|X|² + ε)."""
    t = np.arange(POINTS) / ANALYSIS_RATE_HZ
    x = scipy.fft.rfft(sweep(t[: round((SWEEP_S + 0.01) * ANALYSIS_RATE_HZ)]), POINTS, workers=1)
    power = np.abs(x) ** 2
    return np.asarray(np.conj(x) / (power + EPSILON * power.max()))


def deconvolved(signal: Floats) -> Floats:
    """A signal (up to 10 s) divided by the sweep of amplitude 1, shape (POINTS,): its response, harmonics before it."""
    return np.asarray(scipy.fft.irfft(scipy.fft.rfft(signal, POINTS) * _reference(), POINTS))


def _window(before: int, after: int) -> Floats:
    """1 around the peak, half a cosine at both ends: (before + after,)."""
    window = np.ones(before + after)
    rise, fall = max(int(before * FADE_SHARE), 1), max(int(after * FADE_SHARE), 1)
    window[:rise] = 0.5 - 0.5 * np.cos(np.pi * (np.arange(rise) + 0.5) / rise)
    window[-fall:] = 0.5 + 0.5 * np.cos(np.pi * (np.arange(fall) + 0.5) / fall)
    return window


def reach_of(order: int) -> tuple[int, int]:
    """Samples before and after the peak of a harmonic's response that are its own."""
    if order == 1:
        return round(MAX_BEFORE_S * ANALYSIS_RATE_HZ), round(LINEAR_AFTER_S * ANALYSIS_RATE_HZ)
    gap = SWEEP_L_S * float(np.log((order + 1) / order))
    before = min(gap / 4, MAX_BEFORE_S)
    later = SWEEP_L_S * float(np.log(order / (order - 1)))
    return round(before * ANALYSIS_RATE_HZ), round(min(HARMONIC_AFTER_S, later * 0.6) * ANALYSIS_RATE_HZ)


HZ: Floats = np.fft.rfftfreq(WINDOW_POINTS, 1 / ANALYSIS_RATE_HZ).astype(np.float64)


def _edges(centre: float) -> tuple[int, int]:
    low, high = centre * 10**-0.05, centre * 10**0.05
    first = int(np.searchsorted(HZ, low))
    return first, max(int(np.searchsorted(HZ, high)), first + 1)


def _shares() -> Floats:
    """What each bin has of each third octave, as weights (26, bins) that sum to 1: in the lows a bin lies in two."""
    centres = np.array(CENTRES_HZ)[:, None]
    half = HZ[1] / 2
    upper, lower = np.minimum(HZ + half, centres * 10**0.05), np.maximum(HZ - half, centres * 10**-0.05)
    inside = np.maximum(upper - lower, 0.0)
    return np.asarray(inside / inside.sum(axis=1, keepdims=True))


BAND_SHARES = _shares()


@dataclass(frozen=True)
class Swept:
    """One sweep: responses (orders, bins) of harmonics 1 to 5 over :data:`HZ`, and the noise power in each bin of them.

    ``level_dbfs`` is the level sent; ``density`` the noise power of one sample's worth (bins,); ``impulse`` the
    response in time, its peak at ``peak``; ``peak_db`` how far the peak stands over the noise.
    """

    level_dbfs: float
    responses: Complex
    noise: Floats
    density: Floats
    impulse: Floats
    peak: int
    peak_db: float

    def band_powers(self, order: int = 1) -> Floats:
        """Mean power gain in each third octave of the output, noise removed, (26,)."""
        power = np.abs(self.responses[order - 1]) ** 2 - self.noise[order - 1]
        return np.asarray(BAND_SHARES @ power)

    def harmonic_db(self, order: int) -> dict[str, float]:
        """A harmonic re the fundamental that made it, by the fundamental's third octave; where its output is swept."""
        found: dict[str, float] = {}
        linear = np.abs(self.responses[0]) ** 2 - self.noise[0]
        harmonic, noise = np.abs(self.responses[order - 1]) ** 2, self.noise[order - 1]
        for name, centre in zip(NAMES, CENTRES_HZ, strict=True):
            if centre * order * 10**0.05 > SWEEP_HIGH_HZ * 0.98:
                break
            a, b = _edges(centre)
            bins = np.arange(a, b)
            at = np.minimum(np.round(bins * order).astype(int), len(HZ) - 1)
            ratio = float(np.mean((harmonic[at] - noise[at]) / np.maximum(linear[bins], 1e-20)))
            doubt = float(np.mean(noise[at] / np.maximum(linear[bins], 1e-20))) / np.sqrt(len(bins) / 2 + 1)
            if ratio > 4 * doubt and ratio > 0:
                found[name] = 10 * float(np.log10(ratio))
        return found

    def again(self, rng: np.random.Generator) -> Swept:
        """The same with its noise once more, and known to be there twice."""
        added = []
        for order in range(1, HARMONICS + 1):
            before, after = reach_of(order)
            window = _window(before, after)
            draw = np.fft.irfft(scatter(self.density.shape, self.density * WINDOW_POINTS, rng), WINDOW_POINTS)
            cut = draw[: len(window)] * window
            # The peak lies at the start of the transform: noise there counts whole, as it does in the recording.
            added.append(np.fft.rfft(np.roll(np.pad(cut, (0, WINDOW_POINTS - len(window))), -before)))
        return replace(self, responses=self.responses + np.array(added), noise=2 * self.noise)

    @property
    def distortion_db(self) -> float:
        """Harmonics 2 to 5 together re the linear response, 100 Hz to 4 kHz; very low where noise could feign them."""
        inside = slice(int(np.searchsorted(HZ, 100.0)), int(np.searchsorted(HZ, 4000.0)))
        linear = float(np.sum(np.abs(self.responses[0, inside]) ** 2))
        noise = self.noise[1:, inside]
        over = float(np.sum(np.abs(self.responses[1:, inside]) ** 2 - noise))
        # A window much shorter than the transform leaves neighbouring bins alike.
        alike = WINDOW_POINTS / ((HARMONIC_AFTER_S + 0.03) * ANALYSIS_RATE_HZ)
        doubt = float(np.sqrt(np.sum(noise**2) * alike))
        return 10 * float(np.log10(over / linear)) if over > 4 * doubt and linear > 0 else -120.0


def read_sweep(returned: Returned, section: Section, noise_density: Floats, level_db: float = 0.0) -> Swept | Said:
    """The responses of one sweep, or why there are none; ``noise_density`` is that of the silence."""
    level = section.levels_dbfs[0]
    taken = returned.cut(section.start_s - BEFORE_S, round((section.length_s + BEFORE_S + 0.25) * ANALYSIS_RATE_HZ))
    impulse = deconvolved(taken / amplitude(level + level_db))
    origin = round(BEFORE_S * ANALYSIS_RATE_HZ)
    # Quarter of the transform on each side: harmonics lie before (wrapping round), the linear response after.
    search = np.roll(impulse, -origin)
    near = np.concatenate((search[-2400:], search[: round(0.2 * ANALYSIS_RATE_HZ)]))
    peak = int(np.argmax(np.abs(near))) - 2400
    inverse = np.abs(_reference()) ** 2 / amplitude(level + level_db) ** 2
    density = _smoothed(noise_density * inverse[:: POINTS // WINDOW_POINTS])
    floor = float(np.sqrt(np.mean(density[len(HZ) // 480 : len(HZ) * 5 // 6])))
    peak_db = 20 * float(np.log10(np.max(np.abs(near)) / max(floor, 1e-12)))
    if peak_db < PEAK_CLEAR_DB:
        return said("noise", "the sweep does not stand out: no peak over the noise")
    responses, noise = [], []
    for order in range(1, HARMONICS + 1):
        centre = peak - round(SWEEP_L_S * np.log(order) * ANALYSIS_RATE_HZ)
        before, after = reach_of(order)
        window = _window(before, after)
        cut = np.take(search, np.arange(centre - before, centre + after), mode="wrap") * window
        responses.append(np.fft.rfft(np.roll(np.pad(cut, (0, WINDOW_POINTS - len(cut))), -before)))
        noise.append(density * float(np.sum(window**2)))
    return Swept(level + level_db, np.array(responses), np.array(noise), density, search, peak, peak_db)


def _smoothed(power: Floats) -> Floats:
    """A spectrum averaged over 6 % to both sides."""
    running = np.concatenate(([0.0], np.cumsum(power)))
    centres = np.arange(len(power))
    half = np.maximum((centres * 0.06).astype(int), 3)
    low, high = np.maximum(centres - half, 0), np.minimum(centres + half + 1, len(power))
    return np.asarray((running[high] - running[low]) / (high - low))


def noise_density(silence: Floats) -> Floats:
    """Noise power of one sample's worth at each bin of :data:`HZ`, from a stretch of silence."""
    window = np.hanning(WINDOW_POINTS)
    hop = WINDOW_POINTS // 4
    starts = range(0, max(len(silence) - WINDOW_POINTS, 0) + 1, hop)
    cuts = [np.pad(silence[s : s + WINDOW_POINTS], (0, max(0, WINDOW_POINTS - len(silence) + s))) for s in starts]
    power = np.mean([np.abs(np.fft.rfft((cut - cut.mean()) * window)) ** 2 for cut in cuts], axis=0)
    return np.asarray(power / np.sum(window**2))
