"""The player's own level: from a dry recording of their strumming, as the peak of a sine as loud."""

from __future__ import annotations

import numpy as np

from cata.core.measure.material import Material, db
from cata.core.measure.outcome import SILENT, Outcome, measured, refused, too_short
from cata.said import said

SINE_CREST_DB = 3.01
PERCENTILE = 95
MIN_S, MIN_RANGE_DB = 2.0, 12.0


def nominal_dbfs_of(material: Material) -> Outcome:
    """The level that 5 % of the 50 ms blocks exceed, in dBFS peak of a sine of that RMS.

    Refused under 2 s, for silence, and where loud and quiet lie less than 12 dB apart: that is no strumming.
    """
    if material.silent or material.clip.duration_s < MIN_S:
        return refused(SILENT if material.silent else too_short(MIN_S, ": strum a few bars as you always do"))
    levels = db(material.blocks)
    level = float(np.percentile(levels, PERCENTILE))
    if level - float(np.percentile(levels, 5)) < MIN_RANGE_DB:
        return refused(said("even", "it is as loud all the way through: strum a few bars, with rests"))
    return measured(level + SINE_CREST_DB)
