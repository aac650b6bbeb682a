"""Phrases: what is played, as notes on strings. The same phrase through every contender is what makes takes match."""

from __future__ import annotations

from dataclasses import dataclass, replace
from random import Random

TIMING_S, STRENGTH_SHARE, TUNING_CENTS = 0.005, 0.06, 1.0
OPEN_STRINGS_MIDI = (40, 45, 50, 55, 59, 64)
"""Standard tuning, lowest string first."""


@dataclass(frozen=True, kw_only=True)
class Note:
    """One plucked note.

    ``start_s`` and ``length_s`` in seconds; ``string`` 0 (lowest) to 5; ``midi`` note number;
    ``strength`` 0 to 1 (soft to hard); ``muted`` with the palm; ``vibrato_cents`` depth at 5 Hz.
    """

    start_s: float
    length_s: float
    string: int
    midi: float
    strength: float
    muted: bool = False
    vibrato_cents: float = 0.0


@dataclass(frozen=True, kw_only=True)
class Phrase:
    """A named phrase: its notes, its tempo in beats a minute, and its whole length with the ring-out."""

    key: str
    name: str
    bpm: float
    length_s: float
    notes: tuple[Note, ...]


def _strum(
    start: float, length: float, frets: tuple[int | None, ...], strength: float, muted: bool = False
) -> list[Note]:
    """A down-stroke: strings 9 ms apart."""
    played = [(string, fret) for string, fret in enumerate(frets) if fret is not None]
    return [
        Note(
            start_s=start + 0.009 * i,
            length_s=length,
            string=string,
            midi=OPEN_STRINGS_MIDI[string] + fret,
            strength=strength,
            muted=muted,
        )
        for i, (string, fret) in enumerate(played)
    ]


X = None
A5 = (X, 0, 2, X, X, X)
AM7 = (X, 0, 2, 0, 1, 3)
D9 = (X, 5, 4, 5, 5, X)
G13 = (3, X, 3, 4, 5, X)
E_ADD9 = (0, 2, 4, 1, 0, 0)


def soft_to_hard(bpm: float = 104.0) -> Phrase:
    """A held fifth, then the same four chords at three strengths: how it answers the pick."""
    beat = 60.0 / bpm
    notes = _strum(0.3, 2.2 * beat, A5, 0.5)
    at = 0.3 + 2.5 * beat
    for strength in (0.22, 0.5, 0.95):
        for chord in (AM7, D9, G13, E_ADD9):
            notes += _strum(at, 0.92 * beat, chord, strength)
            at += beat
    return Phrase(key="soft-to-hard", name="Soft to hard chords", bpm=bpm, length_s=at + 1.2, notes=tuple(notes))


def offbeat(bpm: float = 104.0) -> Phrase:
    """Even, short offbeat chords: clean rhythm."""
    beat = 60.0 / bpm
    notes: list[Note] = []
    for bar, chord in enumerate((AM7, D9, G13, E_ADD9)):
        for count in range(4):
            at = 0.3 + (bar * 4 + count) * beat * 0.75 + 0.5 * beat * 0.75
            notes += _strum(at, 0.3 * beat, chord, 0.58)
    return Phrase(key="offbeat", name="Offbeat chords", bpm=bpm, length_s=0.3 + 12.5 * beat + 0.9, notes=tuple(notes))


def muted_riff(bpm: float = 104.0) -> Phrase:
    """Palm-muted low notes with a fifth at each bar's end: tightness of the lows."""
    beat = 60.0 / bpm
    pattern = (0, 0, 3, 0, 5, 0, 3, 0)
    notes: list[Note] = []
    for bar in range(3):
        for eighth, fret in enumerate(pattern):
            at = 0.3 + (bar * 4 + eighth / 2) * beat
            strength = 0.85 if eighth % 2 == 0 else 0.6
            notes.append(
                Note(start_s=at, length_s=0.45 * beat, string=0, midi=40 + fret, strength=strength, muted=True)
            )
    notes += _strum(0.3 + 12 * beat, 2.0 * beat, (0, 2, X, X, X, X), 0.8)
    return Phrase(key="muted-riff", name="Muted riff", bpm=bpm, length_s=0.3 + 14 * beat + 0.9, notes=tuple(notes))


def lead_line(bpm: float = 104.0) -> Phrase:
    """A melody that ends on a held note: singing, sustain, how single notes sit."""
    beat = 60.0 / bpm
    line = (
        (0.0, 0.9, 3, 57), (1.0, 0.45, 3, 60), (1.5, 0.45, 3, 62), (2.0, 1.4, 4, 64), (3.5, 0.45, 4, 62),
        (4.0, 0.9, 3, 60), (5.0, 0.9, 4, 65), (6.0, 0.45, 4, 64), (6.5, 0.45, 3, 60), (7.0, 0.9, 3, 62),
    )  # fmt: skip
    notes = [
        Note(start_s=0.3 + at * beat, length_s=length * beat, string=string, midi=midi, strength=0.7)
        for at, length, string, midi in line
    ]
    held = 0.3 + 8 * beat
    notes.append(Note(start_s=held, length_s=3.2, string=3, midi=57, strength=0.85, vibrato_cents=0.0))
    return Phrase(key="lead-line", name="Lead line, held note", bpm=bpm, length_s=held + 3.8, notes=tuple(notes))


PHRASES = {p.key: p for p in (soft_to_hard(), offbeat(), muted_riff(), lead_line())}


def open_strings(ring_s: float = 2.4, rounds: int = 1) -> Phrase:
    """The six open strings one after the other, low to high, each damped before the next; a second of silence first."""
    each = ring_s + 0.2
    notes = tuple(
        Note(start_s=1.0 + each * (6 * turn + string), length_s=ring_s, string=string, midi=midi, strength=0.7)
        for turn in range(rounds)
        for string, midi in enumerate(OPEN_STRINGS_MIDI)
    )
    return Phrase(key="open-strings", name="Open strings", bpm=60.0, length_s=1.4 + 6 * rounds * each, notes=notes)


def varied(phrase: Phrase, amount: float, seed: int) -> Phrase:
    """The phrase as a player repeats it: every note a little early or late and a little softer or harder.

    ``amount`` 1 is a steady player (5 ms, 6 % of strength, 1 cent of tuning); 0 is a machine. Deterministic for a seed.
    """
    if amount == 0:
        return phrase
    rng = Random(seed)
    slack = rng.gauss(0, TUNING_CENTS * amount)
    notes = tuple(
        replace(
            note,
            start_s=max(0.0, note.start_s + rng.gauss(0, TIMING_S * amount)),
            strength=min(1.0, max(0.05, note.strength * (1 + rng.gauss(0, STRENGTH_SHARE * amount)))),
            midi=note.midi + slack / 100,
        )
        for note in phrase.notes
    )
    return replace(phrase, notes=notes)


def retuned(phrase: Phrase, cents: float) -> Phrase:
    """The phrase with every string tuned ``cents`` higher."""
    return replace(phrase, notes=tuple(replace(n, midi=n.midi + cents / 100) for n in phrase.notes))
