"""The passes over a take that several readings share, each made once and only when needed."""

from __future__ import annotations

from collections.abc import Callable
from functools import cached_property
from typing import TypeVar, cast

import numpy as np
import numpy.typing as npt

from cata.core.clip import ANALYSIS_RATE_HZ, Audio, Clip
from cata.core.measure import segments
from cata.core.measure.segments import Reduced, Spectrum
from cata.core.resample import for_analysis

CELL_S, BLOCK_S = 0.005, 0.05
HALF_RATE_HZ = ANALYSIS_RATE_HZ // segments.HALF
QUARTER_RATE_HZ = ANALYSIS_RATE_HZ // segments.QUARTER
LOW_RATE_HZ = ANALYSIS_RATE_HZ // segments.LOW
TINY = 1e-20
T = TypeVar("T")


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
        return max(max(high, -low) for high, low in self.clip.extremes)

    @property
    def silent(self) -> bool:
        """True below -100 dBFS: nothing that 16 bits could have recorded."""
        return self.peak < 1e-5

    @cached_property
    def _split(self) -> tuple[Spectrum, Reduced]:
        return segments.split(self.work.distinct, self.work.rate_hz, self.work.side)

    @property
    def whole(self) -> Spectrum:
        """The spectrum of the whole take."""
        return self._split[0]

    @property
    def reduced(self) -> Reduced:
        """The take at lower rates: :data:`HALF_RATE_HZ`, :data:`QUARTER_RATE_HZ` and :data:`LOW_RATE_HZ`."""
        return self._split[1]

    @cached_property
    def cells(self) -> npt.NDArray[np.float64]:
        """Mean square of consecutive 5 ms cells, averaged over channels."""
        return block_powers(self.work.distinct, int(CELL_S * self.work.rate_hz))

    @cached_property
    def block_means(self) -> npt.NDArray[np.float64]:
        """Mean in each 50 ms block of each distinct channel, shape (channels, blocks)."""
        size, planes = int(BLOCK_S * self.work.rate_hz), self.work.distinct
        # No sum in float64, which takes ten times as long.
        each = np.full(size, 1 / size, np.float32)
        return np.array([plane[: len(plane) // size * size].reshape(-1, size) @ each for plane in planes], np.float64)

    def powers_over(self, cells: int) -> npt.NDArray[np.float64]:
        """Mean square of consecutive stretches of so many 5 ms cells."""
        count = len(self.cells) // cells
        return np.asarray(self.cells[: count * cells].reshape(count, cells).mean(axis=1))

    @cached_property
    def blocks(self) -> npt.NDArray[np.float64]:
        """Mean square in each 50 ms block."""
        return self.powers_over(round(BLOCK_S / CELL_S))

    @property
    def usable_hz(self) -> float:
        """Highest frequency that the source rate can hold: 0.98 of its Nyquist frequency."""
        return 0.98 * self.clip.rate_hz / 2
