"""A ladder of known drive, made of a clean take: through standard clippers in steps, the share of each step known."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import scipy

from cata.core.clip import Audio
from cata.core.drive.grain import HOP, LOWEST, SIZE, Floats, Grain, grain_of_power, played, smooth, spectra_of
from cata.core.measure import frames
from cata.core.measure.material import HALF_RATE_HZ
from cata.core.resample import downsample, upsample

OVERSAMPLING = 4
STEPS_DB = tuple(range(-6, 49, 6))
TOP_SHARE = 0.9995
HUMP_HZ = 600.0
OVER_SUBTRACTED = 6.0
Spectra = npt.NDArray[np.complex64]


@dataclass(frozen=True)
class Rung:
    """A clean take after a clipper.

    ``power`` of its spectra (frames, bins), its grain, and by bin how much of it is a linear image of the clean take.
    """

    power: Audio
    grain: Grain
    linear: Floats

    def share(self, colour: Floats) -> float:
        """Share of the power from 60 Hz to 8 kHz that is none, had the clipped take this mean spectrum."""
        heard = colour[LOWEST:]
        return float(1 - (self.linear[LOWEST:] * heard).sum() / heard.sum())


@dataclass(frozen=True)
class Ladder:
    """A clean take, and a run of rungs for each kind of clipper, from the least drive to the most."""

    foot: Rung
    runs: tuple[tuple[Rung, ...], ...]

    def seen_through(self, grain: Grain) -> Ladder:
        """The ladder as it would look through the noise of a take, at the colour of that take."""
        if grain.noise is None or not grain.noisy:
            return self
        foot, *rungs = (_through(rung, grain) for rung in (self.foot, *(rung for run in self.runs for rung in run)))
        rest = iter(rungs)
        return Ladder(foot, tuple(tuple(next(rest) for _ in run) for run in self.runs))


def _through(rung: Rung, grain: Grain) -> Rung:
    assert grain.noise is not None
    chance = np.random.default_rng(1).exponential(1.0, rung.power.shape)
    as_loud = smooth(grain.colour - np.minimum(grain.noise, grain.colour)) / smooth(rung.grain.colour)
    scale = rung.power[:, LOWEST:].sum(axis=1, dtype=np.float64).max()
    power = rung.power / np.float32(scale) * as_loud + grain.noise * chance
    found = grain_of_power(power.astype(np.float32))
    return Rung(rung.power, found or rung.grain, rung.linear)


def coherence_of(dry: Spectra, wet: Spectra) -> Floats:
    """Magnitude-squared coherence by bin of two series of spectra (frames, bins). Source: Bendat and Piersol 1980."""
    cross = np.square(np.abs(np.einsum("ij,ij->j", np.conj(dry), wet, dtype=np.complex128)))
    own = np.einsum("ij,ij->j", np.abs(dry), np.abs(dry), dtype=np.float64)
    other = np.einsum("ij,ij->j", np.abs(wet), np.abs(wet), dtype=np.float64)
    return np.asarray(np.minimum(cross / np.maximum(own * other, 1e-60), 1.0))


def _soft(signal: Audio) -> Audio:
    return np.tanh(signal)


def _hard(signal: Audio) -> Audio:
    return np.clip(signal, -1.0, 1.0)


def _without_noise(signal: Audio, grain: Grain) -> Audio:
    """A take without what its rests hold: the gear made its noise after the drive, the clippers must not amplify it."""
    if grain.noise is None or not grain.noisy:
        return signal
    window = scipy.signal.windows.hann(SIZE, sym=False)
    transform = scipy.signal.ShortTimeFFT(window, SIZE // 4, HALF_RATE_HZ)
    spectra = transform.stft(signal)
    power = np.square(np.abs(spectra))
    # Only bins up to 8 kHz are known; above them the last one stands for all.
    noise = np.pad(grain.noise, (0, len(power) - len(grain.noise)), mode="edge")[:, None]
    scale = power[: len(grain.noise)].mean() / (grain.colour.mean() or 1.0)
    spectra *= np.maximum(1 - OVER_SUBTRACTED * noise * scale / np.maximum(power, 1e-30), 0)
    return np.asarray(transform.istft(spectra, k1=len(signal)), dtype=np.float32)


def ladder_of(signal: Audio) -> Ladder | None:
    """The ladder of a clean take at 24 kHz; None where less than a second of it sounds."""
    power = frames.power(spectra_of(signal))
    part, grain = played(power), grain_of_power(power)
    if grain is None:
        return None
    signal = _without_noise(signal, grain)[part.start * HOP : part.stop * HOP + SIZE]
    dry = spectra_of(signal)
    foot = grain_of_power(frames.power(dry.copy()))
    if foot is None:
        return None
    plain = upsample(signal, OVERSAMPLING)
    cut = scipy.signal.butter(1, HUMP_HZ, "high", fs=HALF_RATE_HZ * OVERSAMPLING, output="sos").astype(np.float32)
    humped = scipy.signal.sosfilt(cut, plain).astype(np.float32)
    ways = ((plain, _soft), (plain, _hard), (humped, _soft))
    ground = Rung(frames.power(dry.copy()), foot, np.ones(dry.shape[1]))
    return Ladder(ground, tuple(tuple(_rungs(into, clip, dry)) for into, clip in ways))


def _rungs(into: Audio, clip: Callable[[Audio], Audio], dry: Spectra) -> list[Rung]:
    top = np.quantile(np.abs(into), TOP_SHARE)
    found = []
    for step in STEPS_DB:
        wet = spectra_of(downsample(clip(into * np.float32(10 ** (step / 20) / top)), OVERSAMPLING))[: len(dry)]
        linear = coherence_of(dry[: len(wet)], wet)
        power = frames.power(wet)
        grain = grain_of_power(power)
        if grain is not None:
            found.append(Rung(power, grain, linear))
    return found
