"""The passes over a take that several readings share, each made once and only when needed."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from typing import TypeVar, cast

import numpy as np
import numpy.typing as npt
import scipy.fft

from cata.core.clip import Audio, Clip
from cata.core.measure import frames
from cata.core.resample import for_analysis

FADE_S = 0.05
BLOCK_S = 0.05
TINY = 1e-20
T = TypeVar("T")


@dataclass(frozen=True)
class Spectrum:
    """A power spectrum whose sum over bins is the mean square of the signal; ``bin_hz`` wide bins."""

    power: Audio
    bin_hz: float

    def energy(self, low_hz: float, high_hz: float) -> float:
        """Mean square between two frequencies, fractional bins at both ends."""
        first, last = low_hz / self.bin_hz + 0.5, high_hz / self.bin_hz + 0.5
        last = min(last, float(self.power.shape[0]))
        if last <= first:
            return 0.0
        i, j = int(first), int(last)
        if i == j:
            return float(self.power[i]) * (last - first)
        total = float(self.power[i]) * (i + 1 - first) + float(self.power[i + 1 : j].sum(dtype=np.float64))
        return total + (float(self.power[j]) * (last - j) if j < self.power.shape[0] else 0.0)

    def mean_hz(self, low_hz: float, high_hz: float) -> float:
        """Power-weighted mean frequency between two frequencies; nan for silence."""
        i, j = int(round(low_hz / self.bin_hz)), int(round(high_hz / self.bin_hz)) + 1
        part = self.power[i:j].astype(np.float64)
        total = part.sum()
        return float(np.dot(np.arange(i, i + part.shape[0]), part) * self.bin_hz / total) if total > 0 else float("nan")


def spectrum_of(planes: Audio, rate_hz: int) -> Spectrum:
    """ONE transform of the whole signal (channels, samples), 50 ms fades, powers averaged over channels."""
    length = planes.shape[1]
    fade = min(int(FADE_S * rate_hz), length // 2)
    ramp = (0.5 - 0.5 * np.cos(np.pi * (np.arange(fade) + 0.5) / max(fade, 1))).astype(np.float32)
    window_energy = length - 2 * fade + 2 * float(np.sum(np.square(ramp, dtype=np.float64)))
    size = scipy.fft.next_fast_len(length, real=True)
    total: Audio | None = None
    for plane in planes:
        faded = plane.copy()
        faded[:fade] *= ramp
        faded[length - fade :] *= ramp[::-1]
        part = frames.power(scipy.fft.rfft(faded, size, overwrite_x=True))
        total = part if total is None else np.add(total, part, out=total)
    assert total is not None
    total *= np.float32(2.0 / (size * window_energy * planes.shape[0]))
    return Spectrum(total, rate_hz / size)


def block_powers(planes: Audio, size: int) -> npt.NDArray[np.float64]:
    """Mean square of consecutive whole blocks of ``size`` samples, averaged over channels."""
    count = planes.shape[1] // size
    total = np.zeros(count)
    for plane in planes:
        cells = plane[: count * size].reshape(count, size)
        total += np.einsum("ij,ij->i", cells, cells) / size
    return total / planes.shape[0]


def db(power: npt.ArrayLike) -> npt.NDArray[np.float64]:
    """10 lg of a power, floored far below any recording."""
    return np.asarray(10.0 * np.log10(np.maximum(power, TINY)), dtype=np.float64)


class Material:
    """A take as the readings see it.

    ``clip`` is the take as it came; ``work`` the same at 48 kHz. ``lead_in_s`` is the declared
    length of silence (noise only) before the playing, 0 where nothing was declared.
    ``dual_mono`` counts one channel as two for loudness (only when compared with stereo takes).
    """

    def __init__(self, clip: Clip, *, lead_in_s: float = 0.0, dual_mono: bool = False, lossy: bool = False) -> None:
        self.clip = clip
        self.lead_in_s = lead_in_s
        self.dual_mono = dual_mono
        self.lossy = lossy
        self._shared: dict[Callable[..., object], object] = {}

    def shared(self, compute: Callable[[Material], T]) -> T:
        """What ``compute`` gives for this take, computed once however many readings ask for it."""
        if compute not in self._shared:
            self._shared[compute] = compute(self)
        return cast(T, self._shared[compute])

    @cached_property
    def work(self) -> Clip:
        """The take at the analysis rate."""
        return for_analysis(self.clip)

    @cached_property
    def peak(self) -> float:
        """Largest absolute sample of the take as it came."""
        planes = self.clip.distinct
        return float(max(planes.max(initial=0.0), -planes.min(initial=0.0)))

    @property
    def silent(self) -> bool:
        """True below -100 dBFS: nothing that 16 bits could have recorded."""
        return self.peak < 1e-5

    @cached_property
    def whole(self) -> Spectrum:
        """The spectrum of the whole take."""
        return spectrum_of(self.work.distinct, self.work.rate_hz)

    @cached_property
    def blocks(self) -> npt.NDArray[np.float64]:
        """Mean square in each 50 ms block."""
        return block_powers(self.work.distinct, int(BLOCK_S * self.work.rate_hz))

    @property
    def usable_hz(self) -> float:
        """Highest frequency that the source rate can hold: 0.98 of its Nyquist frequency."""
        return 0.98 * self.clip.rate_hz / 2
