"""Glasses of a blind tasting: filled once, and poured anew for every trial, each in the same time as the others."""

from __future__ import annotations

import secrets
import struct
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from cata.core.taste.glass import Stretch, poured, wine
from cata.media.decode import Limits, decode
from cata.tasks.desk import Desk
from cata.tasks.shape import Task

CHANNELS, RATE_HZ, SAMPLE_BYTES = 2, 48_000, 3


@dataclass(frozen=True)
class ToFill:
    """A listening copy, where in it the stretch lies, and the file to make: samples as they are in memory."""

    copy: str
    lag_s: float
    gain_db: float
    stretch: Stretch
    out: str
    below_hz: float = 0.0


def fill(glasses: list[ToFill], desk: Desk) -> None:
    """Fill glasses."""
    for one in glasses:
        with desk.reading(one.copy) as path:
            clip = decode(path, Limits(max_duration_s=float("inf"))).clip
        filled = wine(clip.samples, clip.rate_hz, one.lag_s, one.gain_db, one.stretch, below_hz=one.below_hz)
        with desk.writing(one.out) as path:
            np.ascontiguousarray(filled.T).tofile(path)


@dataclass(frozen=True)
class ToPour:
    """What was filled, and the WAV file to make of it."""

    filled: str
    out: str


def pour(glasses: list[ToPour], desk: Desk) -> None:
    """Pour glasses, each with chance of its own."""
    for one in glasses:
        with desk.reading(one.filled) as path:
            filled = np.fromfile(path, dtype=np.float32).reshape(-1, CHANNELS).T
        samples = poured(filled, np.random.default_rng(secrets.randbits(128)))
        with desk.writing(one.out) as path:
            _write_wav(path, samples.tobytes())


def _write_wav(path: Path, samples: bytes) -> None:
    """24-bit samples as WAV, with nothing in its header but what they are."""
    block = CHANNELS * SAMPLE_BYTES
    form = struct.pack("<HHIIHH", 1, CHANNELS, RATE_HZ, RATE_HZ * block, block, 8 * SAMPLE_BYTES)
    head = b"WAVEfmt " + struct.pack("<I", len(form)) + form + b"data" + struct.pack("<I", len(samples))
    with path.open("wb") as file:
        file.write(b"RIFF" + struct.pack("<I", len(head) + len(samples)) + head)
        file.write(samples)


FILL = Task("fill glasses", fill, limit_s=300)
POUR = Task("pour glasses", pour, limit_s=120)
