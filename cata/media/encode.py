"""Writing audio: takes of the bench, and the listening copy that browsers can decode alike."""

from __future__ import annotations

import io
import os
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import BinaryIO

import numpy as np
import soundfile

from cata.core.clip import Clip
from cata.core.measure.level import to_db
from cata.core.resample import for_analysis
from cata.disk import telling_of_full


def write_wav(clip: Clip, path: Path, subtype: str = "PCM_24") -> None:
    """The clip as a WAV file."""
    with telling_of_full(path.parent):
        soundfile.write(os.fsencode(path), clip.samples.T, clip.rate_hz, subtype=subtype, format="WAV")


def write_wav_to(clip: Clip, out: BinaryIO, subtype: str = "PCM_24") -> None:
    """The clip as a WAV file into an open binary file."""
    soundfile.write(out, clip.samples.T, clip.rate_hz, subtype=subtype, format="WAV")


def write_flac(clip: Clip, path: Path) -> None:
    """The clip as 24-bit FLAC."""
    with telling_of_full(path.parent):
        soundfile.write(os.fsencode(path), clip.samples.T, clip.rate_hz, subtype="PCM_24", format="FLAC")


def write_listening_copy(clip: Clip, path: Path) -> float:
    """48 kHz FLAC of a take; returns the gain in dB that undoes the scaling of takes with overs.

    Every browser decodes it to the same samples, so lags found on the server hold in the browser;
    an MP3 would come with a delay that depends on the decoder.
    """
    copy = for_analysis(clip)
    peak = float(np.max(np.abs(copy.samples), initial=0.0))
    if peak <= 1.0:
        write_flac(copy, path)
        return 0.0
    write_flac(Clip(np.asarray(copy.samples / np.float32(peak), dtype=np.float32), copy.rate_hz), path)
    return to_db(peak)


@contextmanager
def writing(path: Path, rate_hz: int, channels: int, container: str, subtype: str) -> Iterator[soundfile.SoundFile]:
    """A file to write bit by bit: ``write`` takes (samples, channels)."""
    with (
        telling_of_full(path.parent),
        soundfile.SoundFile(os.fsencode(path), "w", rate_hz, channels, subtype, format=container) as file,
    ):
        yield file


def encoded(clip: Clip, container: str, subtype: str) -> bytes:
    """The clip as the bytes of a file that libsndfile can write (FLAC and PCM_16, OGG and VORBIS)."""
    out = io.BytesIO()
    soundfile.write(out, clip.samples.T, clip.rate_hz, format=container, subtype=subtype)
    return out.getvalue()
