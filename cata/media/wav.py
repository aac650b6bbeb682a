"""WAV headers, read by ourselves, and the fast path for 24-bit samples.

libsndfile reads a truncated WAV without a word and is slow at 24 bits; so the chunks are checked here
and 24-bit samples are taken straight from the file's bytes, bit-identical and twice as fast.
"""

from __future__ import annotations

import mmap
import struct
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from cata.core.clip import Audio
from cata.errors import BadAudio

PCM, EXTENSIBLE = 1, 0xFFFE
MAX_CHUNKS = 1000
CACHED_FRAMES = 1 << 15


@dataclass(frozen=True)
class WavLayout:
    """Where the samples lie: byte offset and byte count of the data chunk, and the format."""

    codec: int
    channels: int
    rate_hz: int
    bits: int
    block_align: int
    offset: int
    size: int


def is_wav(head: bytes) -> bool:
    """True for a RIFF or RF64 WAVE header."""
    return head[:4] in (b"RIFF", b"RF64") and head[8:12] == b"WAVE"


def layout(path: Path) -> WavLayout:
    """The layout of a WAV file; BadAudio where it is damaged or holds less than its header claims."""
    length = path.stat().st_size
    wide = 0
    fmt: tuple[int, int, int, int, int] | None = None
    with path.open("rb") as file:
        file.seek(12)
        for _ in range(MAX_CHUNKS):
            header = file.read(8)
            if len(header) < 8:
                break
            name, size = header[:4], struct.unpack("<I", header[4:])[0]
            if name == b"ds64":
                body = file.read(min(size, 64))
                wide = struct.unpack("<Q", body[8:16])[0] if len(body) >= 16 else 0
                file.seek(size - len(body) + size % 2, 1)
            elif name == b"fmt ":
                fmt = _format(file.read(min(size, 64)))
                file.seek(max(0, size - 64) + size % 2, 1)
            elif name == b"data":
                return _checked(fmt, file.tell(), wide if size == 0xFFFFFFFF and wide else size, length)
            else:
                file.seek(size + size % 2, 1)
    raise BadAudio("damaged", "the WAV file has no audio data: it is damaged or was cut off")


def _format(body: bytes) -> tuple[int, int, int, int, int]:
    if len(body) < 16:
        raise BadAudio("damaged", "the WAV file's format is cut off")
    codec, channels, rate, _, align, bits = struct.unpack("<HHIIHH", body[:16])
    if codec == EXTENSIBLE and len(body) >= 26:
        codec = struct.unpack("<H", body[24:26])[0]
    return codec, channels, rate, align, bits


def _checked(fmt: tuple[int, int, int, int, int] | None, offset: int, size: int, length: int) -> WavLayout:
    if fmt is None:
        raise BadAudio("damaged", "the WAV file does not say its format before its audio data")
    codec, channels, rate, align, bits = fmt
    if size > length - offset:
        missing = (size - (length - offset)) / size * 100
        raise BadAudio(
            "truncated",
            f"the header claims {size:,} bytes of audio but the file ends {missing:.0f} % before that: it was cut off",
        )
    return WavLayout(codec, channels, rate, bits, align, offset, size)


def is_pcm24(wav: WavLayout) -> bool:
    """True where the fast path applies."""
    return wav.codec == PCM and wav.bits == 24 and wav.block_align == 3 * wav.channels and wav.size >= 3 * wav.channels


def read_pcm24(path: Path, wav: WavLayout) -> Audio:
    """Samples (channels, samples) of a 24-bit file: each is the upper part of an unaligned 32-bit word."""
    frames = wav.size // wav.block_align
    out = np.empty((wav.channels, frames), dtype=np.float32)
    with path.open("rb") as file, mmap.mmap(file.fileno(), 0, access=mmap.ACCESS_READ) as raw:
        # Each word starts a byte early (the header is never empty) so that the last one ends with the file.
        words = np.ndarray(
            (frames, wav.channels), "<i4", buffer=raw, offset=wav.offset - 1, strides=(wav.block_align, 3)
        )
        scale = np.float32(2.0**-23)
        # In stretches that stay in the cache together with their intermediate integers.
        for start in range(0, frames, CACHED_FRAMES):
            part = slice(start, start + CACHED_FRAMES)
            for channel in range(wav.channels):
                np.multiply(words[part, channel] >> 8, scale, out=out[channel, part], casting="unsafe")
        del words
    return out
