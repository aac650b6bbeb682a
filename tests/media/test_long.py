"""Long recordings read in blocks are the same recordings; slates survive what other tools do to a file."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import soundfile

from cata.core.capture.silences import cut_by_silences
from cata.core.capture.slates import SEARCH_RATE_HZ, find_slates
from cata.core.resample import to_rate
from cata.core.signals.slate import SlateMark, slate
from cata.errors import BadAudio
from cata.media import long
from cata.media.decode import decode
from cata.media.encode import write_wav
from cata.media.long import open_long
from tests.conftest import declines
from tests.media.test_witnesses import CLEAN, DISTORTED, OVERDRIVEN, played, run
from tests.sessions import noodling, talk
from tests.tolerances import CUT_S

SOURCE = ("synth", "9", "pluck", "E2", "synth", "9", "sine", "amod", "3", "gain", "-6")


@pytest.mark.grid(3)
@pytest.mark.parametrize("channels", [1, 2])
@pytest.mark.parametrize("name", ["a.wav", "a.flac", "a.ogg", "a.mp3"])
def test_blocks_give_what_whole_decoding_gives(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, name: str, channels: int
) -> None:
    raw = tmp_path / "raw.wav"
    run("sox", "-n", "-r", "44100", "-c", str(channels), "-b", "16", raw, *SOURCE)
    path = tmp_path / name
    if name != "a.wav":
        run("ffmpeg", "-loglevel", "error", "-i", raw, path)
    else:
        raw.rename(path)
    monkeypatch.setattr(long, "BLOCK_S", 0.7)
    whole = decode(path).clip
    with open_long(path) as recording:
        low, outline = recording.low(SEARCH_RATE_HZ)
        assert recording.duration_s == pytest.approx(whole.duration_s, abs=0.06)
        cut = recording.span(2.0, 2.5)
    expected = to_rate(whole, SEARCH_RATE_HZ).samples.mean(axis=0)
    count = min(len(low), len(expected)) - 200
    assert np.max(np.abs(low[200:count] - expected[200:count])) < 0.003
    assert len(outline) == pytest.approx(whole.duration_s * 20, abs=16)
    assert max(outline) == pytest.approx(float(np.abs(whole.samples.mean(axis=0)).max()), abs=0.002)
    assert cut.length == 22_050


def test_a_stretch_is_clamped_to_the_recording(tmp_path: Path) -> None:
    soundfile.write(str(tmp_path / "a.wav"), np.full(48_000, 0.25), 48_000)
    with open_long(tmp_path / "a.wav") as recording:
        assert recording.span(-1.0, 0.5).length == 24_000
        assert recording.span(0.9, 9.0).length == 4_800
        assert recording.span(5.0, 9.0).length == 0


def test_what_is_no_long_recording_is_refused(tmp_path: Path) -> None:
    (tmp_path / "empty.wav").touch()
    (tmp_path / "words.wav").write_text("words")
    soundfile.write(str(tmp_path / "six.wav"), np.zeros((4800, 6)), 48_000)
    soundfile.write(str(tmp_path / "one.wav"), np.zeros(1), 48_000)
    soundfile.write(str(tmp_path / "nan.wav"), np.array([0.1, np.nan, 0.2] * 400), 48_000, subtype="FLOAT")
    for name, code in {
        "none.wav": "missing", "empty.wav": "empty", "words.wav": "not_audio", "six.wav": "channels",
        "one.wav": "no_samples",
    }.items():  # fmt: skip
        with pytest.raises(BadAudio) as caught, open_long(tmp_path / name):
            pass
        assert caught.value.code == code
    with open_long(tmp_path / "nan.wav") as recording, declines(BadAudio, "not_finite"):
        recording.low(SEARCH_RATE_HZ)


EFFECTS = {
    "a hall": ("reverb", "60"),
    "overdrive": ("overdrive", "25", "20"),
    "a telephone's band": ("sinc", "500-3200"),
    "a treble cut": ("treble", "-18"),
    "a phone 20 dB down": ("gain", "-20"),
    "upside down": ("vol", "-1"),
}


@pytest.mark.parametrize("effect", EFFECTS)
def test_a_slate_is_found_after_what_another_tool_does_to_it(tmp_path: Path, effect: str) -> None:
    write_wav(slate(SlateMark(42)), tmp_path / "slate.wav")
    run("sox", tmp_path / "slate.wav", tmp_path / "heard.wav", "gain", "-6", "pad", "1.5", "1.5", *EFFECTS[effect])
    with open_long(tmp_path / "heard.wav") as recording:
        (found,) = find_slates(recording.low(SEARCH_RATE_HZ)[0], recording.span)
    assert found.mark == SlateMark(42)
    assert found.start_s == pytest.approx(1.5, abs=CUT_S)


@pytest.mark.parametrize("codec", ["libmp3lame", "libvorbis"])
def test_a_slate_survives_a_lossy_phone_recording(tmp_path: Path, codec: str) -> None:
    write_wav(slate(SlateMark(7, closes=True)), tmp_path / "slate.wav")
    run("sox", tmp_path / "slate.wav", tmp_path / "padded.wav", "pad", "2", "2")
    path = tmp_path / ("a.mp3" if codec == "libmp3lame" else "a.ogg")
    run("ffmpeg", "-loglevel", "error", "-i", tmp_path / "padded.wav", "-c:a", codec, "-b:a", "64k", path)
    with open_long(path) as recording:
        (found,) = find_slates(recording.low(SEARCH_RATE_HZ)[0], recording.span)
    assert found.mark == SlateMark(7, closes=True)
    # An MP3 begins with up to 50 ms of its encoder's own delay.
    assert found.start_s == pytest.approx(2.0, abs=0.06 if codec == "libmp3lame" else CUT_S)


@pytest.mark.certify
def test_takes_of_a_sampled_guitar_are_cut_out_of_talk_and_noodling(tmp_path: Path) -> None:
    """Three contenders, two tests, played by a SoundFont player; the talk between them is ours."""
    rate = 44_100
    rng = np.random.default_rng(6)
    parts, truth, at = [rng.normal(0, 3e-4, rate)], [], 1.0
    for transpose in (0, 12):
        for program in (CLEAN, OVERDRIVEN, DISTORTED):
            name = tmp_path / f"{program}-{transpose}.wav"
            take, _ = soundfile.read(str(played(name, program, transpose)), dtype="float32", always_2d=True)
            take = take.mean(axis=1)
            sounding = np.flatnonzero(np.abs(take) > 0.003)
            take = take[sounding[0] : sounding[-1]]
            extra = talk(rng, rate) if rng.random() < 0.5 else noodling(rng, rate)
            for part in (extra * 0.5, take):
                if part is take:
                    truth.append(at)
                parts += [part, rng.normal(0, 3e-4, 2 * rate)]
                at += len(part) / rate + 2.0
    soundfile.write(str(tmp_path / "day.wav"), np.concatenate(parts), rate, subtype="PCM_24")
    with open_long(tmp_path / "day.wav") as recording:
        pieces = cut_by_silences(recording.low(SEARCH_RATE_HZ)[0], SEARCH_RATE_HZ, 6)
    assert [piece.start_s for piece in pieces] == [pytest.approx(start, abs=0.15) for start in truth]
