"""Two and three tones at once: what the device adds between the notes.

A clipper makes sums and differences of what goes in. Those that belong to neither note's own harmonics are dirt.
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import numpy.typing as npt
import scipy

from cata.core.clip import ANALYSIS_RATE_HZ
from cata.core.measure.device.bands import ROUNDING, TWO_OF_A_KIND
from cata.core.measure.device.returned import Returned
from cata.core.measure.outcome import Outcome, measured, refused
from cata.core.signals.testfile.layout import Section
from cata.said import said

Floats = npt.NDArray[np.float64]
Complex = npt.NDArray[np.complex128]

LENGTH = 4 * ANALYSIS_RATE_HZ
SKIP_S = 0.16
BIN_HZ = ANALYSIS_RATE_HZ / LENGTH
LOBE_HZ = 1.0
ORDER = 25
TOP_HZ = 20_000.0
CLEAR = 4.0
FLOOR_DB = -100.0
ALIKE = 2.8
"""Sum of the squared correlations of a bin's noise with its neighbours' under the window: a lobe's bins are alike."""
OVERLAP = 1.3
"""By how much windows that overlap tell less of a noise than as many that do not."""


@dataclass(frozen=True)
class Lines:
    """Bins of a chord's spectrum: its notes' own lines and the lines that only mixing makes, with the noise.

    ``own`` (n, bins) and ``mixed`` (m, bins) are complex; ``noise`` the mean |z|² of the noise in each, (n,) and (m,).
    """

    own: Complex
    mixed: Complex
    own_noise: Floats
    mixed_noise: Floats
    noise_doubt: float = 0.0
    """How well the silence tells the level of the noise, as a share."""

    @property
    def mixed_floor(self) -> Floats:
        """Noise in each bin that counts as mixed, (m, bins)."""
        return np.where(self.mixed != 0, self.mixed_noise[:, None], 0.0)

    @property
    def band_db(self) -> float:
        """How far two measurements of the clarity may lie apart through noise, 19 times in 20."""
        total = 0.0
        for lines, noise in ((self.own, np.broadcast_to(self.own_noise[:, None], self.own.shape)),
                             (self.mixed, self.mixed_floor)):  # fmt: skip
            # Below the noise a bin's power comes out negative as often as not: only their sum is worth something.
            power = np.abs(lines) ** 2 - noise
            variance = ALIKE * float(np.sum(noise**2) + max(2 * np.sum(power * noise), 0.0))
            variance += (self.noise_doubt * float(noise.sum())) ** 2
            total += variance / max(float(power.sum()), 1e-30) ** 2
        return TWO_OF_A_KIND * 10 / float(np.log(10)) * float(np.sqrt(total)) + ROUNDING


@lru_cache(maxsize=8)
def places(hz: tuple[float, ...]) -> tuple[npt.NDArray[np.intp], npt.NDArray[np.intp]]:
    """Centre bins of the notes' own harmonics, and of the products up to order 25 that stand apart from them."""
    own = {round(n * f / BIN_HZ) for f in hz for n in range(1, int(TOP_HZ / f) + 1)}
    taken = {bin_ + k for bin_ in own for k in range(-_half(), _half() + 1)}
    mixed: set[int] = set()
    reach = range(-ORDER, ORDER + 1)
    for orders in itertools.product(reach, repeat=len(hz)):
        if sum(map(abs, orders)) > ORDER or sum(o != 0 for o in orders) < 2:
            continue
        at = round(sum(o * f for o, f in zip(orders, hz, strict=True)) / BIN_HZ)
        if 20 / BIN_HZ <= at <= TOP_HZ / BIN_HZ and at not in taken:
            mixed.add(at)
    return np.array(sorted(own), dtype=np.intp), np.array(sorted(mixed), dtype=np.intp)


def _half() -> int:
    return round(LOBE_HZ / BIN_HZ)


def read_chord(
    returned: Returned, section: Section, density: Floats, density_hz: Floats, silence_s: float = 1.2
) -> Lines:
    """The lines of a chord section; ``density`` is the noise power of one sample's worth at ``density_hz``.

    ``silence_s`` is the length of the silence that it was read from.
    """
    # Side lobes 92 dB down, the main lobe 1 Hz to both sides in 4 s.
    window = scipy.signal.windows.blackmanharris(LENGTH, sym=False)
    cut = returned.cut(section.start_s + SKIP_S, LENGTH)
    spectrum = scipy.fft.rfft((cut - cut.mean()) * window)
    own, mixed = places(section.hz)
    energy = float(np.sum(window**2))

    def noise(at: npt.NDArray[np.intp]) -> Floats:
        return np.asarray(np.interp(at * BIN_HZ, density_hz, density) * energy)

    around = np.arange(-_half(), _half() + 1)
    middle = _middle(spectrum, mixed, own)
    # A noise is known as well as its time times the band it is looked at in; where many lines fall into one of the
    # silence's bins, they all lean on that one.
    width = float(density_hz[1])
    lean = np.bincount(np.round(mixed * BIN_HZ / width).astype(np.intp), weights=noise(mixed) * (middle != 0).sum(1))
    doubt = OVERLAP * float(np.sqrt(np.sum(lean**2) / (silence_s * width))) / max(float(lean.sum()), 1e-30)
    return Lines(spectrum[own[:, None] + around], middle, noise(own), noise(mixed), doubt)


def _middle(spectrum: Complex, mixed: npt.NDArray[np.intp], own: npt.NDArray[np.intp]) -> Complex:
    """Each product's own share of the spectrum: bins nearer to it than to any other line, up to 1 Hz away."""
    half = _half()
    around = np.arange(-half, half + 1)
    bins = mixed[:, None] + around
    lines = np.sort(np.concatenate((mixed, own)))
    upper = np.searchsorted(lines, bins, side="right")
    after = lines[np.minimum(upper, len(lines) - 1)]
    before = lines[np.maximum(upper - 1, 0)]
    nearest = np.where(np.abs(after - bins) < np.abs(bins - before), after, before)
    return np.where(nearest == mixed[:, None], spectrum[np.minimum(bins, len(spectrum) - 1)], 0.0)


def clarity_db(lines: Lines) -> Outcome:
    """Energy between the notes over the energy of the notes themselves, dB, noise removed: lower is clearer."""
    own = float(np.sum(np.abs(lines.own) ** 2 - lines.own_noise[:, None]))
    noise = lines.mixed_floor
    mixed = float(np.sum(np.abs(lines.mixed) ** 2 - noise))
    doubt = float(np.sqrt(ALIKE * np.sum(noise**2) + (lines.noise_doubt * np.sum(noise)) ** 2))
    if own <= 0:
        return refused(said("noise", "the notes do not stand out of the noise"))
    least = max(CLEAR * doubt, own * 10 ** (FLOOR_DB / 10))
    if mixed <= least:
        bound = 10 * float(np.log10(least / own))
        return measured(bound, said("noise", "nothing between the notes stands clear of the noise"), "at_most")
    return measured(10 * float(np.log10(mixed / own)))
