"""WAV files as other programs write them, and headers that lie."""

from __future__ import annotations

import struct
from pathlib import Path

import numpy as np
import pytest
import soundfile

from cata.errors import BadAudio
from cata.media.decode import decode
from cata.media.wav import is_pcm24, is_wav, layout
from tests.conftest import declines
from tests.media.test_witnesses import run

SAMPLES = np.random.default_rng(4).uniform(-0.9, 0.9, (2, 5000))


def chunk(name: bytes, body: bytes) -> bytes:
    return name + struct.pack("<I", len(body)) + body + b"\0" * (len(body) % 2)


def fmt(codec: int = 1, channels: int = 2, rate: int = 48000, bits: int = 24, extra: bytes = b"") -> bytes:
    align = channels * bits // 8
    return struct.pack("<HHIIHH", codec, channels, rate, rate * align, align, bits) + extra


def pcm24(samples: np.ndarray) -> bytes:
    whole = np.round(samples.T * (2**23 - 1)).astype("<i4")
    return whole.reshape(-1, 1).view(np.uint8)[:, :3].tobytes()


def riff(*chunks: bytes) -> bytes:
    body = b"WAVE" + b"".join(chunks)
    return b"RIFF" + struct.pack("<I", len(body)) + body


def written(path: Path, data: bytes) -> Path:
    path.write_bytes(data)
    return path


@pytest.mark.parametrize(
    "before",
    [b"", chunk(b"LIST", b"INFOIART\x04\0\0\0abc\0"), chunk(b"junk", b"x" * 27), chunk(b"bext", bytes(602))],
    ids=["plain", "list", "odd junk", "broadcast"],
)
def test_chunks_before_the_samples_are_passed_over(tmp_path: Path, before: bytes) -> None:
    path = written(tmp_path / "a.wav", riff(chunk(b"fmt ", fmt()), before, chunk(b"data", pcm24(SAMPLES))))
    found = layout(path)
    assert is_pcm24(found)
    assert np.abs(decode(path).clip.samples - SAMPLES).max() < 2e-7


def test_the_extensible_form_is_the_same_format(tmp_path: Path) -> None:
    guid = struct.pack("<H", 1) + bytes.fromhex("000000001000800000aa00389b71")
    extra = struct.pack("<HHI", 22, 24, 3) + guid
    path = written(tmp_path / "a.wav", riff(chunk(b"fmt ", fmt(0xFFFE, extra=extra)), chunk(b"data", pcm24(SAMPLES))))
    assert is_pcm24(layout(path))
    assert np.abs(decode(path).clip.samples - SAMPLES).max() < 2e-7


@pytest.mark.parametrize(
    ("data", "code"),
    [
        (riff(chunk(b"fmt ", fmt())), "damaged"),
        (riff(chunk(b"data", pcm24(SAMPLES))), "damaged"),
        (riff(chunk(b"fmt ", b"\1\0\2\0"), chunk(b"data", pcm24(SAMPLES))), "damaged"),
        (riff(chunk(b"fmt ", fmt()), b"data" + struct.pack("<I", 10**9) + b"abc"), "truncated"),
        (riff(chunk(b"fmt ", fmt()), b"data" + struct.pack("<I", 0xFFFFFFFF) + pcm24(SAMPLES)), "truncated"),
        (b"RIFF", "not_audio"),
    ],
    ids=["no data", "no format", "short format", "too large", "streamed", "four bytes"],
)
def test_headers_that_lie_are_refused_with_their_reason(tmp_path: Path, data: bytes, code: str) -> None:
    with pytest.raises(BadAudio) as caught:
        decode(written(tmp_path / "a.wav", data))
    assert caught.value.code == code
    assert caught.value.message


def test_a_thousand_empty_chunks_end_the_search(tmp_path: Path) -> None:
    path = written(tmp_path / "a.wav", riff(*[chunk(b"junk", b"")] * 2000))
    with declines(BadAudio, "damaged"):
        decode(path)


def test_a_wav_is_known_by_its_first_bytes() -> None:
    assert is_wav(riff(chunk(b"fmt ", fmt())))
    assert not is_wav(b"RIFF\0\0\0\0AVI ")
    assert not is_wav(b"")


@pytest.mark.parametrize("coding", ["pcm_s16le", "pcm_s24le", "pcm_s32le", "pcm_f32le", "pcm_u8"])
def test_files_of_another_program_are_read_alike(tmp_path: Path, coding: str) -> None:
    source = tmp_path / "source.wav"
    soundfile.write(str(source), SAMPLES.T, 48000, subtype="FLOAT")
    run("ffmpeg", "-loglevel", "error", "-i", source, "-c:a", coding, tmp_path / "a.wav")
    assert np.abs(decode(tmp_path / "a.wav").clip.samples - SAMPLES).max() < (0.01 if coding == "pcm_u8" else 4e-5)


def test_the_large_file_form_is_read(tmp_path: Path) -> None:
    source = tmp_path / "source.wav"
    soundfile.write(str(source), SAMPLES.T, 48000, subtype="PCM_24")
    run("ffmpeg", "-loglevel", "error", "-i", source, "-c:a", "pcm_s24le", "-rf64", "always", tmp_path / "a.wav")
    assert decode(tmp_path / "a.wav").clip.length == 5000
