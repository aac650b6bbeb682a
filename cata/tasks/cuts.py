"""Long recordings: where the takes lie in one, and each cut out of it; slates, and the latency they tell."""

from __future__ import annotations

import io
from collections.abc import Mapping
from dataclasses import dataclass, field

from cata.core.capture.by_slates import cut_by_slates
from cata.core.capture.pieces import Piece
from cata.core.capture.silences import cut_by_silences
from cata.core.capture.slates import SEARCH_RATE_HZ, find_slates
from cata.core.signals.slate import SlateMark, slate
from cata.errors import Refused
from cata.media.encode import write_flac, write_wav_to
from cata.media.long import open_long
from cata.tasks.desk import Desk
from cata.tasks.shape import Task
from cata.tasks.takes import Facts

MOST_LATENCY_S = 60.0
"""A round trip is told by some seconds."""


@dataclass(frozen=True)
class ToCut:
    """A long recording, how many takes it holds, and their planned lengths by number."""

    file: str
    takes: int
    by_slates: bool
    lengths_s: Mapping[int, float] = field(default_factory=dict)


@dataclass(frozen=True)
class Found:
    """The takes in a recording; ``slates`` were read; ``outline`` is the greatest level of every 50 ms."""

    pieces: tuple[Piece, ...]
    duration_s: float
    rate_hz: int
    slates: int
    outline: list[float]


def find(wish: ToCut, desk: Desk) -> Found:
    """Find the takes of a recording; BadAudio where it cannot be used."""
    with desk.reading(wish.file) as path, open_long(path) as recording:
        desk.tell(0.05, "reading the recording")
        low, outline = recording.low(SEARCH_RATE_HZ)
        desk.tell(0.6, "looking for takes")
        slates = find_slates(low, recording.span) if wish.by_slates else []
        if wish.by_slates:
            pieces = cut_by_slates(slates, recording.duration_s, wish.takes, dict(wish.lengths_s) or None)
        else:
            pieces = cut_by_silences(low, SEARCH_RATE_HZ, wish.takes)
        return Found(tuple(pieces), recording.duration_s, recording.rate_hz, len(slates), outline)


@dataclass(frozen=True)
class Span:
    """A stretch of a recording in seconds, and the file it becomes."""

    file: str
    start_s: float
    end_s: float
    out: str
    evidence: str = "played"


def cut_out(span: Span, desk: Desk) -> Facts:
    """Write a stretch as 24-bit FLAC at the recording's own rate; the facts of the take it makes."""
    with desk.reading(span.file) as path, open_long(path) as recording:
        clip = recording.span(span.start_s, span.end_s)
    with desk.writing(span.out) as out:
        write_flac(clip, out)
    return Facts(
        container="FLAC", codec="PCM_24", rate_hz=clip.rate_hz, channels=clip.channels, duration_s=clip.duration_s,
        evidence=span.evidence,
    )  # fmt: skip


@dataclass(frozen=True)
class Heard:
    """A slate in a recording: where it starts in seconds, and how sure that is (0 to 1)."""

    start_s: float
    confidence: float


def hear_slate(file: str, desk: Desk) -> Heard:
    """The first slate in a short recording; Refused where none is heard."""
    with desk.reading(file) as path, open_long(path, MOST_LATENCY_S) as recording:
        found = find_slates(recording.low(SEARCH_RATE_HZ)[0], recording.span)
    if not found:
        raise Refused(
            "the tone was not heard: connect an output to the input, or turn the speaker up", "tone_not_heard"
        )
    return Heard(found[0].start_s, found[0].confidence)


def slate_bytes(number: int, closes: bool) -> bytes:
    """The slate of a take as a 48 kHz, 24-bit WAV file."""
    out = io.BytesIO()
    write_wav_to(slate(SlateMark(number, closes)), out)
    return out.getvalue()


FIND_TAKES = Task("find takes", find, limit_s=600)
CUT_OUT = Task("cut out a take", cut_out, limit_s=300)
HEAR_SLATE = Task("hear a slate", hear_slate, limit_s=60)
