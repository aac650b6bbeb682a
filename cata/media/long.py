"""Long recordings, read in blocks: 25 minutes of stereo need no half gigabyte of memory."""

from __future__ import annotations

import os
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import numpy.typing as npt
import soundfile
import soxr

from cata.core.clip import Audio, Clip
from cata.errors import BadAudio
from cata.media.decode import MAX_CHANNELS, MAX_RATE_HZ, MIN_RATE_HZ

BLOCK_S = 20.0
MOST_LONG_S = 3 * 3600.0
"""An afternoon in one piece."""
OUTLINE_POINTS_PER_S = 20


@dataclass(frozen=True)
class LongRecording:
    """An open long file: its rate in Hz, channels and duration in seconds."""

    file: soundfile.SoundFile

    @property
    def rate_hz(self) -> int:
        """Sampling rate in Hz."""
        return int(self.file.samplerate)

    @property
    def duration_s(self) -> float:
        """Duration in seconds."""
        return float(self.file.frames / self.file.samplerate)

    def span(self, start_s: float, end_s: float) -> Clip:
        """The stretch from ``start_s`` to ``end_s`` (seconds, clamped), at the recording's own rate."""
        start = min(max(0, round(start_s * self.rate_hz)), self.file.frames)
        stop = min(max(start, round(end_s * self.rate_hz)), self.file.frames)
        with _decoding():
            self.file.seek(start)
            read = self.file.read(stop - start, dtype="float32", always_2d=True)
        return Clip.of(self._checked(read).T, self.rate_hz)

    def low(self, rate_hz: int) -> tuple[npt.NDArray[np.float16], list[float]]:
        """The whole recording, mono, at a low rate and half precision, shape (samples,); and its picture.

        The picture is the greatest level of every 50 ms, 0 to 1. Both come from one reading: decoding is what takes
        the time. Half precision is 66 dB under whatever sounds, and half the memory.
        """
        stream = soxr.ResampleStream(self.rate_hz, rate_hz, 1, dtype="float32", quality="MQ")
        cell = self.rate_hz // OUTLINE_POINTS_PER_S
        parts: list[npt.NDArray[np.float16]] = []
        peaks: list[float] = []
        for mono in self._mono_blocks():
            parts.append(stream.resample_chunk(mono).astype(np.float16))
            whole = len(mono) // cell
            peaks += np.abs(mono[: whole * cell]).reshape(whole, cell).max(axis=1).round(4).tolist()
        parts.append(stream.resample_chunk(np.zeros(0, dtype=np.float32), last=True).astype(np.float16))
        return np.concatenate(parts), peaks

    def _mono_blocks(self) -> Iterator[Audio]:
        size = round(BLOCK_S * self.rate_hz)
        with _decoding():
            self.file.seek(0)
            blocks = self.file.blocks(size, dtype="float32", always_2d=True)
        while True:
            with _decoding():
                block = next(blocks, None)
            if block is None:
                return
            checked = self._checked(block)
            # An own sum: numpy's mean over interleaved pairs is ten times slower.
            yield (checked[:, 0] + checked[:, 1]) * np.float32(0.5) if block.shape[1] > 1 else checked[:, 0]

    def _checked(self, block: Audio) -> Audio:
        # Only floating-point files can hold what is no number.
        if self.file.subtype in ("FLOAT", "DOUBLE") and not np.isfinite(block).all():
            raise BadAudio("not_finite", "samples are not numbers (NaN or infinite): the export went wrong")
        return block


@contextmanager
def _decoding() -> Iterator[None]:
    try:
        yield
    except (soundfile.LibsndfileError, RuntimeError, ValueError) as error:
        raise BadAudio("damaged", "the audio in the file is damaged and cannot be decoded") from error


@contextmanager
def open_long(path: Path, most_s: float = MOST_LONG_S) -> Iterator[LongRecording]:
    """Open a long recording. Raises BadAudio with a code and a plain reason."""
    if not path.is_file():
        raise BadAudio("missing", "there is no such file, or it is none: a folder, a pipe or a device")
    if path.stat().st_size == 0:
        raise BadAudio("empty", "the file is empty (0 bytes)")
    try:
        file = soundfile.SoundFile(os.fsencode(path))
    except (soundfile.LibsndfileError, RuntimeError, TypeError) as error:
        raise BadAudio("not_audio", "not a readable WAV, FLAC, OGG, MP3 or AIFF file") from error
    with file:
        if not MIN_RATE_HZ <= file.samplerate <= MAX_RATE_HZ or file.channels > MAX_CHANNELS:
            raise BadAudio("channels", f"{file.channels} channels at {file.samplerate} Hz: mono or stereo is needed")
        if file.frames <= 1:
            raise BadAudio("no_samples", "the file holds no samples")
        if file.frames / file.samplerate > most_s:
            raise BadAudio(
                "too_long",
                f"the recording lasts {file.frames / file.samplerate / 60:.0f} minutes; "
                f"at most {most_s / 60:.0f} are read here: cut it first",
            )
        yield LongRecording(file)
