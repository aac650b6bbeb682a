"""Every reading of a take once, by its key."""

from __future__ import annotations

from hashlib import sha256 as digest

from cata.core.measure.catalogue import READINGS
from cata.core.measure.of_flights import FLIGHT_READINGS
from cata.core.measure.reading import Family, Reading, jnd_of
from cata.core.measure.regions import REGIONS

ALL_READINGS = (*FLIGHT_READINGS, *READINGS)
"""Those of a take alone, and those that need its flight."""
BY_KEY = {reading.key: reading for reading in ALL_READINGS}
METHOD = digest("/".join(f"{reading.key}:{reading.version}" for reading in READINGS).encode()).hexdigest()[:16]
"""Stands for all methods together: what was read by another one is to be read again, as far as it changed."""

__all__ = ["ALL_READINGS", "BY_KEY", "METHOD", "READINGS", "REGIONS", "Family", "Reading", "jnd_of"]
