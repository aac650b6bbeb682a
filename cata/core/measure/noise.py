"""Noise floor: the level of what sounds while nobody plays.

The mean is removed and everything below 20 Hz filtered out. A declared lead-in is measured as it
is; otherwise the quietest steady half second gives an upper bound. A low percentile of levels is
no noise floor: in continuous playing it lies 26 dB too high.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import numpy.typing as npt
import scipy

from cata.core.clip import Audio
from cata.core.measure.material import Material, block_powers, db
from cata.core.measure.outcome import SILENT, Outcome, measured, refused, too_short
from cata.core.measure.segments import Spectrum, spectrum_of
from cata.said import Said, said

HIGH_PASS_HZ = 20.0
BLOCK_S, WINDOW_BLOCKS = 0.05, 10
STEADY_DB, MAX_SLOPE_DB_PER_S = 3.0, 6.0
CLEAR_OF_PLAYING_DB = 20.0
MIN_LEAD_IN_S = 0.2
PREROLL_S = 0.5


@dataclass(frozen=True)
class Noise:
    """A stretch of noise: its filtered samples (channels, samples), mean square, and whether it was declared."""

    samples: Audio
    power: float
    declared: bool

    def spectrum(self, rate_hz: int) -> Spectrum:
        """Power spectrum of the stretch."""
        return spectrum_of(self.samples, rate_hz)


@lru_cache(maxsize=4)
def _high_pass(rate_hz: int) -> npt.NDArray[np.float64]:
    return np.asarray(scipy.signal.butter(2, HIGH_PASS_HZ, "highpass", fs=rate_hz, output="sos"))


def filtered(planes: Audio, start: int, stop: int, rate_hz: int) -> Audio:
    """Samples start..stop with the mean removed and a 20 Hz high-pass that has settled before ``start``."""
    preroll = int(PREROLL_S * rate_hz)
    first = max(0, start - preroll)
    part = planes[:, first:stop].astype(np.float64)
    part -= part.mean(axis=1, keepdims=True)
    lead = preroll - (start - first)
    if lead:
        part = np.pad(part, ((0, 0), (min(lead, part.shape[1] - 1), 0)), mode="reflect", reflect_type="odd")
    return np.asarray(scipy.signal.sosfilt(_high_pass(rate_hz), part)[:, -(stop - start) :], dtype=np.float32)


def _steady(levels: npt.NDArray[np.float64]) -> bool:
    if np.ptp(levels) > STEADY_DB:
        return False
    times = (np.arange(len(levels)) - (len(levels) - 1) / 2) * BLOCK_S
    return bool(abs(np.dot(times, levels) / np.dot(times, times)) <= MAX_SLOPE_DB_PER_S)


def find_noise(material: Material) -> Noise | Said:
    """The declared lead-in or the quietest steady half second; a reason where there is none."""
    clip = material.work
    size = int(BLOCK_S * clip.rate_hz)
    if material.lead_in_s > 0:
        stop = int(material.lead_in_s * clip.rate_hz)
        if material.lead_in_s < MIN_LEAD_IN_S or stop > clip.length:
            return said(
                "lead_in",
                "the declared lead-in of {lead_in_s:g} s is shorter than {least_s:g} s or longer than the take",
                lead_in_s=material.lead_in_s,
                least_s=MIN_LEAD_IN_S,
            )
        samples = filtered(clip.distinct, 0, stop, clip.rate_hz)
        power = float(np.mean(np.square(samples, dtype=np.float64)))
        return Noise(samples, power, True) if power > 0 else GATED
    if material.silent or len(material.blocks) < WINDOW_BLOCKS:
        return SILENT if material.silent else too_short(BLOCK_S * WINDOW_BLOCKS)
    return _quietest(material, size)


def _quietest(material: Material, size: int) -> Noise | Said:
    planes, rate = material.work.distinct, material.work.rate_hz
    # Without the mean of each block, so that a constant offset does not hide the quiet places.
    powers = np.maximum(material.blocks - np.mean(np.square(material.block_means), axis=0), 0.0)
    windows = np.lib.stride_tricks.sliding_window_view(powers, WINDOW_BLOCKS)
    if np.any(windows.max(axis=1) < 1e-13):
        return said(
            "digital_silence", "digital silence: the pauses were gated or cut to zero, so the noise is not in the file"
        )
    for start in np.argsort(windows.mean(axis=1))[:40]:
        if not _steady(db(windows[start])):
            continue
        samples = filtered(planes, start * size, (start + WINDOW_BLOCKS) * size, rate)
        power = float(np.mean(block_powers(samples, size)))
        loud = float(np.percentile(material.blocks, 95))
        if db(loud) - db(power) < CLEAR_OF_PLAYING_DB:
            return said(
                "no_pause",
                "no pause in the playing: its quietest half second is less than {least_db:.0f} dB below the playing",
                least_db=CLEAR_OF_PLAYING_DB,
            )
        return Noise(samples, power, False)
    return said("no_pause", "no steady quiet half second")


GATED = said("digital_silence", "digital silence in the lead-in: the noise was gated away")
QUIETEST = said("quietest", "the quietest half second: no lead-in of silence was declared")
DIGITAL_SILENCE = 1e-16
"""-160 dBFS: less than 24 bits can hold."""


def noise_floor_dbfs(material: Material) -> Outcome:
    """RMS of the noise in dBFS; an upper bound unless the lead-in was declared."""
    noise = material.shared(find_noise)
    if isinstance(noise, Said):
        return refused(noise)
    if noise.power <= DIGITAL_SILENCE:
        return refused(said("digital_silence", "digital silence: no noise was recorded"))
    level = float(db(noise.power))
    if noise.declared:
        return measured(level)
    return measured(level, QUIETEST, "at_most")
