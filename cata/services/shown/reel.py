"""A flight as a reel: every take after the other at one level, with marks where each begins."""

from __future__ import annotations

import os
import secrets
import struct
import zipfile
from dataclasses import dataclass
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np

from cata.core.match.gains import School
from cata.core.shelf.table import write_table
from cata.errors import Refused
from cata.media.encode import writing
from cata.services.shown.sounds import ONE_AT_A_TIME, ShownFlight, shown
from cata.services.workspace import Workspace

PAUSE_S, RATE_HZ = 0.3, 48_000
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


def write_reel(ws: Workspace, flight_id: int, target: Path, school: School | None = None) -> list[Path]:
    """Write a reel as WAV (with cue points) or FLAC, its chapters beside it as WebVTT and CSV; the files.

    Two channels at 48 kHz, test by test, each in the order of the flight, one take in memory at a time. The files
    appear whole or not at all. Refused for another ending.
    """
    wanted = FORMATS.get(target.suffix.lower())
    if wanted is None:
        raise Refused("a reel is written as .wav or .flac", "no_such_format")
    if not target.absolute().parent.is_dir():
        raise Refused(f"there is no folder {target.parent}", "no_folder")
    with TemporaryDirectory(dir=target.absolute().parent, prefix=f".{target.name}-") as folder, ONE_AT_A_TIME:
        sound = Path(folder) / target.name
        chapters = _write_sound(shown(ws, flight_id, school), sound, *wanted)
        if wanted[0] == "WAV":
            add_cues(sound, [(round(one.start_s * RATE_HZ), one.title) for one in chapters])
        made = {target: sound}
        for ending, content in ((".vtt", vtt(chapters).encode()), (".csv", table(chapters))):
            made[target.with_suffix(ending)] = sound.with_suffix(ending)
            sound.with_suffix(ending).write_bytes(content)
        for place, written in made.items():
            written.replace(place)
    return list(made)


def reel_zip(ws: Workspace, flight_id: int, folder: Path) -> Path:
    """A reel of FLAC with its chapters as one ZIP, a new file in a folder."""
    with TemporaryDirectory(dir=folder) as inner:
        files = write_reel(ws, flight_id, Path(inner) / f"reel-{flight_id}.flac")
        target = folder / f"{secrets.token_hex(8)}.zip"
        with zipfile.ZipFile(target, "w", zipfile.ZIP_STORED) as archive:
            for path in files:
                archive.write(path, path.name)
    return target


def _write_sound(flight: ShownFlight, target: Path, container: str, subtype: str) -> list[Chapter]:
    chapters: list[Chapter] = []
    at = 0
    pause = np.zeros((round(PAUSE_S * RATE_HZ), 2), dtype=np.float32)
    with writing(target, RATE_HZ, 2, container, subtype) as out:
        for test in flight.tests:
            for take in test.takes:
                clip = take.clip()
                both = np.repeat(clip.samples, 2, axis=0) if clip.channels == 1 else clip.samples
                chapters.append(Chapter(at / RATE_HZ, (at + clip.length) / RATE_HZ, take.view.name, test.name))
                out.write(both.T)
                out.write(pause)
                at += clip.length + len(pause)
    return chapters


def add_cues(path: Path, marks: list[tuple[int, str]]) -> None:
    """Add a cue point and a label for each mark, given as its first sample, to a WAV file."""
    points = b"".join(
        struct.pack("<II4sIII", number, at, b"data", 0, 0, at) for number, (at, _) in enumerate(marks, start=1)
    )
    cue = struct.pack("<4sII", b"cue ", 4 + len(points), len(marks)) + points
    labels = b""
    for number, (_, title) in enumerate(marks, start=1):
        text = title.encode("utf-8") + b"\0"
        labels += struct.pack("<4sII", b"labl", 4 + len(text), number) + text + b"\0" * (len(text) % 2)
    listed = struct.pack("<4sI4s", b"LIST", 4 + len(labels), b"adtl") + labels
    with path.open("r+b") as file:
        length = file.seek(0, os.SEEK_END)
        file.write(b"\0" * (length % 2) + cue + listed)
        whole = file.tell()
        file.seek(4)
        file.write(struct.pack("<I", whole - 8))


def vtt(chapters: list[Chapter]) -> str:
    """Chapters as WebVTT."""
    cues = [f"{_clock(one.start_s)} --> {_clock(one.end_s)}\n{_plain(one.title)}\n" for one in chapters]
    return "\n".join(["WEBVTT\n", *cues])


def table(chapters: list[Chapter]) -> bytes:
    """Chapters as CSV."""
    lines = [[f"{one.start_s:.3f}", f"{one.end_s:.3f}", one.contender, one.test] for one in chapters]
    return write_table(["start s", "end s", "contender", "test"], lines)


def _clock(seconds: float) -> str:
    whole = round(seconds * 1000)
    return f"{whole // 3_600_000:02d}:{whole // 60_000 % 60:02d}:{whole // 1000 % 60:02d}.{whole % 1000:03d}"


def _plain(text: str) -> str:
    """Text that WebVTT takes for no mark of its own."""
    return text.replace("&", "&amp;").replace("<", "&lt;").replace("\n", " ").replace("-->", "\N{RIGHTWARDS ARROW}")
