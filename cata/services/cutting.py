"""Cutting a long recording: the tasks that run in workers and behind the command line. Plain data in and out."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import Any


def cut_recording(
    path: str, takes: int, *, by_slates: bool, lengths_s: Mapping[int, float] | None = None
) -> dict[str, Any]:
    """Where the takes of a recording lie.

    Returns {"pieces": [{"take", "start_s", "end_s", "confidence", "flag"}], "duration_s", "rate_hz", "slates": how
    many were read, "outline": greatest level of every 50 ms}; {"refused": reason, "code": ...} for a bad file.
    """
    from cata.core.capture.by_slates import cut_by_slates
    from cata.core.capture.silences import cut_by_silences
    from cata.core.capture.slates import SEARCH_RATE_HZ, find_slates
    from cata.errors import BadAudio
    from cata.media.long import open_long

    try:
        with open_long(Path(path)) as recording:
            low, outline = recording.low(SEARCH_RATE_HZ)
            slates = find_slates(low, recording.span) if by_slates else []
            if by_slates:
                pieces = cut_by_slates(slates, recording.duration_s, takes, lengths_s)
            else:
                pieces = cut_by_silences(low, SEARCH_RATE_HZ, takes)
            return {
                "pieces": [piece.as_json() for piece in pieces],
                "duration_s": recording.duration_s,
                "rate_hz": recording.rate_hz,
                "slates": len(slates),
                "outline": outline,
            }
    except BadAudio as error:
        return {"refused": error.message, "code": error.code}


def write_piece(path: str, start_s: float, end_s: float, out: str) -> dict[str, Any]:
    """One piece as 24-bit FLAC at the recording's own rate; the facts of the take it makes."""
    from cata.media.encode import write_flac
    from cata.media.long import open_long

    with open_long(Path(path)) as recording:
        clip = recording.span(start_s, end_s)
    write_flac(clip, Path(out))
    return {
        "container": "FLAC",
        "codec": "PCM_24",
        "rate_hz": clip.rate_hz,
        "channels": clip.channels,
        "duration_s": clip.duration_s,
    }


def slate_bytes(number: int, closes: bool) -> bytes:
    """The slate of a take as a 48 kHz, 24-bit WAV file."""
    import io

    from cata.core.signals.slate import SlateMark, slate
    from cata.media.encode import write_wav_to

    out = io.BytesIO()
    write_wav_to(slate(SlateMark(number, closes)), out)
    return out.getvalue()


def find_one_slate(path: str) -> dict[str, Any]:
    """{"start_s", "confidence"} of the first slate in a short recording, or {"refused": reason}."""
    from cata.core.capture.slates import SEARCH_RATE_HZ, find_slates
    from cata.errors import BadAudio
    from cata.media.long import open_long

    try:
        with open_long(Path(path)) as recording:
            found = find_slates(recording.low(SEARCH_RATE_HZ)[0], recording.span)
    except BadAudio as error:
        return {"refused": error.message}
    if not found:
        return {"refused": "the tone was not heard: connect an output to the input, or turn the speaker up"}
    return {"start_s": found[0].start_s, "confidence": found[0].confidence}
