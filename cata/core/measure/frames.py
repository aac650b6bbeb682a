"""Batched short-time spectra in float32.

Frames are transformed a few dozen at a time so that a batch stays in the cache: it is faster
than one transform of all frames and adds little memory. scipy's own short-time classes compute
in float64 and cost three to five times as much.
"""

from __future__ import annotations

from collections.abc import Iterator
from functools import lru_cache

import numpy as np
import numpy.typing as npt
import scipy

from cata.core.clip import Audio

BATCH_SAMPLES = 1 << 17


def batches(
    signal: Audio, window: Audio, hop: int, rows: npt.NDArray[np.intp] | None = None
) -> Iterator[npt.NDArray[np.complex64]]:
    """Spectra of the windowed frames of ``signal`` (samples,), in batches (frames, bins).

    ``rows`` picks frames by number; all whole frames otherwise. A signal shorter than the window
    gives one frame, padded with zeros.
    """
    size = window.shape[0]
    if signal.shape[0] < size:
        signal = np.pad(signal, (0, size - signal.shape[0]))
    frames = np.lib.stride_tricks.sliding_window_view(signal, size)[::hop]
    step = max(1, BATCH_SAMPLES // size)
    count = frames.shape[0] if rows is None else len(rows)
    for start in range(0, count, step):
        part = frames[start : start + step] if rows is None else frames[rows[start : start + step]]
        yield scipy.fft.rfft(part * window, axis=1, overwrite_x=True)


@lru_cache(maxsize=16)
def blackman_harris(size: int) -> Audio:
    """Four-term Blackman-Harris window, periodic (Harris 1978); shared, so it cannot be written to."""
    return _kept(scipy.signal.windows.blackmanharris(size, sym=False))


@lru_cache(maxsize=16)
def hann(size: int, periodic: bool = False) -> Audio:
    """Hann window; shared, so it cannot be written to."""
    return _kept(scipy.signal.windows.hann(size, sym=not periodic))


def _kept(window: npt.NDArray[np.float64]) -> Audio:
    kept = window.astype(np.float32)
    kept.setflags(write=False)
    return kept


def power(spectrum: npt.NDArray[np.complex64]) -> Audio:
    """|X|² without the square root and the temporary of ``abs``."""
    flat = spectrum.view(np.float32)
    np.multiply(flat, flat, out=flat)
    return np.asarray(flat[..., 0::2] + flat[..., 1::2], dtype=np.float32)


def frame_count(length: int, size: int, hop: int) -> int:
    """Number of frames :func:`batches` yields for a signal of ``length`` samples."""
    return max(0, length - size) // hop + 1
