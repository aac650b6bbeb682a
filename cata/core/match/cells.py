"""What a cell of the table shows of itself, for the rules that look at a whole flight."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from cata.core.match.features import Features
from cata.core.match.room import HOP_S, fall_of
from cata.core.measure.regions import THIRD_OCTAVES_HZ
from cata.core.measure.results import Results

Floats = npt.NDArray[np.float64]

BODY_HZ = (100, 5000)
LOUD_SHARE, QUIET_SHARE = 95.0, 4.0
"""Percentiles of a take's level: how loud its playing is, and how quiet its rests."""


@dataclass(frozen=True, kw_only=True)
class Cell:
    """A take at its place in the table; ``index`` is its place in the set that is audited.

    ``contender`` and ``test`` are how a person calls them. ``bands_db`` its third octaves against the middle of its
    body, nan where they are not known; ``fall_db`` how far the level falls where the playing stops; ``rest_db`` its
    quietest moments against its playing, ``hum_share`` of which lies on lines of the mains; ``plr_db`` its peak over
    its loudness; ``levels_db`` every 10 ms.
    """

    index: int
    row: int
    column: int
    contender: str
    test: str
    bands_db: Floats
    fall_db: float
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
        bands_db=_levels(bands),
        fall_db=fall_of(features.levels_db, features.onsets_s),
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


def seconds(frames: int) -> list[float]:
    """The times of so many level frames."""
    return [round(index * HOP_S, 2) for index in range(frames)]
