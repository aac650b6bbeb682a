"""The one long pass over a take: its power spectrum, and the take at lower rates.

The take is cut into stretches of 2.7 s that overlap by fades whose powers add up to one, so that their
energies sum to that of the take. A single transform of 30 s gives the same bands within 0.02 dB and
takes three times as long, for it does not fit the cache. The lower part of each stretch's spectrum, turned
back, is the take at a lower rate at no further cost in filters.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import numpy.typing as npt
import scipy
import soxr

from cata.core.clip import Audio
from cata.core.measure.kweight import k_response, k_weighted

# 64 * 2000. A power of two falls on the same lines of the cache again and again and costs a quarter more a sample; half
# the length lets a partial beside the edge of a band leak into it by up to 2 dB.
SEGMENT = 128_000
# A multiple of 64, so that a fade falls on whole samples at every reduced rate: 50.7 ms at 48 kHz.
FADE_SAMPLES = 2432
HALF, QUARTER, LOW = 2, 4, 64
SETTLE_SAMPLES = 4800
REACH_OUT = 128
"""Samples at the lower rate that its filter looks beyond a place, generously."""

Spectra = npt.NDArray[np.complex64]


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
        i, j = round(low_hz / self.bin_hz), round(high_hz / self.bin_hz) + 1
        part = self.power[i:j].astype(np.float64)
        total = part.sum()
        return float(np.dot(np.arange(i, i + part.shape[0]), part) * self.bin_hz / total) if total > 0 else float("nan")


@dataclass(frozen=True)
class Reduced:
    """A take at lower rates: channels at 1/2, plain and K-weighted; the carrier at 1/4 and 1/64, shape (samples,)."""

    half: Audio
    half_weighted: Audio
    quarter: Audio
    low: Audio


@lru_cache(maxsize=8)
def _ramp(length: int) -> Audio:
    """A rising fade whose square and that of its mirror image add up to one."""
    return np.asarray(np.sin(0.5 * np.pi * (np.arange(length) + 0.5) / max(length, 1)), dtype=np.float32)


@dataclass(frozen=True)
class _Cut:
    """How a signal is cut: segment size, samples of fade, and number of segments."""

    size: int
    fade: int
    count: int

    @property
    def hop(self) -> int:
        return self.size - self.fade


def _cut_of(length: int) -> _Cut:
    fade = min(FADE_SAMPLES, length // 2 // LOW * LOW)
    if length <= SEGMENT:
        return _Cut(LOW * int(scipy.fft.next_fast_len(-(-length // LOW), real=True)), fade, 1)
    return _Cut(SEGMENT, fade, -(-(length - fade) // (SEGMENT - fade)))


def _segments(plane: Audio, cut: _Cut) -> Audio:
    """The faded stretches of one channel, shape (count, size); the last is filled up with zeros."""
    rows = np.empty((cut.count, cut.size), dtype=np.float32)
    ramp = _ramp(cut.fade)
    for index, row in enumerate(rows):
        part = plane[index * cut.hop : index * cut.hop + cut.size]
        row[: len(part)] = part
        row[len(part) :] = 0.0
        row[: cut.fade] *= ramp
        row[len(part) - cut.fade : len(part)] *= ramp[::-1]
    return rows


def _joined(
    spectra: Spectra,
    cut: _Cut,
    plane: Audio,
    factor: int,
    shape: Callable[[Audio], Audio] | None = None,
    out: Audio | None = None,
    already: int = 1,
) -> Audio:
    """The channel at 1/factor of the rate from the spectra of its stretches: faded once more, then added up.

    ``shape`` is the filter in time that the spectra were multiplied with, if any; ``out`` where to put it;
    ``already`` the factor at which ``plane``, from which the ends are taken, is itself reduced.
    """
    size, fade, hop = cut.size // factor, cut.fade // factor, cut.hop // factor
    length = -(-len(plane) // (factor // already))
    rows = scipy.fft.irfft(spectra[:, : size // 2 + 1], size, axis=1)
    up, down = _ramp(cut.fade)[::factor], _ramp(cut.fade)[::-1][::factor]
    scale = np.float32(1 / factor)
    out = np.empty(length, dtype=np.float32) if out is None else out
    for index, row in enumerate(rows):
        start, end = index * hop, min(size, length - index * hop)
        row[:fade] *= up
        row[end - fade : end] *= down
        if index:
            # What the stretch before left here is already at its scale.
            out[start : start + fade] += row[:fade] * scale
        first = fade if index else 0
        np.multiply(row[first:end], scale, out=out[start + first : start + end])
    _mend_ends(out, plane, cut.fade // already, factor // already, shape)
    return out


def _mend_ends(out: Audio, plane: Audio, fade: int, factor: int, shape: Callable[[Audio], Audio] | None) -> None:
    """Replace what was faded at the very ends, where no neighbour makes up for it, by directly filtered samples."""
    few = fade // factor
    if few == 0:
        return
    reach = fade + REACH_OUT * factor
    settle = SETTLE_SAMPLES // LOW * LOW if shape else 0
    head = plane[:reach]
    head = soxr.resample(shape(head) if shape else head, factor, 1, quality="HQ")[:few]
    out[: len(head)] = head
    first = max(0, (len(plane) - reach - settle) // factor * factor)
    part = shape(plane[first:]) if shape else plane[first:]
    tail = np.asarray(soxr.resample(part, factor, 1, quality="HQ"))[: len(out) - first // factor]
    end = first // factor + len(tail)
    out[end - min(few, len(tail)) : end] = tail[-few:]


def _spectra_of(plane: Audio, cut: _Cut) -> Spectra:
    return np.asarray(scipy.fft.rfft(_segments(plane, cut), axis=1, overwrite_x=True))


def _add_power(total: Audio, spectra: Spectra) -> None:
    parts = spectra.view(np.float32)
    squares = np.einsum("ij,ij->j", parts, parts)
    total += squares[0::2]
    total += squares[1::2]


def _scaled(total: Audio, cut: _Cut, length: int, channels: int, rate_hz: int) -> Spectrum:
    window_energy = length - 2 * cut.fade + 2 * float(np.sum(np.square(_ramp(cut.fade), dtype=np.float64)))
    total *= np.float32(2.0 / (cut.size * window_energy * channels))
    return Spectrum(total, rate_hz / cut.size)


def spectrum_of(planes: Audio, rate_hz: int) -> Spectrum:
    """Power spectrum of a signal (channels, samples), powers averaged over channels."""
    cut = _cut_of(planes.shape[1])
    total = np.zeros(cut.size // 2 + 1, dtype=np.float32)
    for plane in planes:
        _add_power(total, _spectra_of(plane, cut))
    return _scaled(total, cut, planes.shape[1], planes.shape[0], rate_hz)


def split(planes: Audio, rate_hz: int, side: bool) -> tuple[Spectrum, Reduced]:
    """Spectrum and reduced rates of a signal (one or two channels, samples).

    ``side``: the carrier is half the difference of two channels instead of half their sum.
    """
    cut = _cut_of(planes.shape[1])
    total = np.zeros(cut.size // 2 + 1, dtype=np.float32)
    half = np.empty((planes.shape[0], -(-planes.shape[1] // HALF)), dtype=np.float32)
    weighted = np.empty_like(half)
    bottom: Spectra | None = None
    weight = np.float32(1.0 if planes.shape[0] == 1 else 0.5)
    response = k_response(rate_hz, cut.size // 2 + 1)[: cut.size // HALF // 2 + 1]
    for index, plane in enumerate(planes):
        spectra = _spectra_of(plane, cut)
        _add_power(total, spectra)
        _joined(spectra, cut, plane, HALF, out=half[index])
        part = spectra[:, : cut.size // QUARTER // 2 + 1] * (-weight if side and index else weight)
        bottom = part if bottom is None else bottom + part
        lower = spectra[:, : cut.size // HALF // 2 + 1]
        lower *= response
        _joined(lower, cut, plane, HALF, lambda x: k_weighted(x, rate_hz), out=weighted[index])
    assert bottom is not None
    quarter = _joined(bottom, cut, _EndsOf(planes, side), QUARTER)  # type: ignore[arg-type]
    low = _joined(bottom, cut, quarter, LOW, already=QUARTER)
    reduced = Reduced(half, weighted, quarter, low)
    return _scaled(total, cut, planes.shape[1], planes.shape[0], rate_hz), reduced


class _EndsOf:
    """The carrier of a signal, mixed only where it is looked at (its ends)."""

    def __init__(self, planes: Audio, side: bool) -> None:
        self._planes, self._side = planes, side

    def __len__(self) -> int:
        return self._planes.shape[1]

    def __getitem__(self, part: slice) -> Audio:
        first = self._planes[0][part]
        if self._planes.shape[0] == 1:
            return first
        second = self._planes[1][part]
        return np.asarray((first - second if self._side else first + second) * np.float32(0.5))
