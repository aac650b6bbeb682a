"""Words players use of a sound: what each stands for in readings, its opposite, and what it is taken for.

People disagree on words; this is where they begin. A word says in which way readings lie from those of the others, in
steps that are just noticed, so that a take can be found by it and a note can be held against what was measured.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

Signs = Mapping[str, float]
"""By "reading" or "reading.part": how much of a word lies in it, positive for more."""

ANY, SOME, HARDLY = 100.0, 20.0, 10.0
"""Per cent of drive."""


@dataclass(frozen=True)
class Word:
    """A word, what it stands for, its opposite (itself a word, or empty), and the words it is taken for.

    Of what is driven by more than ``most_drive`` per cent it is not said, whatever else there is of it.
    """

    key: str
    about: str
    signs: Signs
    opposite: str = ""
    near: tuple[str, ...] = ()
    most_drive: float = ANY


LOWS, LOW_MIDS, MIDS = "regions_db.lows", "regions_db.low_mids", "regions_db.mids"
UPPER, PRESENCE, AIR = "regions_db.upper_mids", "regions_db.presence", "regions_db.air"
DRIVE, SPREAD, TILT, HARSH = "equivalent_drive.percent", "level_spread_db", "tilt_db_per_oct", "harshness_db"
DECAY, TIGHT, NOISE, DIRT, CREST = (
    "sustain.db_per_s", "low_tightness_ms", "noise_floor_dbfs", "chord_dirt_db", "crest_db",
)  # fmt: skip


def _word(key: str, about: str, signs: Signs, opposite: str = "", *near: str, most_drive: float = ANY) -> Word:
    return Word(key, about, signs, opposite, near, most_drive)


WORDS: tuple[Word, ...] = (
    # --- how the spectrum lies
    _word("airy", "open at the very top", {AIR: 2, PRESENCE: 0.5}, "dull", "sparkling", "hissy"),
    _word("balanced", "no region stands out", {}, "", "full", "clear"),
    _word("bassy", "a lot below 150 Hz", {LOWS: 2}, "thin", "boomy", "deep"),
    _word("biting", "forward between 1 and 5 kHz", {UPPER: 1.5, PRESENCE: 1}, "mellow", "cutting", "harsh"),
    _word("boomy", "the lows ring on", {LOWS: 1.5, TIGHT: 1.5}, "tight", "bassy", "muddy"),
    _word("boxy", "too much around 300 to 800 Hz", {MIDS: 1.5, LOW_MIDS: 0.7, AIR: -0.5}, "scooped", "honky", "muddy"),
    _word("bright", "more high than low", {TILT: 1.5, PRESENCE: 1}, "dark", "thin", "glassy"),
    _word("brittle", "bright with nothing under it", {PRESENCE: 1.5, LOW_MIDS: -1.5, HARSH: 0.7}, "full", "thin",
          "harsh"),
    _word("chimey", "bell-like upper mids, clean", {UPPER: 1, AIR: 1, DRIVE: -0.4}, "dull", "glassy", "jangly",
          most_drive=HARDLY),
    _word("cutting", "heard through others", {UPPER: 2}, "buried", "biting", "nasal"),
    _word("buried", "lost among others", {UPPER: -2}, "cutting", "dull", "scooped"),
    _word("dark", "more low than high", {TILT: -1.5, PRESENCE: -1}, "bright", "warm", "dull"),
    _word("deep", "reaches far down", {LOWS: 2, TILT: -0.4}, "shallow", "bassy", "full"),
    _word("dull", "no top", {PRESENCE: -1.5, AIR: -1.5}, "airy", "dark", "woolly"),
    _word("fat", "full low mids", {LOW_MIDS: 1.5, LOWS: 0.7}, "thin", "thick", "full"),
    _word("full", "nothing missing below", {LOW_MIDS: 1, LOWS: 1}, "thin", "fat", "warm"),
    _word("glassy", "clear and hard at the top, clean", {PRESENCE: 1.5, AIR: 1, DRIVE: -0.5}, "woolly", "chimey",
          "bright", most_drive=HARDLY),
    _word("harsh", "hurts between 2 and 5 kHz", {HARSH: 2, PRESENCE: 1}, "smooth", "biting", "fizzy"),
    _word("honky", "a horn around 800 Hz", {MIDS: 1.5, UPPER: 0.7, LOWS: -0.7}, "scooped", "nasal", "boxy"),
    _word("icy", "bright and cold", {PRESENCE: 1.5, AIR: 0.7, LOW_MIDS: -1}, "warm", "brittle", "bright"),
    _word("jangly", "strings ring apart, bright and clean", {PRESENCE: 1, UPPER: 0.7, DRIVE: -0.3}, "woolly",
          "chimey", "twangy", most_drive=HARDLY),
    _word("mellow", "soft at the top", {PRESENCE: -1, HARSH: -1}, "biting", "warm", "smooth"),
    _word("muddy", "too much between 150 and 400 Hz, unclear", {LOW_MIDS: 2, PRESENCE: -0.7}, "clear", "boomy",
          "woolly"),
    _word("nasal", "pinched around 1 kHz", {UPPER: 1, MIDS: 1, LOW_MIDS: -1, LOWS: -0.5}, "scooped", "honky",
          "cutting"),
    _word("scooped", "little in the middle", {MIDS: -2, LOWS: 0.5, PRESENCE: 0.5}, "honky", "buried", "thin"),
    _word("shallow", "does not reach down", {LOWS: -2}, "deep", "thin", "tight"),
    _word("shrill", "thin and piercing", {PRESENCE: 1.5, HARSH: 1, LOWS: -0.7}, "mellow", "harsh", "brittle"),
    _word("sparkling", "lively at the top, clean", {AIR: 1.5, PRESENCE: 1, DRIVE: -0.3}, "dull", "airy",
          "glassy", most_drive=HARDLY),
    _word("thick", "dense low mids", {LOW_MIDS: 1.5, MIDS: 0.7}, "thin", "fat", "muddy"),
    _word("thin", "little below 400 Hz", {LOWS: -1, LOW_MIDS: -1.5}, "fat", "bright", "shallow"),
    _word("twangy", "snapping and bright", {PRESENCE: 1, UPPER: 1, SPREAD: 0.4}, "mellow", "jangly", "biting"),
    _word("warm", "more low mids, less top", {LOW_MIDS: 1, TILT: -1}, "icy", "dark", "full"),
    _word("woody", "middle with a short bloom", {MIDS: 1, LOW_MIDS: 0.5, DECAY: 0.4}, "", "boxy", "warm"),
    _word("woolly", "soft and unclear", {PRESENCE: -1.5, LOW_MIDS: 1}, "glassy", "muddy", "dull"),
    # --- drive
    _word("clean", "no drive", {DRIVE: -2}, "dirty", "clear", "glassy"),
    _word("clear", "each string heard in a chord", {DIRT: -1.5, LOW_MIDS: -0.7}, "muddy", "clean", "glassy"),
    _word("creamy", "driven and soft at the top", {HARSH: -1.5, AIR: -1, DRIVE: 0.7}, "fizzy", "smooth", "fat"),
    _word("crunchy", "some drive, dynamics kept", {DRIVE: 1, SPREAD: 0.2}, "clean", "gritty", "dirty", most_drive=SOME),
    _word("dirty", "driven", {DRIVE: 1.5, DIRT: 1}, "clean", "gritty", "fuzzy"),
    _word("fizzy", "sand at the top of the drive", {AIR: 1.5, DRIVE: 0.7, HARSH: 0.5}, "creamy", "harsh", "hissy"),
    _word("fuzzy", "driven until nothing is left of the wave", {DRIVE: 2, SPREAD: -1, DIRT: 1}, "clean", "dirty",
          "fizzy"),
    _word("gritty", "rough drive in the mids", {DRIVE: 1, DIRT: 1, UPPER: 0.5}, "smooth", "crunchy", "dirty"),
    _word("raspy", "drive with rough upper mids", {UPPER: 1, HARSH: 1, DRIVE: 0.7}, "creamy", "gritty", "fizzy"),
    _word("saturated", "much drive, level held", {DRIVE: 2, SPREAD: -0.7}, "clean", "fuzzy", "compressed"),
    _word("smooth", "no roughness", {HARSH: -1.5, DIRT: -0.5}, "harsh", "creamy", "mellow"),
    # --- dynamics and time
    _word("bouncy", "gives and comes back", {SPREAD: -0.7, DECAY: -0.5, CREST: 0.7}, "stiff", "spongy", "lively"),
    _word("compressed", "loud and soft held together", {SPREAD: -2}, "dynamic", "spongy", "sustaining"),
    _word("dry", "nothing rings after", {DECAY: 1.5, TIGHT: -0.7}, "sustaining", "tight", "stiff"),
    _word("dynamic", "follows the hand", {SPREAD: 2}, "compressed", "lively", "punchy"),
    _word("lively", "quick and dynamic", {SPREAD: 1, CREST: 0.5}, "lifeless", "dynamic", "punchy"),
    _word("lifeless", "nothing moves", {SPREAD: -1, CREST: -0.5}, "lively", "compressed", "dull"),
    _word("loose", "the lows hang over", {TIGHT: 2}, "tight", "boomy", "spongy"),
    _word("percussive", "mostly the pick", {CREST: 1.5, DECAY: 1}, "sustaining", "punchy", "snappy"),
    _word("punchy", "a strong beginning with body", {CREST: 1, LOW_MIDS: 0.7, TIGHT: -0.7}, "soft", "percussive",
          "tight"),
    _word("snappy", "a quick, bright beginning", {CREST: 1.5, PRESENCE: 0.7}, "soft", "punchy", "twangy"),
    _word("soft", "no edge at the beginning", {CREST: -1.5, PRESENCE: -0.5}, "snappy", "mellow", "spongy"),
    _word("spongy", "gives under the pick", {SPREAD: -1, CREST: -1, TIGHT: 0.7}, "stiff", "compressed", "loose"),
    _word("stiff", "does not give", {SPREAD: 1, TIGHT: -1, DECAY: 0.5}, "spongy", "tight", "dry"),
    _word("sustaining", "a note stays", {DECAY: -2}, "dry", "compressed", "creamy"),
    _word("tight", "the lows stop with the hand", {TIGHT: -2}, "loose", "stiff", "punchy"),
    # --- noise
    _word("hissy", "noise at the top", {NOISE: 1.5, AIR: 0.5}, "quiet", "noisy", "fizzy"),
    _word("noisy", "noise between the notes", {NOISE: 2}, "quiet", "hissy", "dirty"),
    _word("quiet", "silent between the notes", {NOISE: -2}, "noisy", "clean", "tight"),
)  # fmt: skip
WORD_OF: Mapping[str, Word] = {word.key: word for word in WORDS}
KEYS: tuple[str, ...] = tuple(sorted({key for word in WORDS for key in word.signs}))
"""Readings that words lean on."""
