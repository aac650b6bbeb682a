"""Decoding: every format agrees, and every bad file has its plain reason."""

from __future__ import annotations

import struct
from pathlib import Path

import numpy as np
import pytest
import soundfile

from cata.errors import BadAudio
from cata.media.decode import Limits, decode
from cata.media.encode import write_listening_copy
from tests.tones import sine

TONE = np.stack([sine(440, -6, 1.0), sine(660, -12, 1.0)]).astype(np.float32)


def written(path: Path, subtype: str, rate_hz: int = 48000, samples: np.ndarray = TONE) -> Path:
    soundfile.write(str(path), samples.T, rate_hz, subtype=subtype)
    return path


def refused(path: Path, limits: Limits | None = None) -> BadAudio:
    with pytest.raises(BadAudio) as caught:
        decode(path, limits or Limits())
    return caught.value


@pytest.mark.parametrize(
    ("name", "subtype", "tolerance"),
    [("a.wav", "PCM_U8", 0.01), ("a.wav", "PCM_16", 1e-4), ("a.wav", "PCM_24", 1e-6), ("a.wav", "PCM_32", 1e-6),
     ("a.wav", "FLOAT", 1e-7), ("a.flac", "PCM_24", 1e-6), ("a.aiff", "PCM_16", 1e-4), ("a.ogg", "VORBIS", 0.05),
     ("a.mp3", "MPEG_LAYER_III", 0.05)],
)  # fmt: skip
def test_every_format_gives_the_samples_back(tmp_path: Path, name: str, subtype: str, tolerance: float) -> None:
    recording = decode(written(tmp_path / name, subtype))
    assert recording.clip.rate_hz == 48000
    count = min(recording.clip.length, TONE.shape[1])
    inner = slice(4800, count - 4800)
    # A lossy codec may shift its output by its delay; its level is what counts.
    if recording.lossy:
        assert np.std(recording.clip.samples[0][inner]) == pytest.approx(np.std(TONE[0][inner]), rel=tolerance)
    else:
        assert np.abs(recording.clip.samples[:, inner] - TONE[:, inner]).max() < tolerance


@pytest.mark.parametrize("rate_hz", [8000, 44100, 96000, 192000])
@pytest.mark.parametrize("channels", [1, 2])
def test_the_fast_way_for_24_bits_is_identical_to_the_library(tmp_path: Path, rate_hz: int, channels: int) -> None:
    noise = np.random.default_rng(1).uniform(-1, 1, (channels, 70_001))
    path = written(tmp_path / "a.wav", "PCM_24", rate_hz, noise)
    expected, _ = soundfile.read(str(path), dtype="float32", always_2d=True)
    assert np.array_equal(decode(path).clip.samples, expected.T)


def test_an_empty_file_and_a_missing_one(tmp_path: Path) -> None:
    (tmp_path / "a.wav").touch()
    assert refused(tmp_path / "a.wav").code == "empty"
    assert refused(tmp_path / "none.wav").code == "missing"


def test_a_text_file_named_wav(tmp_path: Path) -> None:
    (tmp_path / "a.wav").write_text("Strings to buy: 10-46.\n" * 50)
    assert refused(tmp_path / "a.wav").code == "not_audio"


@pytest.mark.parametrize("subtype", ["PCM_16", "PCM_24", "FLOAT"])
def test_a_truncated_wav_is_not_read_silently(tmp_path: Path, subtype: str) -> None:
    path = written(tmp_path / "a.wav", subtype)
    path.write_bytes(path.read_bytes()[: path.stat().st_size // 2])
    assert refused(path).code == "truncated"


def test_a_truncated_aiff_and_a_damaged_flac(tmp_path: Path) -> None:
    aiff = written(tmp_path / "a.aiff", "PCM_16")
    aiff.write_bytes(aiff.read_bytes()[:4000])
    assert refused(aiff).code == "truncated"
    flac = written(tmp_path / "a.flac", "PCM_24")
    whole = bytearray(flac.read_bytes())
    whole[len(whole) // 2 : len(whole) // 2 + 4000] = b"\x00" * 4000
    flac.write_bytes(bytes(whole))
    assert refused(flac).code in ("damaged", "truncated")


@pytest.mark.parametrize("bad", [np.nan, np.inf])
def test_samples_that_are_no_numbers(tmp_path: Path, bad: float) -> None:
    samples = TONE.copy()
    samples[0, 100] = bad
    assert refused(written(tmp_path / "a.wav", "FLOAT", samples=samples)).code == "not_finite"


@pytest.mark.parametrize("count", [0, 1])
def test_no_sample_or_one(tmp_path: Path, count: int) -> None:
    assert refused(written(tmp_path / "a.wav", "PCM_16", samples=TONE[:, :count])).code == "no_samples"


def test_surround_needs_a_choice_of_two_channels(tmp_path: Path) -> None:
    eight = np.vstack([TONE] * 4)
    path = written(tmp_path / "a.wav", "PCM_16", samples=eight)
    assert refused(path).code == "channels"
    assert decode(path, Limits(pick=(2, 3))).clip.channels == 2


def test_a_header_that_claims_two_gigabytes(tmp_path: Path) -> None:
    path = written(tmp_path / "a.wav", "PCM_16")
    data = bytearray(path.read_bytes())
    at = data.index(b"data") + 4
    data[at : at + 4] = struct.pack("<I", 2_000_000_000)
    path.write_bytes(bytes(data))
    assert refused(path).code == "truncated"


def test_hours_of_audio_are_refused_by_the_header(tmp_path: Path) -> None:
    path = written(tmp_path / "a.flac", "PCM_16", samples=np.zeros((1, 48000 * 40), np.float32))
    assert refused(path, Limits(max_duration_s=30)).code == "too_long"


@pytest.mark.parametrize("rate_hz", [4000, 384000])
def test_absurd_rates_are_refused(tmp_path: Path, rate_hz: int) -> None:
    assert refused(written(tmp_path / "a.wav", "PCM_16", rate_hz)).code == "rate"


def test_an_mp3_named_wav_is_read_by_its_content_and_told(tmp_path: Path) -> None:
    path = written(tmp_path / "a.mp3", "MPEG_LAYER_III")
    path.rename(tmp_path / "a.wav")
    recording = decode(tmp_path / "a.wav")
    assert recording.lossy
    assert [(note.code, note.numbers["content"]) for note in recording.notes] == [("other_content", "MP3")]


def test_the_listening_copy_keeps_overs_by_a_gain(tmp_path: Path) -> None:
    loud = decode(written(tmp_path / "a.wav", "FLOAT", 44100, TONE * 4)).clip
    gain_db = write_listening_copy(loud, tmp_path / "copy.flac")
    copy, rate = soundfile.read(str(tmp_path / "copy.flac"))
    assert rate == 48000
    heard = 20 * np.log10(np.abs(copy).max()) + gain_db
    assert heard == pytest.approx(20 * np.log10(np.abs(loud.samples).max()), abs=0.1)
