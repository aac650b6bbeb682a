"""Readings of a take that need the other takes of its test: they are read when the flight has been checked."""

from __future__ import annotations

from cata.core.measure.reading import Reading

EQUIVALENT_DRIVE = Reading(
    key="equivalent_drive",
    name="Drive",
    unit="%",
    difference_unit="points",
    family="drive",
    about="The share of the sound that no equaliser could have made of the clean guitar. Comparable between phrases.",
    less="cleaner",
    more="more driven",
    jnd=2.0,
    decimals=0,
    needs="a clean take of the same test",
    source="our own, after magnitude-squared coherence (Bendat and Piersol 1980); docs/measures.md",
    compute="",
    parts=(("percent", "share"), ("word", "in words")),
    words=("word",),
    version=2,
    scatter=1.5,
    transfer_sd=2.7,
)
FLIGHT_READINGS: tuple[Reading, ...] = (EQUIVALENT_DRIVE,)
