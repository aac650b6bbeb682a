"""A clip of audio: the one shape in which sound travels through the core."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
import numpy.typing as npt

from cata.errors import Invalid

Audio = npt.NDArray[np.float32]
Low = npt.NDArray[np.float32] | npt.NDArray[np.float16]
"""A copy at a low rate, to find things in."""

ANALYSIS_RATE_HZ = 48_000
BLOCK = 512


@dataclass(frozen=True)
class Clip:
    """Planar audio with its sampling rate.

    ``samples`` is float32, shape (channels, samples), full scale 1.0; ``rate_hz`` in Hz.
    Raises Invalid for another shape or dtype, no channel, or a rate that is not positive.
    """

    samples: Audio
    rate_hz: int

    def __post_init__(self) -> None:
        if self.samples.ndim != 2 or self.samples.shape[0] < 1:
            raise Invalid(f"samples must have shape (channels, samples), got {self.samples.shape}", "bad_samples")
        if self.samples.dtype != np.float32:
            raise Invalid(f"samples must be float32, got {self.samples.dtype}", "bad_samples")
        if self.rate_hz <= 0:
            raise Invalid(f"rate_hz must be positive, got {self.rate_hz}", "bad_samples")

    @classmethod
    def of(cls, samples: npt.ArrayLike, rate_hz: int) -> Clip:
        """A clip from anything array-like; one-dimensional input becomes one channel."""
        array = np.atleast_2d(np.asarray(samples, dtype=np.float32))
        return cls(np.ascontiguousarray(array), rate_hz)

    @property
    def channels(self) -> int:
        """Number of channels."""
        return int(self.samples.shape[0])

    @property
    def length(self) -> int:
        """Number of samples in each channel."""
        return int(self.samples.shape[1])

    @property
    def duration_s(self) -> float:
        """Duration in seconds."""
        return self.length / self.rate_hz

    @cached_property
    def distinct(self) -> Audio:
        """The channels that carry different signals, shape (1 or channels, samples).

        A mono take stored twice is common; working on it once halves every pass over it, and
        averaging powers over identical channels gives the same value.
        """
        first = self.samples[0]
        # A short look first: unequal channels, the costly case, are told apart at once.
        for other in self.samples[1:]:
            if not np.array_equal(first[:4096], other[:4096]) or not np.array_equal(first, other):
                return self.samples
        return self.samples[:1]

    @cached_property
    def block_extremes(self) -> tuple[Audio, Audio]:
        """Largest and smallest sample of every 512 in each distinct channel, the last block short.

        Two arrays of shape (channels, blocks).
        """
        planes = self.distinct
        whole = planes.shape[1] // BLOCK
        cells = planes[:, : whole * BLOCK].reshape(planes.shape[0], whole, BLOCK)
        high, low = cells.max(axis=2, initial=0.0), cells.min(axis=2, initial=0.0)
        if whole * BLOCK < planes.shape[1]:
            rest = planes[:, whole * BLOCK :]
            high = np.concatenate((high, rest.max(axis=1, keepdims=True, initial=0.0)), axis=1)
            low = np.concatenate((low, rest.min(axis=1, keepdims=True, initial=0.0)), axis=1)
        return high, low

    @cached_property
    def extremes(self) -> list[tuple[float, float]]:
        """Largest and smallest sample of each distinct channel."""
        high, low = self.block_extremes
        return [(float(h.max(initial=0.0)), float(v.min(initial=0.0))) for h, v in zip(high, low, strict=True)]

    @cached_property
    def mean_square(self) -> float:
        """Mean square of all channels, in float32: exact enough for shares and decibels, and quick."""
        planes = self.distinct
        return float(np.mean([float(np.dot(plane, plane)) / max(self.length, 1) for plane in planes]))

    @cached_property
    def side(self) -> bool:
        """True where the difference of two channels is stronger than their sum (inverted against each other)."""
        planes = self.distinct
        return planes.shape[0] > 1 and float(np.dot(planes[0], planes[1])) < 0.0

    @cached_property
    def carrier(self) -> Audio:
        """One channel that keeps the timing and pitch of the take, shape (samples,).

        The mid signal, or the side signal where it is stronger, so that a take whose channels
        are inverted against each other does not vanish. Never used for levels.
        """
        planes = self.distinct
        if planes.shape[0] == 1:
            return planes[0]
        mixed = planes[0] - planes[1] if self.side else planes[0] + planes[1]
        return mixed * np.float32(0.5)

    def cut(self, start: int, stop: int) -> Clip:
        """The samples from ``start`` to before ``stop`` (sample indices, clamped)."""
        return Clip(self.samples[:, max(start, 0) : max(stop, 0)], self.rate_hz)
