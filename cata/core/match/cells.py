"""What a cell of the table shows of itself, for the rules that look at a whole flight."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from cata.core.drive.grain import BIN_HZ
from cata.core.match.features import Features
from cata.core.match.room import HOP_S, QUIET_SHARE, fall_of, stop_of
from cata.core.measure.regions import THIRD_OCTAVES_HZ, band_edges
from cata.core.measure.results import Results

Floats = npt.NDArray[np.float64]

BODY_HZ = (100, 5000)
LOUD_SHARE = 95.0
"""Percentile of a take's level: how loud its playing is."""
OVER_NOISE_DB = 10.0
"""A band that is not as far over the take's own noise shows the noise's tone."""


@dataclass(frozen=True, kw_only=True)
class Cell:
    """A take at its place in the table; ``index`` is its place in the set that is audited.

    ``contender`` and ``test`` are how a person calls them. ``bands_db`` its third octaves against the middle of its
    body, nan where they are not known or hidden by its noise; ``fall_db`` how far the level falls where the playing
    stops, ``stop_s`` after its last stroke at ``last_s``, nan where that cannot be seen; ``rest_db`` its quietest
    moments against its playing, ``hum_share`` of which lies on lines of the mains; ``plr_db`` its peak over its
    loudness; ``levels_db`` every 10 ms.
    """

    index: int
    row: int
    column: int
    contender: str
    test: str
    bands_db: Floats
    fall_db: float
    stop_s: float
    last_s: float
    loudness_lufs: float | None
    rest_db: float
    hum_share: float
    plr_db: float | None
    levels_db: Floats

    @property
    def name(self) -> str:
        """The take as it is called."""
        return f"{self.contender} in {self.test}"

    @property
    def key(self) -> tuple[int, int]:
        """Its place."""
        return self.row, self.column


def cell_of(
    index: int, row: int, column: int, contender: str, test: str, features: Features, results: Results
) -> Cell | None:
    """A cell from what was kept of its take; None for one that is silent or too short for its bands."""
    bands = results.parts("third_octaves_db")
    if features.silent or not bands:
        return None
    blocks = features.blocks_db
    return Cell(
        index=index,
        row=row,
        column=column,
        contender=contender,
        test=test,
        bands_db=np.where(_over_noise(features), _levels(bands), np.nan),
        fall_db=fall_of(features.levels_db, features.onsets_s),
        stop_s=stop_of(features.levels_db, features.onsets_s),
        last_s=float(features.onsets_s[-1]) if len(features.onsets_s) else 0.0,
        loudness_lufs=features.loudness_lufs,
        rest_db=float(np.percentile(blocks, QUIET_SHARE) - np.percentile(blocks, LOUD_SHARE)),
        hum_share=features.hum_share,
        plr_db=results.number("plr_db"),
        levels_db=features.levels_db,
    )


def _levels(bands: Mapping[str, float]) -> Floats:
    levels = np.array([bands.get(str(hz), np.nan) for hz in THIRD_OCTAVES_HZ], dtype=np.float64)
    hz = np.array(THIRD_OCTAVES_HZ)
    body = levels[(hz >= BODY_HZ[0]) & (hz <= BODY_HZ[1])]
    return levels - (np.nan if np.isnan(body).all() else np.nanmedian(body))


def _over_noise(features: Features) -> npt.NDArray[np.bool_]:
    """Which third octaves stand over the take's noise; those above 8 kHz as the last one below."""
    over = np.ones(len(THIRD_OCTAVES_HZ), dtype=bool)
    if not len(features.noise):
        return over
    for index, hz in enumerate(THIRD_OCTAVES_HZ):
        low, high = (round(edge / BIN_HZ) for edge in band_edges(hz))
        if high > len(features.noise):
            over[index] = over[index - 1]
            continue
        inside = slice(low, max(high, low + 1))
        sound, noise = features.colour[inside].sum(), features.noise[inside].sum()
        over[index] = sound > 10 ** (OVER_NOISE_DB / 10) * noise
    return over


def seconds(frames: int) -> list[float]:
    """The times of so many level frames."""
    return [round(index * HOP_S, 2) for index in range(frames)]
