"""Every reading once: its key, name, unit, plain words, what it needs, and how it is computed.

This module imports no numpy, so that the web process can describe readings without computing
any. A new reading is one entry here and one function beside its siblings.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

Family = Literal["level", "tone", "drive", "dynamics", "noise", "pitch"]
Shape = Literal["number", "parts"]

# Raise a reading's ``version`` when its method changes: stored values of older versions are stale.


@dataclass(frozen=True, kw_only=True)
class Reading:
    """What Cata knows about one reading.

    ``less`` and ``more`` are the plain words for a lower and a higher value; ``jnd`` the just-noticeable difference in
    the unit of the reading (None where hearing does not apply); ``decimals`` how many are worth showing;
    ``needs`` what a take must offer; ``source`` the standard or the section of docs/measures.md;
    ``compute`` is module:function below cata.core.measure; ``parts`` names the parts of a reading
    that is not one number, with their plain names.
    """

    key: str
    name: str
    unit: str
    family: Family
    about: str
    less: str
    more: str
    jnd: float | None
    needs: str
    source: str
    compute: str
    decimals: int = 1
    version: int = 1
    parts: tuple[tuple[str, str], ...] = ()
    jnd_relative: bool = False
    difference_unit: str = ""

    @property
    def step_unit(self) -> str:
        """Unit of a difference: two levels in LUFS differ by LU, two in dBFS by dB."""
        return self.difference_unit or self.unit


BANDS = "63 80 100 125 160 200 250 315 400 500 630 800 1000 1250 1600 2000 2500 3150 4000 5000 6300 8000 10000 12500"
REGIONS = (
    ("lows", "lows, 60–150 Hz"),
    ("low_mids", "low mids, 150–400 Hz"),
    ("mids", "mids, 400–1000 Hz"),
    ("upper_mids", "upper mids, 1–2.5 kHz"),
    ("presence", "presence, 2.5–5 kHz"),
    ("air", "air, 5–12 kHz"),
)

READINGS: tuple[Reading, ...] = (
    Reading(
        key="loudness_lufs",
        name="Loudness",
        unit="LUFS",
        difference_unit="LU",
        family="level",
        about="How loud the take is to the ear, over the parts that are played.",
        less="quieter",
        more="louder",
        jnd=1.0,
        needs="0.4 s of sound",
        source="ITU-R BS.1770-4",
        compute="level:loudness_lufs",
    ),
    Reading(
        key="true_peak_dbtp",
        name="True peak",
        unit="dBTP",
        difference_unit="dB",
        family="level",
        about="The highest point of the waveform, between the samples too.",
        less="lower peaks",
        more="higher peaks",
        jnd=None,
        needs="any sound",
        source="ITU-R BS.1770-4 Annex 2, 8x",
        compute="level:true_peak_dbtp",
    ),
    Reading(
        key="sample_peak_dbfs",
        name="Sample peak",
        unit="dBFS",
        difference_unit="dB",
        family="level",
        about="The largest sample in the file.",
        less="lower peaks",
        more="higher peaks",
        jnd=None,
        needs="any sound",
        source="measures, group A",
        compute="level:sample_peak_dbfs",
    ),
    Reading(
        key="crest_db",
        name="Crest",
        unit="dB",
        family="dynamics",
        about="Peak over average: picks that stand out make it large, compression and drive make it small.",
        less="more squashed",
        more="more pointed",
        jnd=1.5,
        needs="any sound",
        source="measures, group A",
        compute="level:crest_db",
    ),
    Reading(
        key="plr_db",
        name="Peak to loudness",
        unit="dB",
        family="dynamics",
        about="True peak over loudness: how much of the level is in the picks.",
        less="more squashed",
        more="more pointed",
        jnd=1.5,
        needs="0.4 s of sound",
        source="measures, group A",
        compute="level:plr_db",
    ),
    Reading(
        key="clipped",
        name="Clipping",
        unit="",
        family="level",
        about="Runs of equal samples at the top: the converter, or something before it, ran out of range.",
        less="clean",
        more="clipped",
        jnd=None,
        needs="the file as it was recorded",
        source="measures, group A",
        compute="clipping:clipped",
        parts=(("runs", "runs"), ("samples", "samples"), ("kind", "kind")),
    ),
    Reading(
        key="noise_floor_dbfs",
        name="Noise floor",
        unit="dBFS",
        difference_unit="dB",
        family="noise",
        about="The level of hum and hiss while nobody plays.",
        less="quieter noise",
        more="more noise",
        jnd=1.0,
        needs="half a second without playing",
        source="measures, group A",
        compute="noise:noise_floor_dbfs",
    ),
    Reading(
        key="third_octaves_db",
        name="Third octaves",
        unit="dB",
        family="tone",
        about="The spectrum in 24 bands, at equal loudness.",
        less="less",
        more="more",
        jnd=1.5,
        needs="2 s of sound",
        source="IEC 61260-1, base 10",
        compute="tone:third_octaves_db",
        parts=tuple((band, f"{band} Hz") for band in BANDS.split()),
    ),
    Reading(
        key="regions_db",
        name="Regions",
        unit="dB",
        family="tone",
        about="The share of each of six regions in the whole sound.",
        less="less",
        more="more",
        jnd=1.5,
        needs="a recording of 24 kHz or more",
        source="measures, group A",
        compute="tone:regions_db",
        parts=REGIONS,
    ),
    Reading(
        key="centroid_hz",
        name="Brightness",
        unit="Hz",
        family="tone",
        about="The centre of gravity of the spectrum.",
        less="darker",
        more="brighter",
        jnd=0.05,
        jnd_relative=True,
        decimals=0,
        needs="a recording of 24 kHz or more",
        source="measures, group A",
        compute="tone:centroid_hz",
    ),
    Reading(
        key="tilt_db_per_oct",
        name="Tilt",
        unit="dB/oct",
        family="tone",
        about="How the spectrum leans from 100 Hz to 8 kHz: pink noise 0, falling is negative.",
        less="warmer",
        more="brighter",
        # A broad tilt of 1 dB between the ends of 100 Hz to 8 kHz, 6.3 octaves.
        jnd=0.16,
        decimals=2,
        needs="2 s of sound",
        source="measures, group A",
        compute="tone:tilt_db_per_oct",
    ),
    Reading(
        key="harshness_db",
        name="Harshness",
        unit="dB",
        family="tone",
        about="2.5 to 8 kHz against 250 Hz to 2.5 kHz: what bites, and what tires the ear.",
        less="smoother",
        more="harsher",
        jnd=1.5,
        needs="a recording of 24 kHz or more",
        source="measures, group A",
        compute="tone:harshness_db",
    ),
    Reading(
        key="drive_density",
        name="Drive density",
        unit="",
        family="drive",
        about="How much of the spectrum is filled: clipping fills the gaps. Within one phrase and one speaker only.",
        less="cleaner",
        more="more driven",
        jnd=0.03,
        decimals=3,
        needs="1 s of chords or low notes",
        source="measures, group A",
        compute="drive:drive_density",
    ),
    Reading(
        key="chord_dirt_db",
        name="Chord dirt",
        unit="dB",
        family="drive",
        about="What a held fifth gains between its notes: the growl of two strings through one clipper.",
        less="clearer chords",
        more="dirtier chords",
        jnd=3.0,
        needs="a fifth held for a second",
        source="measures, group A",
        compute="drive:chord_dirt_db",
    ),
    Reading(
        key="level_spread_db",
        name="Level spread",
        unit="dB",
        family="dynamics",
        about="How far soft and hard playing lie apart.",
        less="more even",
        more="more dynamic",
        jnd=1.0,
        needs="2 s of sound",
        source="measures, group A",
        compute="dynamics:level_spread_db",
    ),
    Reading(
        key="sustain",
        name="Sustain",
        unit="dB/s",
        family="dynamics",
        about="How fast the longest held note dies away.",
        less="longer",
        more="shorter",
        jnd=0.1,
        jnd_relative=True,
        needs="a note held for half a second",
        source="measures, group A",
        compute="sustain:sustain",
        parts=(("db_per_s", "decay, dB/s"), ("t20_s", "time to fall 20 dB, s"), ("status", "status")),
    ),
    Reading(
        key="low_tightness_ms",
        name="Low tightness",
        unit="ms",
        family="dynamics",
        about="How long the lows of a muted stroke go on.",
        less="tighter",
        more="looser",
        jnd=10.0,
        decimals=0,
        needs="muted low notes 150 ms apart",
        source="measures, group A",
        compute="dynamics:low_tightness_ms",
    ),
    Reading(
        key="tuning_cents",
        name="Tuning",
        unit="cents",
        family="pitch",
        about="How far the strings lie from A = 440 Hz.",
        less="flatter",
        more="sharper",
        jnd=5.0,
        needs="steady pitches between 70 and 1000 Hz",
        source="measures, group A",
        compute="pitch:tuning_cents",
    ),
    Reading(
        key="string_balance_db",
        name="String balance",
        unit="dB",
        family="dynamics",
        about="The level of each of six open strings against their mean.",
        less="quieter",
        more="louder",
        jnd=1.0,
        needs="six open strings, one after the other, 0.6 s apart",
        source="measures, group A",
        compute="dynamics:string_balance_db",
        parts=tuple((str(n), f"note {n}") for n in range(1, 7)),
    ),
)

BY_KEY = {reading.key: reading for reading in READINGS}
METHOD = ".".join(str(reading.version) for reading in READINGS)


def jnd_of(reading: Reading, value: float) -> float | None:
    """Just-noticeable difference at ``value``, in the reading's unit; None where hearing does not apply."""
    if reading.jnd is None:
        return None
    return abs(value) * reading.jnd if reading.jnd_relative else reading.jnd
