"""A flight as a reel: every take after the other at one level, with marks where each begins."""

from __future__ import annotations

import csv
import io
import struct
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from cata.core.clip import Clip
from cata.core.match.gains import School
from cata.errors import Refused
from cata.media.encode import encoded
from cata.services.shown.sounds import shown
from cata.services.workspace import Workspace

PAUSE_S = 0.3
FORMATS = {".wav": ("WAV", "PCM_24"), ".flac": ("FLAC", "PCM_24")}


@dataclass(frozen=True)
class Chapter:
    """One take in a reel, in seconds."""

    start_s: float
    end_s: float
    contender: str
    test: str

    @property
    def title(self) -> str:
        """What is shown while it sounds."""
        return f"{self.contender} \N{EN DASH} {self.test}"


def make_reel(ws: Workspace, flight_id: int, school: School | None = None) -> tuple[Clip, list[Chapter]]:
    """The sound of a reel, two channels at 48 kHz, and its chapters; test by test, each in the order of the flight."""
    flight = shown(ws, flight_id, school)
    pieces: list[np.ndarray] = []
    chapters: list[Chapter] = []
    at, rate = 0, 48_000
    for test in flight.tests:
        for view, clip in test.takes:
            rate = clip.rate_hz
            both = np.repeat(clip.samples, 2, axis=0) if clip.channels == 1 else clip.samples
            chapters.append(Chapter(at / rate, (at + clip.length) / rate, view.name, test.name))
            pause = np.zeros((2, round(PAUSE_S * rate)), dtype=np.float32)
            pieces += [both, pause]
            at += clip.length + pause.shape[1]
    return Clip.of(np.concatenate(pieces, axis=1), rate), chapters


def write_reel(ws: Workspace, flight_id: int, target: Path, school: School | None = None) -> list[Path]:
    """Write a reel as WAV (with cue points) or FLAC, its chapters beside it as WebVTT and CSV; the files.

    Refused for another ending.
    """
    beside = {target.with_suffix(ending): content for ending, content in
              reel_files(ws, flight_id, target.suffix.lower(), school).items()}  # fmt: skip
    for path, content in beside.items():
        path.write_bytes(content)
    return list(beside)


def reel_files(ws: Workspace, flight_id: int, ending: str, school: School | None = None) -> dict[str, bytes]:
    """The files of a reel by their endings: sound and chapters. Refused for another sound than WAV and FLAC."""
    wanted = FORMATS.get(ending)
    if wanted is None:
        raise Refused("a reel is written as .wav or .flac", "no_such_format")
    clip, chapters = make_reel(ws, flight_id, school)
    sound = encoded(clip, *wanted)
    if wanted[0] == "WAV":
        sound = with_cues(sound, [(round(one.start_s * clip.rate_hz), one.title) for one in chapters])
    return {ending: sound, ".vtt": vtt(chapters).encode(), ".csv": table(chapters).encode()}


def with_cues(wav: bytes, marks: list[tuple[int, str]]) -> bytes:
    """A WAV file with a cue point and a label for each mark, given as its first sample."""
    points = b"".join(
        struct.pack("<II4sIII", number, at, b"data", 0, 0, at) for number, (at, _) in enumerate(marks, start=1)
    )
    cue = struct.pack("<4sII", b"cue ", 4 + len(points), len(marks)) + points
    labels = b""
    for number, (_, title) in enumerate(marks, start=1):
        text = title.encode("utf-8") + b"\0"
        labels += struct.pack("<4sII", b"labl", 4 + len(text), number) + text + b"\0" * (len(text) % 2)
    listed = struct.pack("<4sI4s", b"LIST", 4 + len(labels), b"adtl") + labels
    whole = wav + b"\0" * (len(wav) % 2) + cue + listed
    return whole[:4] + struct.pack("<I", len(whole) - 8) + whole[8:]


def vtt(chapters: list[Chapter]) -> str:
    """Chapters as WebVTT."""
    cues = [f"{_clock(one.start_s)} --> {_clock(one.end_s)}\n{_plain(one.title)}\n" for one in chapters]
    return "\n".join(["WEBVTT\n", *cues])


def table(chapters: list[Chapter]) -> str:
    """Chapters as CSV."""
    out = io.StringIO(newline="")
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(["start s", "end s", "contender", "test"])
    writer.writerows([f"{one.start_s:.3f}", f"{one.end_s:.3f}", one.contender, one.test] for one in chapters)
    return out.getvalue()


def _clock(seconds: float) -> str:
    whole = round(seconds * 1000)
    return f"{whole // 3_600_000:02d}:{whole // 60_000 % 60:02d}:{whole // 1000 % 60:02d}.{whole % 1000:03d}"


def _plain(text: str) -> str:
    """Text that WebVTT takes for no mark of its own."""
    return text.replace("&", "&amp;").replace("<", "&lt;").replace("\n", " ").replace("-->", "\N{RIGHTWARDS ARROW}")
