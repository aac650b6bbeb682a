"""Every reading of a take once, by its key."""

from __future__ import annotations

from cata.core.measure.catalogue import READINGS
from cata.core.measure.reading import Family, Reading, jnd_of
from cata.core.measure.regions import REGIONS

BY_KEY = {reading.key: reading for reading in READINGS}
METHOD = ".".join(str(reading.version) for reading in READINGS)

__all__ = ["BY_KEY", "METHOD", "READINGS", "REGIONS", "Family", "Reading", "jnd_of"]
