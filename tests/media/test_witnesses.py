"""Readings against independent tools, on files those tools made."""

from __future__ import annotations

import re
import subprocess
from pathlib import Path

import pytest

from cata.core.evidence.played import order_of_gain
from cata.core.match.features import features_of
from cata.core.match.finding import Finding
from cata.core.match.pair import match_pair
from cata.core.measure.analysis import analyse
from cata.core.measure.material import Material
from cata.core.measure.results import Results
from cata.media.decode import decode
from tests.tolerances import CREST_DB, LOUDNESS_LU

MUTED = 28
SOUNDFONT = "/usr/share/sounds/sf2/TimGM6mb.sf2"
CLEAN, OVERDRIVEN, DISTORTED = 27, 29, 30


def run(*command: str | Path) -> str:
    done = subprocess.run([str(c) for c in command], capture_output=True, text=True, check=True)
    return done.stdout + done.stderr


def sox_file(path: Path, *effects: str, rate: int = 48000, channels: int = 2) -> Path:
    # -R: the same noise each time.
    run("sox", "-R", "-n", "-r", str(rate), "-c", str(channels), "-b", "24", path, *effects)
    return path


def analysed(path: Path) -> Results:
    return analyse(decode(path).clip)


FILES = {
    "plucks": ("synth", "8", "pluck", "E2", "pluck", "B2", "gain", "-6"),
    "pink": ("synth", "10", "pinknoise", "gain", "-12"),
    "sweep": ("synth", "8", "sine", "100-10000", "fade", "0.5", "8", "0.5", "gain", "-9"),
    "square": ("synth", "6", "square", "220", "gain", "-10"),
}


@pytest.mark.grid(3)
@pytest.mark.parametrize("name", FILES)
@pytest.mark.parametrize("rate", [44100, 48000])
def test_loudness_and_true_peak_agree_with_ffmpeg(tmp_path: Path, name: str, rate: int) -> None:
    path = sox_file(tmp_path / "a.wav", *FILES[name], rate=rate)
    report = run("ffmpeg", "-nostats", "-i", path, "-af", "ebur128=peak=true", "-f", "null", "-")
    loudness = float(re.findall(r"I:\s+(-?[\d.]+) LUFS", report)[-1])
    peak = float(re.findall(r"Peak:\s+(-?[\d.]+) dBFS", report)[-1])
    readings = analysed(path).readings
    # ffmpeg prints one decimal.
    assert readings["loudness_lufs"] == pytest.approx(loudness, abs=LOUDNESS_LU + 0.05)
    # It oversamples 4 times after resampling to 192 kHz; at a cut-off end it reads the padding.
    assert readings["true_peak_dbtp"] == pytest.approx(peak, abs=0.35)


@pytest.mark.parametrize("name", FILES)
def test_peak_and_crest_agree_with_sox(tmp_path: Path, name: str) -> None:
    path = sox_file(tmp_path / "a.wav", *FILES[name], channels=1)
    report = run("sox", path, "-n", "stats")
    peak = float(re.search(r"Pk lev dB\s+(-?[\d.]+)", report)[1])  # type: ignore[index]
    rms = float(re.search(r"RMS lev dB\s+(-?[\d.]+)", report)[1])  # type: ignore[index]
    readings = analysed(path).readings
    assert readings["sample_peak_dbfs"] == pytest.approx(peak, abs=0.01)
    assert readings["crest_db"] == pytest.approx(peak - rms, abs=CREST_DB + 0.01)


def played(path: Path, program: int, transpose: int = 0) -> Path:
    """Power chords and single notes of a sampled guitar, played by a SoundFont player."""
    midi = path.with_suffix(".mid")
    midi.write_bytes(_midi(program, transpose))
    run("fluidsynth", "-ni", "-q", "-g", "0.5", "-r", "44100", "-F", path, SOUNDFONT, midi)
    return path


def _midi(program: int, transpose: int) -> bytes:
    """One track: fifths and a line, 96 ticks a beat, 120 beats a minute."""
    events = bytearray([0, 0xC0, program])
    for chord in ((40, 47), (43, 50), (45, 52), (40, 47)):
        for note in chord:
            events += bytes([0, 0x90, note + transpose, 100])
        for i, note in enumerate(chord):
            # 180 ticks need two bytes.
            events += bytes([0x81, 0x34] if i == 0 else [0]) + bytes([0x80, note + transpose, 0])
    for note in (52, 55, 57, 59, 57, 55):
        events += bytes([0, 0x90, note + transpose, 100, 48, 0x80, note + transpose, 0])
    events += bytes([0x60, 0xFF, 0x2F, 0])
    head = b"MThd" + (6).to_bytes(4, "big") + bytes([0, 0, 0, 1, 0, 96])
    return head + b"MTrk" + len(events).to_bytes(4, "big") + bytes(events)


@pytest.mark.certify
@pytest.mark.parametrize("program", [OVERDRIVEN, DISTORTED])
def test_driven_sampled_guitars_are_denser_than_the_clean_one(tmp_path: Path, program: int) -> None:
    clean = analysed(played(tmp_path / "clean.wav", CLEAN)).readings["drive_density"]
    driven = analysed(played(tmp_path / "driven.wav", program)).readings["drive_density"]
    assert float(driven) > float(clean) + 0.03  # type: ignore[arg-type]


@pytest.mark.certify
@pytest.mark.parametrize("transpose", [-2, 0, 3])
def test_gain_character_is_ordered_from_playing_alone(tmp_path: Path, transpose: int) -> None:
    programs = {"clean": CLEAN, "muted": MUTED, "overdriven": OVERDRIVEN, "distorted": DISTORTED}
    takes = {name: analysed(played(tmp_path / f"{name}.wav", p, transpose)).readings for name, p in programs.items()}
    order = order_of_gain(takes)
    assert set(order[:2]) == {"clean", "muted"}
    assert order[2:] == ["overdriven", "distorted"]
    assert order_of_gain({"still": {}}) == []


@pytest.mark.certify
def test_sampled_takes_are_matched_and_their_tuning_told(tmp_path: Path) -> None:
    clean, driven, lower = (
        features_of(Material(decode(played(tmp_path / f"{name}.wav", program, **more)).clip))
        for name, program, more in (
            ("a.wav", CLEAN, {}),
            ("b.wav", OVERDRIVEN, {}),
            ("c.wav", CLEAN, {"transpose": -1}),
        )
    )
    assert match_pair(clean, driven).same_phrase in ("yes", "unsure")
    assert match_pair(clean, driven).tempo_ratio == pytest.approx(1.0, abs=0.005)
    assert match_pair(clean, lower).tuning_difference_cents == pytest.approx(-100, abs=3)


def test_what_an_mp3_was_before_is_seen_in_a_wav(tmp_path: Path) -> None:
    from cata.core.match.evidence import Source, TakeEvidence
    from cata.core.match.rules.take import source

    original = sox_file(tmp_path / "a.wav", *FILES["pink"])
    run("ffmpeg", "-loglevel", "error", "-i", original, "-b:a", "96k", tmp_path / "a.mp3")
    run("ffmpeg", "-loglevel", "error", "-i", tmp_path / "a.mp3", tmp_path / "again.wav")

    def finding(path: Path) -> Finding | None:
        recording = decode(path)
        material = Material(recording.clip)
        origin = Source(recording.codec, recording.lossy, recording.clip.rate_hz, recording.clip.channels)
        return source(TakeEvidence(0, "take", features_of(material), Results(), origin))

    assert finding(original) is None
    assert [one.picture is not None for name in ("a.mp3", "again.wav") if (one := finding(tmp_path / name))] == [
        False,
        True,
    ]
