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
MOTION = Reading(
    key="motion",
    name="Motion",
    unit="",
    family="dynamics",
    about="What swings by itself, returns after a time, or rings on: chorus, tremolo, delay, reverb.",
    less="slower",
    more="faster",
    jnd=0.1,
    jnd_relative=True,
    decimals=2,
    needs="takes of two tests, and one without a device or two others to hold them against",
    source="our own; echoes by the power cepstrum (Bogert, Healy and Tukey 1963); docs/measures.md",
    compute="",
    parts=(
        ("word", "what it does"),
        ("rate_hz", "rate"),
        ("level_db", "swing of level"),
        ("pitch_cents", "swing of pitch"),
        ("echo_ms", "repeats after"),
        ("ring_s", "rings on"),
    ),
    words=("word",),
    own_words=(
        ("word", "", "stands still", "moves"),
        ("rate_hz", "Hz", "slower", "faster"),
        ("level_db", "dB", "shallower", "deeper"),
        ("pitch_cents", "cents", "shallower", "deeper"),
        ("echo_ms", "ms", "sooner", "later"),
        ("ring_s", "s", "shorter", "longer"),
    ),
    asked=False,
)
STROKES = Reading(
    key="strokes",
    name="What the strokes leave open",
    unit="",
    family="tone",
    about="How much of a difference in tone hangs on single strokes: what playing it again may change.",
    less="steadier",
    more="less steady",
    jnd=None,
    needs="two takes of one test that line up, with four strokes",
    source="our own, by the jackknife (Efron and Stein 1981); docs/measures.md",
    compute="",
    asked=False,
)
FLIGHT_READINGS: tuple[Reading, ...] = (EQUIVALENT_DRIVE, MOTION, STROKES)
