"""Decoding: any file a person drops, to a :class:`Clip`, or a plain reason why not.

libsndfile reads silently what it should refuse (a truncated WAV, NaN, no sample at all), so every
file is checked here.
"""

from __future__ import annotations

import os
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import soundfile

from cata.core.clip import Clip
from cata.errors import BadAudio
from cata.media import wav as wav_file
from cata.said import Said, said

MIN_RATE_HZ, MAX_RATE_HZ = 8_000, 192_000
MAX_CHANNELS = 2
DEFAULT_MAX_DURATION_S = 30 * 60.0
MAX_TAKE_SAMPLES, MAX_TAKE_S = 72_000_000, 15 * 60.0
"""Samples of all channels together, and seconds, that a take may have: it is read whole, in less than 1 GB."""
LOUDEST = 100.0
"""40 dB over full scale: no recorder writes that, only an export that went wrong."""
BLOCK_FRAMES = 1 << 18
LOSSY_SUBTYPES = ("MPEG_LAYER_I", "MPEG_LAYER_II", "MPEG_LAYER_III", "VORBIS", "OPUS")
LOSSY_CODED = ("ULAW", "ALAW", "IMA_ADPCM", "MS_ADPCM", "GSM610", "G721_32", "NMS_ADPCM_16")
LOSSY = (*LOSSY_SUBTYPES, *LOSSY_CODED)
FLOATING = ("FLOAT", "DOUBLE", *LOSSY_SUBTYPES)
"""What can hold samples that are no numbers, or far too large ones."""
BY_NAME = {".wav": "WAV", ".flac": "FLAC", ".ogg": "OGG", ".mp3": "MP3", ".aif": "AIFF", ".aiff": "AIFF"}
SUFFIXES = (*BY_NAME, ".oga", ".opus", ".wave", ".aifc")


@dataclass(frozen=True)
class Recording:
    """A decoded file: the clip, the codec as its content says, whether that loses, and doubts about the file."""

    clip: Clip
    container: str
    codec: str
    lossy: bool
    notes: tuple[Said, ...] = ()


@dataclass(frozen=True, kw_only=True)
class Limits:
    """Bounds for one file; ``pick`` names the two channels to keep of a file that has more."""

    max_duration_s: float = DEFAULT_MAX_DURATION_S
    max_samples: int = MAX_TAKE_SAMPLES
    pick: tuple[int, int] | None = None


DEFAULT_LIMITS = Limits()


def decode(path: Path, limits: Limits = DEFAULT_LIMITS) -> Recording:
    """Read a WAV, FLAC, OGG, MP3 or AIFF file whole. Raises BadAudio with a code and a plain reason."""
    layout, info = _opened(path, limits)
    if layout and wav_file.is_pcm24(layout) and layout.channels == info.channels:
        samples = wav_file.read_pcm24(path, layout)
    else:
        samples = _read(path, info)
    if limits.pick is not None and info.channels > MAX_CHANNELS:
        samples = np.ascontiguousarray(samples[list(limits.pick)])
    # Only floating-point files can hold what is no number.
    if info.subtype in FLOATING:
        _check_samples(samples)
    return Recording(
        clip=Clip(samples, info.samplerate),
        container=info.format,
        codec=info.subtype,
        lossy=info.subtype in LOSSY,
        notes=_notes(path, info.format, info.subtype),
    )


@dataclass(frozen=True)
class Looked:
    """What a file is, found without holding it: frames that could be decoded, and the rest as in :class:`Recording`.

    ``peak`` is the greatest sample, 1 at full scale; 0 where nothing was recorded.
    """

    rate_hz: int
    channels: int
    frames: int
    container: str
    codec: str
    lossy: bool
    notes: tuple[Said, ...] = ()
    peak: float = 0.0


def look(path: Path, limits: Limits = DEFAULT_LIMITS) -> Looked:
    """What a file is: all of it is decoded once, block by block. Raises BadAudio as :func:`decode` does."""
    _, info = _opened(path, limits)
    frames, peak = 0, 0.0
    try:
        with soundfile.SoundFile(os.fsencode(path)) as file:
            for block in file.blocks(BLOCK_FRAMES, dtype="float32", always_2d=True):
                frames += len(block)
                peak = max(peak, float(block.max(initial=0.0)), -float(block.min(initial=0.0)))
                if info.subtype in FLOATING:
                    _check_samples(block)
    except (soundfile.LibsndfileError, RuntimeError) as error:
        raise BadAudio("damaged", "the audio in the file is damaged and cannot be decoded") from error
    _check_frames(info, frames)
    return Looked(
        info.samplerate, info.channels, frames, info.format, info.subtype, info.subtype in LOSSY,
        _notes(path, info.format, info.subtype), peak,
    )  # fmt: skip


def _opened(path: Path, limits: Limits) -> tuple[wav_file.WavLayout | None, soundfile._SoundFileInfo]:
    """The header of a file, checked before any of its audio is read."""
    head = _head(path)
    layout = wav_file.layout(path) if wav_file.is_wav(head) else None
    if head[:4] == b"FORM" and int.from_bytes(head[4:8], "big") + 8 > path.stat().st_size:
        raise BadAudio("truncated", "the header claims more audio than the file holds: it was cut off")
    try:
        info = soundfile.info(os.fsencode(path))
    except (soundfile.LibsndfileError, RuntimeError, TypeError) as error:  # TypeError: a name that ends in .raw
        raise BadAudio("not_audio", "not a readable WAV, FLAC, OGG, MP3 or AIFF file") from error
    _check_header(info.samplerate, info.channels, info.frames, limits)
    return layout, info


def _head(path: Path) -> bytes:
    if path.exists() and not path.is_file():
        raise BadAudio("not_a_file", "not a file: a folder, a pipe or a device cannot be read as a recording")
    try:
        with path.open("rb") as file:
            head = file.read(16)
    except FileNotFoundError as error:
        raise BadAudio("missing", "there is no such file") from error
    except OSError as error:
        raise BadAudio("unreadable", f"the file cannot be opened: {error.strerror}") from error
    if not head:
        raise BadAudio("empty", "the file is empty (0 bytes)")
    return head


def _check_header(rate_hz: int, channels: int, frames: int, limits: Limits) -> None:
    if not MIN_RATE_HZ <= rate_hz <= MAX_RATE_HZ:
        raise BadAudio("rate", f"a sampling rate of {rate_hz} Hz is outside {MIN_RATE_HZ} to {MAX_RATE_HZ} Hz")
    if channels > MAX_CHANNELS:
        if limits.pick is None:
            raise BadAudio("channels", f"the file has {channels} channels; mono or stereo is needed, or pick two")
        if not all(0 <= channel < channels for channel in limits.pick):
            raise BadAudio("channels", f"the file has {channels} channels; {limits.pick} are not among them")
    if frames / rate_hz > limits.max_duration_s:
        raise BadAudio(
            "too_long",
            f"the file says it lasts {frames / rate_hz / 60:.0f} minutes; "
            f"the limit is {limits.max_duration_s / 60:.0f}",
        )
    most = min(limits.max_samples / channels / rate_hz, MAX_TAKE_S) / 60
    if frames / rate_hz / 60 > most:
        raise BadAudio(
            "too_long",
            f"a take of {channels} channel{'s' if channels > 1 else ''} at {rate_hz} Hz may last {most:.1f} minutes, "
            f"this lasts {frames / rate_hz / 60:.1f}; take it in as one long recording instead",
            most_minutes=round(most, 2),
        )
    if frames <= 1:
        raise BadAudio("no_samples", f"the file holds {'one sample' if frames == 1 else 'no samples'}")


def _read(path: Path, info: soundfile._SoundFileInfo) -> np.ndarray[tuple[int, int], np.dtype[np.float32]]:
    try:
        data, _ = soundfile.read(os.fsencode(path), dtype="float32", always_2d=True)
    except (soundfile.LibsndfileError, RuntimeError) as error:
        raise BadAudio("damaged", "the audio in the file is damaged and cannot be decoded") from error
    _check_frames(info, len(data))
    return np.ascontiguousarray(data.T)


def _check_frames(info: soundfile._SoundFileInfo, frames: int) -> None:
    # MP3 headers only estimate; a lossless file must hold what its header says.
    if info.subtype not in LOSSY_SUBTYPES and frames < info.frames:
        raise BadAudio("truncated", f"the header claims {info.frames:,} samples but only {frames:,} can be read")
    if frames <= 1:
        raise BadAudio("no_samples", "the file holds no samples")


def _check_samples(samples: np.ndarray[tuple[int, int], np.dtype[np.float32]]) -> None:
    # A sum is finite only when every sample is; the slow look follows only where it is not.
    with np.errstate(over="ignore", invalid="ignore"):
        total = np.add.reduce(samples, axis=None)
    if not np.isfinite(total) and not np.isfinite(samples).all():
        bad = int(np.count_nonzero(~np.isfinite(samples)))
        raise BadAudio("not_finite", f"{bad:,} samples are not numbers (NaN or infinite): the export went wrong")
    if max(float(samples.max(initial=0.0)), -float(samples.min(initial=0.0))) > LOUDEST:
        raise BadAudio(
            "absurd", "the samples are over a hundred times full scale: the export went wrong, or the file is damaged"
        )


def _notes(path: Path, container: str, codec: str) -> tuple[Said, ...]:
    expected = BY_NAME.get(path.suffix.lower())
    found = "MP3" if codec.startswith("MPEG") else container.removesuffix("EX")
    if expected and found in ("WAV", "FLAC", "OGG", "MP3", "AIFF") and expected != found:
        words = "named {named} but its content is {content}; read by its content"
        return (said("other_content", words, named=path.suffix.lower(), content=found),)
    return ()
