"""Phrases as guitarists play them, made from a seed, and hands that never play one twice alike."""

from __future__ import annotations

import random
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

STRINGS = (40, 45, 50, 55, 59, 64)
SHAPES = {
    "E": (40, 47, 52, 56, 59, 64), "Em": (40, 47, 52, 55, 59, 64), "A": (45, 52, 57, 61, 64),
    "Am": (45, 52, 57, 60, 64), "D": (50, 57, 62, 66), "Dm": (50, 57, 62, 65), "G": (43, 47, 50, 55, 59, 67),
    "C": (48, 52, 55, 60, 64), "F": (41, 48, 53, 57, 60, 65), "Bm": (47, 54, 59, 62, 66),
}  # fmt: skip
SCALE = (57, 60, 62, 64, 67, 69, 72, 74, 76)


@dataclass(frozen=True, kw_only=True)
class Note:
    """Start and length in seconds, MIDI pitch, strength from 0 to 1; bent by so many semitones on its way; muted."""

    start: float
    length: float
    pitch: int
    strength: float
    bend: float = 0.0
    muted: bool = False


@dataclass(frozen=True)
class Hands:
    """A player: scatter of timing in seconds, of strength, of the pick's place (share of the string), of tuning in
    cents, and of tempo; one pace, one tuning and one place a take, the rest with every stroke."""

    time_s: float = 0.008
    strength: float = 0.04
    place: float = 0.01
    cents: float = 0.7
    pace: float = 0.002


CAREFUL, USUAL, LOOSE = Hands(0.004, 0.02, 0.006, 0.4, 0.001), Hands(), Hands(0.014, 0.08, 0.015, 1.2, 0.003)


def _chord(name: str, start: float, length: float, strength: float, *, up: bool = False) -> list[Note]:
    pitches = SHAPES[name][::-1] if up else SHAPES[name]
    return [
        Note(start=start + 0.011 * k, length=length, pitch=pitch, strength=strength) for k, pitch in enumerate(pitches)
    ]


def repeating_chords(r: random.Random) -> list[Note]:
    names, gap = r.sample(sorted(SHAPES), r.choice((2, 3, 4))), r.uniform(0.8, 1.4)
    strokes = len(names) * r.choice((2, 3))
    loud = sorted(r.uniform(0.2, 0.95) for _ in range(strokes))
    return [
        n for i, v in enumerate(loud) for n in _chord(names[i % len(names)], i * gap, gap * r.uniform(0.6, 0.95), v)
    ]


def one_chord(r: random.Random) -> list[Note]:
    name, eighth, bar = r.choice(sorted(SHAPES)), r.uniform(0.19, 0.26), r.choice(((0, 2, 3, 5, 6, 7), (0, 3, 4, 6)))
    at = [8 * b + k for b in range(4) for k in bar]
    return [
        n
        for k, later in zip(at, [*at[1:], at[-1] + 6], strict=True)
        for n in _chord(name, k * eighth, (later - k) * eighth, 0.75 if k % 4 == 0 else 0.55, up=k % 2 == 1)
    ]


def arpeggio(r: random.Random) -> list[Note]:
    names, gap, order = r.sample(sorted(SHAPES), r.choice((1, 2, 3))), r.uniform(0.22, 0.34), r.random() < 0.5
    notes = []
    for k in range(24):
        shape = SHAPES[names[k // 8 % len(names)]]
        turn = [*range(len(shape)), *range(len(shape) - 2, 0, -1)] if order else [0, 2, 3, 1, 3, 2]
        pitch = shape[min(turn[k % 8 % len(turn)], len(shape) - 1)]
        notes.append(Note(start=k * gap, length=gap * 3, pitch=pitch, strength=0.7 if k % 8 == 0 else 0.6))
    return notes


def chugs(r: random.Random) -> list[Note]:
    root, gap = r.choice((38, 40, 41, 43)), r.uniform(0.13, 0.22)
    pattern = [0, 0, 0, *r.choices((0, 0, 3, 5, 6, 7), k=5), 0, 0, *r.choices((0, 1, 3, 10), k=6)]
    notes = []
    for i, step in enumerate(pattern * 2):
        open_, v = step != 0, 0.85 if i % 4 == 0 else 0.7
        for pitch, later in ((root + step, 0.0), (root + step + 7, 0.004)):
            length = gap * (0.95 if open_ else 0.7)
            notes.append(Note(start=i * gap + later, length=length, pitch=pitch, strength=v, muted=not open_))
    return notes


def offbeats(r: random.Random) -> list[Note]:
    names, half = r.sample(sorted(SHAPES), 2), r.uniform(0.38, 0.52)
    return [n for i in range(16) for n in _chord(names[i // 4 % 2], (i + 0.5) * half, 0.13, 0.65, up=True)]


def ringing(r: random.Random) -> list[Note]:
    return [
        n for i, name in enumerate(r.sample(sorted(SHAPES), 3)) for n in _chord(name, i * 3.2, 3.1, r.uniform(0.5, 0.8))
    ]


def lead(r: random.Random) -> list[Note]:
    at, place, notes = 0.0, r.randrange(2, 7), []
    for _ in range(r.randrange(11, 16)):
        place = min(max(place + r.choice((-2, -1, -1, 1, 1, 2)), 0), len(SCALE) - 1)
        length = r.choice((0.2, 0.2, 0.4, 0.4, 0.8))
        bend = r.choice((0.0, 0.0, 0.0, 1.0, 2.0)) if length > 0.3 else 0.0
        notes.append(Note(start=at, length=length * 0.95, pitch=SCALE[place], strength=0.75, bend=bend))
        at += length
    return [*notes, Note(start=at, length=2.5, pitch=SCALE[max(place - 1, 0)], strength=0.8)]


def walking(r: random.Random) -> list[Note]:
    steps, gap = [r.choice((0, 3, 5, 7, 8, 10)) for _ in range(8)], r.uniform(0.3, 0.45)
    return [
        Note(start=i * gap, length=gap * 0.9, pitch=40 + step, strength=0.72, bend=1.0 if i % 8 == 7 else 0.0)
        for i, step in enumerate(steps * 2)
    ]


PHRASES: dict[str, Callable[[random.Random], list[Note]]] = {
    "repeating chords": repeating_chords, "one chord": one_chord, "arpeggio": arpeggio, "chugs": chugs,
    "offbeats": offbeats, "ringing": ringing, "lead": lead, "walking": walking,
}  # fmt: skip


def played(notes: Sequence[Note], hands: random.Random, by: Hands = USUAL, *, tempo: float = 1.0) -> list[Note]:
    """The notes as a player strikes them this time: strings of one stroke move together."""
    pace, moved = (1 + hands.gauss(0, by.pace)) / tempo, []
    last, late, harder = -1.0, 0.0, 0.0
    for note in sorted(notes, key=lambda one: one.start):
        if note.start - last > 0.08:
            last, late, harder = note.start, hands.gauss(0, by.time_s), hands.gauss(0, by.strength)
        own = note.strength + harder + hands.gauss(0, by.strength / 2)
        start = max(0.0, note.start * pace + late + hands.gauss(0, by.time_s / 5))
        moved.append(replace(note, start=start, length=note.length * pace, strength=min(max(own, 0.08), 1.0)))
    return moved
