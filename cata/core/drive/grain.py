"""The grain of a take: how filled its spectrum is between the partials, whatever equaliser or speaker stands behind.

Clipping lifts what lies between the partials. Two families of numbers show it, both blind to a smooth filter:
the share of 1/12-octave cells that come near a frame's strongest once the take's own mean spectrum is divided out, and
the depth of the valleys, which is the mean of a stretch of bins over their geometric mean.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import scipy

from cata.core.clip import Audio
from cata.core.measure import frames
from cata.core.measure.drive import cell_edges
from cata.core.measure.material import HALF_RATE_HZ, Material, db

Floats = npt.NDArray[np.float64]

SIZE, HOP = 4096, 2048
BIN_HZ = HALF_RATE_HZ / SIZE
TOP = round(8000.0 / BIN_HZ)
LOWEST = round(60.0 / BIN_HZ)
MAX_FRAMES = round(20.0 * HALF_RATE_HZ / HOP)
FRAME_RANGE_DB = 30.0
MIN_FRAMES = 12
FILL_DB = (15.0, 25.0)
VALLEYS_HZ = ((100.0, 400.0), (400.0, 1000.0), (1000.0, 2200.0), (2200.0, 4500.0))
HEARD_HZ = (60.0, 6000.0)
# Bins to either side over which a valley is looked for: 59 Hz, less than the partials of the lowest string lie apart.
REACH = 10
HEARD_POWER = 0.3
TINY = 1e-13
QUIET_FRAMES, NOISE_DEPTH_DB, CLEAR_DB = 3, 3.5, 50.0


@dataclass(frozen=True)
class Grain:
    """How filled a take is.

    ``values``: the share of cells within 15 and 25 dB, minus the depth of the valleys in dB in four bands and, weighed
    by what is heard, over all. ``colour``: mean power of the bins up to 8 kHz; ``noise`` the same of what is left in
    the rests, None where what is left is no noise.
    """

    values: Floats
    colour: Floats
    noise: Floats | None

    @property
    def noisy(self) -> bool:
        """True where the noise of the take stands between the partials too."""
        if self.noise is None:
            return False
        low, high = (round(hz / BIN_HZ) for hz in (VALLEYS_HZ[0][0], VALLEYS_HZ[-1][1]))
        return float(np.mean((db(smooth(self.colour)) - db(self.noise))[low:high])) < CLEAR_DB


def spectra_of(signal: Audio) -> npt.NDArray[np.complex64]:
    """Spectra of a signal at 24 kHz, shape (frames, bins to 8 kHz)."""
    window = frames.blackman_harris(SIZE)
    return np.concatenate([batch[:, :TOP] for batch in frames.batches(signal, window, HOP)])


def grain_of(material: Material) -> Grain | None:
    """The grain of the first 20 s that a take plays; None where less than a second of it sounds."""
    power = np.zeros((1, 1), dtype=np.float32)
    for plane in material.reduced.half:
        power = power + frames.power(np.ascontiguousarray(spectra_of(plane)))
    return grain_of_power(power)


def played(power: Audio) -> slice:
    """The frames from where the playing begins, 20 s at most."""
    total = power[:, LOWEST:].sum(axis=1)
    begin = int(np.argmax(total > 10 ** (-FRAME_RANGE_DB / 10) * np.percentile(total, 95)))
    return slice(begin, begin + MAX_FRAMES)


def grain_of_power(power: Audio) -> Grain | None:
    """The grain of the powers (frames, bins) of :func:`spectra_of`."""
    total = power[:, LOWEST:].sum(axis=1, dtype=np.float64)
    if total.max(initial=0.0) <= 0:
        return None
    part = played(power)
    loud = part.start + np.flatnonzero(total[part] > 10 ** (-FRAME_RANGE_DB / 10) * np.percentile(total, 95))
    if len(loud) < MIN_FRAMES:
        return None
    heard = power[loud] / np.float32(total.max())
    colour = heard.mean(axis=0, dtype=np.float64)
    return Grain(np.concatenate([_fills(heard), _valleys(heard)]), colour, _noise(power, total))


def smooth(power: Floats) -> Floats:
    """A mean power spectrum over 240 Hz around each bin: no partials, only colour."""
    width = np.ones(4 * REACH + 1)
    return np.asarray(np.convolve(power, width, mode="same") / np.convolve(np.ones(len(power)), width, mode="same"))


def _noise(power: Audio, total: Floats) -> Floats | None:
    quiet = power[np.argsort(total)[:QUIET_FRAMES]] / np.float32(total.max())
    # What still rings has lines: noise has none.
    return smooth(quiet.mean(axis=0, dtype=np.float64)) if -_valleys(quiet)[:-1].mean() < NOISE_DEPTH_DB else None


def _fills(heard: Audio) -> Floats:
    edges = cell_edges(HALF_RATE_HZ)
    cells = np.add.reduceat(heard[:, : edges[-1]], edges[:-1], axis=1)
    cells /= np.maximum(cells.mean(axis=0), TINY)
    top = cells.max(axis=1, keepdims=True)
    return np.array([np.mean(cells > top * np.float32(10 ** (-reach / 10))) for reach in FILL_DB])


def _valleys(heard: Audio) -> Floats:
    tiny = np.float32(TINY)
    # A moving sum leaves a little under zero where there is nothing.
    mean = np.maximum(scipy.ndimage.uniform_filter1d(heard, 2 * REACH + 1, axis=1), 0)
    geometric = scipy.ndimage.uniform_filter1d(10 * np.log10(heard + tiny), 2 * REACH + 1, axis=1)
    depth = 10 * np.log10(mean + tiny) - geometric
    low, high = (round(hz / BIN_HZ) for hz in HEARD_HZ)
    weight = (mean[:, low:high] + tiny) ** np.float32(HEARD_POWER)
    depths = [depth[:, round(start / BIN_HZ) : round(end / BIN_HZ)].mean() for start, end in VALLEYS_HZ]
    return -np.array([*depths, (depth[:, low:high] * weight).sum() / weight.sum()], dtype=np.float64)
