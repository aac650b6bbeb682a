"""The sounds that come with Cata, as target ranges on the readings.

They ask for drive as it is, and for tone, dynamics and decay as the difference from the reference of the same test,
which the phrase changes least. Conventions of the trade, not measurements: every one can be changed. No numpy.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from cata.core.brief import Sound, Target


@dataclass(frozen=True)
class SoundKind:
    """A ready sound: its plain description and its targets."""

    key: str
    name: str
    about: str
    targets: tuple[Target, ...]

    def as_sound(self, weight: float = 1.0) -> Sound:
        """A copy for a brief, free to be changed."""
        return Sound(key=self.key, name=self.name, weight=weight, targets=list(self.targets))


def _change(reading: str, low: float | None, high: float | None, weight: float = 1.0, part: str = "") -> Target:
    """A range on the difference from the reference: what depends on the phrase cannot be asked for by itself."""
    return Target(reading=reading, part=part, low=low, high=high, weight=weight, against="reference")


def _drive(low: float | None, high: float | None, weight: float = 3.0) -> Target:
    return Target(reading="equivalent_drive", part="percent", low=low, high=high, weight=weight)


SOUNDS: tuple[SoundKind, ...] = (
    SoundKind(
        "clean-rhythm",
        "Clean rhythm",
        "Even, clear chords that leave room: no drive, the pick's dynamics kept, no boom.",
        (
            _drive(None, 3),
            _change("level_spread_db", -4, None),
            _change("harshness_db", -5, 4),
            _change("regions_db", None, 3, 1, "lows"),
        ),
    ),
    SoundKind(
        "edge-of-breakup",
        "Edge of breakup",
        "Clean when played softly, grit when dug into: the pick decides.",
        (
            _drive(3, 12),
            _change("level_spread_db", -6, None),
            _change("harshness_db", -5, 5),
            _change("regions_db", -2, None, 1, "upper_mids"),
        ),
    ),
    SoundKind(
        "crunch",
        "Crunch",
        "Driven chords that still have edges.",
        (
            _drive(8, 24),
            _change("level_spread_db", -9, None),
            _change("low_tightness_ms", None, 25),
            _change("harshness_db", -7, 6),
        ),
    ),
    SoundKind(
        "singing-lead",
        "Singing lead",
        "A held note that stays: driven, slow decay, not shrill.",
        (
            _drive(10, 45),
            _change("sustain", None, -2, 2, "db_per_s"),
            _change("harshness_db", -10, 4),
            _change("regions_db", None, 3, 1, "lows"),
        ),
    ),
    SoundKind(
        "fuzz",
        "Fuzz",
        "Filled and flat on top: the note becomes a texture.",
        (
            _drive(30, None),
            _change("level_spread_db", None, -2),
            _change("sustain", None, -4, 1, "db_per_s"),
        ),
    ),
    SoundKind(
        "tight-riff",
        "Tight riff",
        "Muted low notes that stop when the hand does, with drive behind them.",
        (
            _change("low_tightness_ms", None, 10, 3),
            _change("regions_db", -6, 4, 1, "lows"),
            _drive(5, None),
        ),
    ),
    SoundKind(
        "high-gain-riff",
        "High-gain riff",
        "Saturated and tight: palm mutes that stop dead, single notes that still cut.",
        (
            _drive(22, None, 5),
            _change("low_tightness_ms", None, 25, 2),
            _change("regions_db", -8, 2, 1, "lows"),
            _change("regions_db", -1, None, 1, "upper_mids"),
            _change("harshness_db", -8, 5),
        ),
    ),
    SoundKind(
        "dark-lead",
        "Dark, rounded lead",
        "Driven single notes without an edge: treble rolled off, mids forward, a long decay.",
        (
            _drive(8, 40),
            _change("tilt_db_per_oct", None, -0.3, 2),
            _change("harshness_db", None, -2),
            _change("sustain", None, -2, 1, "db_per_s"),
            _change("regions_db", -1, None, 1, "mids"),
        ),
    ),
    SoundKind(
        "slack-heavy",
        "Slack-tuned, heavy",
        "Low tunings through drive: the lows held together, the pick still heard.",
        (
            _drive(15, None, 5),
            _change("low_tightness_ms", None, 25, 2),
            _change("regions_db", -10, 0, 1, "lows"),
            _change("regions_db", 0, None, 1, "upper_mids"),
        ),
    ),
    SoundKind(
        "funk-offbeats",
        "Funk offbeats",
        "Short, clean and bright: the pick makes the rhythm, nothing rings on.",
        (
            _drive(None, 2),
            _change("level_spread_db", -5, 2),
            _change("tilt_db_per_oct", -0.1, 0.8),
            _change("regions_db", None, 1, 1, "lows"),
            _change("low_tightness_ms", None, 10),
        ),
    ),
    SoundKind(
        "slide",
        "Slide",
        "Notes that sing under the bar: some drive, an even level, a long decay, no glare.",
        (
            _drive(5, 28),
            _change("level_spread_db", -10, -1),
            _change("sustain", None, -2, 2, "db_per_s"),
            _change("harshness_db", -8, 2),
        ),
    ),
    SoundKind(
        "jangle",
        "Jangle",
        "Open chords with a ring on top: clean to a touch of grit, bright but not sharp.",
        (
            _drive(None, 6),
            _change("tilt_db_per_oct", 0.0, 1.0),
            _change("regions_db", None, 1, 1, "lows"),
            _change("harshness_db", -4, 4),
            _change("level_spread_db", -6, 0),
        ),
    ),
    SoundKind(
        "boosted-lead",
        "Boosted lead",
        "The same voice, pushed: more drive and middle than the rhythm sound, no more lows.",
        (
            _drive(12, 35),
            _change("regions_db", 0, None, 2, "mids"),
            _change("regions_db", None, 0, 1, "lows"),
            _change("sustain", None, -1, 1, "db_per_s"),
        ),
    ),
    SoundKind(
        "warm-clean",
        "Warm clean",
        "Round single notes and close chords: no drive, the top held back, the middle full.",
        (
            _drive(None, 2),
            _change("tilt_db_per_oct", None, 0.0, 2),
            _change("level_spread_db", -5, None),
            _change("harshness_db", None, 0),
        ),
    ),
)


@dataclass(frozen=True)
class Style:
    """A way of playing as a set of sounds with what each counts."""

    key: str
    name: str
    sounds: tuple[tuple[str, float], ...]

    def as_sounds(self) -> Iterator[Sound]:
        """Copies of its sounds for a brief."""
        return (SOUND_BY_KEY[key].as_sound(weight) for key, weight in self.sounds)


SOUND_BY_KEY = {sound.key: sound for sound in SOUNDS}
STYLES: tuple[Style, ...] = (
    Style("covers", "Covers in a bar", (("clean-rhythm", 2), ("crunch", 2), ("boosted-lead", 1.5))),
    Style("blues", "Blues", (("edge-of-breakup", 3), ("singing-lead", 2), ("slide", 1))),
    Style("funk", "Funk and soul", (("funk-offbeats", 3), ("warm-clean", 1), ("edge-of-breakup", 1))),
    Style("jazz", "Jazz", (("warm-clean", 3), ("dark-lead", 1))),
    Style("country", "Country", (("clean-rhythm", 2), ("jangle", 1), ("edge-of-breakup", 2))),
    Style("indie", "Indie", (("jangle", 2), ("crunch", 2), ("fuzz", 1))),
    Style("hard-rock", "Hard rock", (("crunch", 3), ("tight-riff", 2), ("singing-lead", 2))),
    Style("metal", "Metal", (("high-gain-riff", 3), ("slack-heavy", 2), ("singing-lead", 1.5), ("clean-rhythm", 1))),
    Style("fuzz-rock", "Fuzz and slack tunings", (("fuzz", 3), ("slack-heavy", 2), ("edge-of-breakup", 1))),
    Style("ambient", "Ambient", (("clean-rhythm", 2), ("edge-of-breakup", 2), ("singing-lead", 1))),
)
"""Where to begin; what counts is what the person makes of it."""
