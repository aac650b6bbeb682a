"""Phrases played by a sampled guitar with human scatter: timing by 6 ms, strength by 4 %, tuning by half a cent."""

from __future__ import annotations

import random
import struct
import subprocess
import tempfile
from collections.abc import Callable, Iterator, Sequence
from pathlib import Path

import numpy as np
import numpy.typing as npt
import soundfile

from tests.corpus.parts import RATE_HZ, shelf
from tests.corpus.phrases import Note as Struck
from tests.corpus.phrases import played

Floats = npt.NDArray[np.float64]
Note = tuple[float, float, int, float]
"""Start and length in seconds, MIDI note, velocity."""
SOUNDFONT, OTHER_SOUNDFONT = "/usr/share/sounds/sf2/TimGM6mb.sf2", "/usr/share/sounds/sf2/FluidR3_GM.sf2"
CLEAN_GUITAR = 27
LEAD_IN_S = 1.0
TICKS = 960


def soft_to_hard() -> Iterator[Note]:
    chords = ((40, 47, 52, 56, 59, 64), (45, 52, 57, 61, 64), (43, 50, 55, 59, 67))
    for stroke in range(10):
        for string, note in enumerate(chords[stroke % 3]):
            yield stroke * 0.8 + string * 0.012, 0.7, note, 35 + 9 * stroke


def muted_riff() -> Iterator[Note]:
    for stroke, note in enumerate((40, 40, 43, 40, 45, 40, 46, 45) * 4):
        yield stroke * 0.22, 0.1, note, 96
        yield stroke * 0.22, 0.1, note + 7, 88


def lead_line() -> Iterator[Note]:
    notes = (64, 67, 69, 71, 74, 71, 69, 67, 64, 62, 64)
    for stroke, note in enumerate(notes):
        yield stroke * 0.38, 0.36, note, 98
    yield len(notes) * 0.38, 3.0, 71, 108


def offbeats() -> Iterator[Note]:
    for stroke in range(16):
        for string, note in enumerate(((55, 59, 62, 67), (57, 60, 64, 69))[stroke // 2 % 2]):
            yield stroke * 0.5 + 0.25 + string * 0.006, 0.2, note, 90


def arpeggio() -> Iterator[Note]:
    for stroke in range(24):
        yield stroke * 0.3, 0.6, (45, 52, 57, 60, 64, 60, 57, 52)[stroke % 8], 88 if stroke % 8 == 0 else 82


def walking() -> Iterator[Note]:
    for stroke, note in enumerate((40, 43, 45, 47, 48, 47, 45, 43) * 2):
        yield stroke * 0.4, 0.36, note, 92


PHRASES: dict[str, Callable[[], Iterator[Note]]] = {
    "soft to hard": soft_to_hard, "muted riff": muted_riff, "lead line": lead_line, "offbeats": offbeats,
    "arpeggio": arpeggio, "walking": walking,
}  # fmt: skip


def _length(ticks: int) -> bytes:
    out = [ticks & 127]
    while ticks := ticks >> 7:
        out.insert(0, ticks & 127 | 128)
    return bytes(out)


def midi(notes: Sequence[Note], cents: float = 0.0, programme: int = CLEAN_GUITAR) -> bytes:
    """A MIDI file of one track for a guitar, tuned by so many cents."""
    bend = int(8192 + 8192 * cents / 200)
    events = [(0, bytes([0xC0, programme])), (0, bytes([0xE0, bend & 127, bend >> 7]))]
    for start, length, note, velocity in notes:
        events.append((int((start + LEAD_IN_S) * TICKS), bytes([0x90, note, round(velocity)])))
        events.append((int((start + length + LEAD_IN_S) * TICKS), bytes([0x80, note, 0])))
    data, last = b"", 0
    for at, message in sorted(events, key=lambda event: (event[0], event[1][0] != 0x80)):
        data += _length(at - last) + message
        last = at
    data += _length(1400) + b"\xff\x2f\x00"
    return b"MThd" + struct.pack(">IHHH", 6, 0, 1, 480) + b"MTrk" + struct.pack(">I", len(data)) + data


def play(
    phrase: str, hands: random.Random, *, cents: float = 0.0, tempo: float = 1.0, programme: int = CLEAN_GUITAR
) -> Floats:
    """One dry take at 48 kHz, a second of silence first; played anew each time."""
    pace = (1 + hands.gauss(0, 0.002)) / tempo
    notes = [
        (max(0.0, start * pace + hands.gauss(0, 0.006)), length * pace, note,
         float(np.clip(velocity + hands.gauss(0, 3), 20, 127)))
        for start, length, note, velocity in PHRASES[phrase]()
    ]  # fmt: skip
    return _rendered(midi(notes, cents, programme), hands, SOUNDFONT)


def sampled(notes: Sequence[Struck], hands: random.Random, soundfont: str = SOUNDFONT) -> Floats:
    """A dry take at 48 kHz of a generated phrase by a sampled guitar; played anew each time."""
    rows = [(one.start, one.length, one.pitch, 20 + 107 * one.strength) for one in played(notes, hands)]
    return _rendered(midi(rows, hands.gauss(0, 0.7)), hands, soundfont)


def _rendered(score: bytes, hands: random.Random, soundfont: str) -> Floats:
    with tempfile.TemporaryDirectory() as folder:
        file, sound = Path(folder, "take.mid"), Path(folder, "take.wav")
        file.write_bytes(score)
        command = ("fluidsynth", "-ni", "-q", "-g", "0.5", "-R", "0", "-C", "0", "-r", str(RATE_HZ), "-F", str(sound))
        subprocess.run([*command, "-T", "wav", soundfont, str(file)], check=True, capture_output=True)
        dry = soundfile.read(sound)[0].mean(axis=1)
    # The pick's place: a gentle tilt that no two takes share.
    return np.asarray(shelf(dry, 2000, hands.gauss(0, 0.4)) * 2.4)
