"""What the strokes of a phrase leave open: by how much a reading of tone scatters when a player strikes them anew.

Two takes of a test play the same strokes. Where their difference hangs on single strokes (left out one by one: the
jackknife, Efron and Stein 1981) it says less of the device than where all strokes agree. Notes that differ within the
phrase cancel, for both takes play them; what a hand does to a whole take does not show.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import lru_cache
from statistics import median

import numpy as np
import numpy.typing as npt

from cata.core.measure import frames
from cata.core.measure.material import Material
from cata.core.measure.regions import REGIONS, THIRD_OCTAVES_HZ, band_edges

Floats = npt.NDArray[np.float64]

SIZE, HOP_S = 4096, 0.05
SNAP_S, FEWEST = 0.12, 4
TINY = 1e-12
HARSH_HZ, BODY_HZ = (2500.0, 8000.0), (250.0, 2500.0)
TILT_HZ = (100, 8000)


@lru_cache(maxsize=2)
def _edges(rate_hz: int) -> npt.NDArray[np.intp]:
    hz = [band_edges(nominal)[0] for nominal in THIRD_OCTAVES_HZ] + [band_edges(THIRD_OCTAVES_HZ[-1])[1]]
    return np.round(np.array(hz) * SIZE / rate_hz).astype(np.intp)


def band_powers(material: Material) -> Floats:
    """Power in each third octave every 50 ms, shape (24, frames)."""
    work = material.work
    padded = np.pad(work.carrier, (SIZE // 2, SIZE // 2))
    hop, edges = int(HOP_S * work.rate_hz), _edges(work.rate_hz)
    rows = [
        np.add.reduceat(frames.power(spectra[:, : edges[-1]]), edges[:-1], axis=1)
        for spectra in frames.batches(padded, frames.hann(SIZE, periodic=True), hop)
    ]
    return np.asarray(np.concatenate(rows).T, dtype=np.float64)


def strokes_apart(
    one: Floats, other: Floats, onsets_s: Sequence[Floats], lag_s: float = 0.0, tempo: float = 1.0
) -> dict[str, float]:
    """By reading ("key" or "key.part"), what the strokes leave open in it of either take, as a standard deviation.

    ``one`` and ``other`` as of :func:`band_powers`, with the onsets of both in seconds; ``lag_s`` and ``tempo`` of the
    other against the one. Empty with fewer than four strokes.
    """
    cuts = np.asarray(onsets_s[0][1:], dtype=float)
    if len(cuts) + 1 < FEWEST:
        return {}
    first, second = _by_stroke(one, cuts), _by_stroke(other, _snapped(lag_s + cuts / tempo, onsets_s[1]))
    count = first.shape[1]
    both = [taken.sum(axis=1, keepdims=True) - taken for taken in (first, second)]
    left = _readings(both[1]) - _readings(both[0])
    scatter = np.sqrt((count - 1) / count * np.sum((left - left.mean(axis=1, keepdims=True)) ** 2, axis=1) / 2)
    return dict(zip(NAMES, scatter.tolist(), strict=True))


def together(pairs: Sequence[Mapping[str, float]]) -> dict[str, float]:
    """What the strokes of a test leave open, over pairs of its takes: most devices add nothing to it, some do."""
    known = [one for one in pairs if one]
    return {key: median(one[key] for one in known) for key in (known[0] if known else ())}


def _snapped(times: Floats, onsets: Floats) -> Floats:
    """Times, each at the onset that is meant, where there is one."""
    if not len(onsets):
        return times
    near = np.asarray(onsets)[np.argmin(np.abs(np.subtract.outer(times, onsets)), axis=1)]
    return np.where(np.abs(near - times) < SNAP_S, near, times)


def _by_stroke(powers: Floats, cuts: Floats) -> Floats:
    """Energies of each stroke, shape (24, strokes)."""
    at = np.digitize(np.arange(powers.shape[1]) * HOP_S, np.sort(cuts))
    found = np.zeros((len(powers), len(cuts) + 1))
    np.add.at(found.T, at, powers.T)
    return found


def _readings(energies: Floats) -> Floats:
    """The readings of tone of some takes, shape (readings, takes), from their energies by third octave."""
    level = 10 * np.log10(np.maximum(energies, TINY))
    bands = level - 10 * np.log10(np.maximum(energies.sum(axis=0), TINY))
    regions = [_share(energies, region.low_hz, region.high_hz) for region in REGIONS]
    harsh = _share(energies, *HARSH_HZ) - _share(energies, *BODY_HZ)
    used = [at for at, hz in enumerate(THIRD_OCTAVES_HZ) if TILT_HZ[0] <= hz <= TILT_HZ[1]]
    tilt = np.polyfit(np.arange(len(used)) / 3, level[used], 1)[:1]
    found: Floats = np.vstack([bands, *regions, harsh, tilt])
    return found


def _share(energies: Floats, low_hz: float, high_hz: float) -> Floats:
    inside = [at for at, hz in enumerate(THIRD_OCTAVES_HZ) if low_hz < hz <= high_hz]
    share = np.maximum(energies[inside].sum(axis=0), TINY) / np.maximum(energies.sum(axis=0), TINY)
    found: Floats = 10 * np.log10(share)
    return found


NAMES = (
    *(f"third_octaves_db.{hz}" for hz in THIRD_OCTAVES_HZ),
    *(f"regions_db.{region.key}" for region in REGIONS),
    "harshness_db",
    "tilt_db_per_oct",
)
"""The readings that are told, in the order of :func:`_readings`."""
