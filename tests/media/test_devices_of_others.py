"""Devices that other tools simulate: their arithmetic is known, and none of it is ours."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from cata.core.measure.results import Result, Results, from_kept
from cata.core.signals.testfile.layout import PartName
from cata.core.signals.testfile.waves import sent_file
from cata.media.encode import write_wav
from cata.said import said
from cata.tasks.devices import device_file
from tests.media.test_witnesses import run

THRESHOLD = 0.3


def through(tmp_path: Path, part: PartName, *command: str) -> Results:
    """Results of a part of the test file that a command turned from {sent} into {back}."""
    sent, back = tmp_path / "sent.wav", tmp_path / "back.wav"
    write_wav(sent_file(part), sent)
    run(*(word.format(sent=sent, back=back) for word in command))
    found = device_file(sent, back)
    refused = {"gain_db": Result(refusal=said(found["code"], "the whole file"))} if found["refused"] else {}
    return from_kept(found["results"]) or Results(refused)


def soft_clip(kind: str) -> tuple[str, ...]:
    return ("ffmpeg", "-loglevel", "error", "-i", "{sent}", "-af", f"asoftclip=type={kind}:threshold={THRESHOLD}",
            "-c:a", "pcm_s24le", "{back}")  # fmt: skip


def level_of(share: float) -> float:
    """The level in dBFS at which a tone through a tanh of that threshold distorts by a share."""
    phase = np.sin(2 * np.pi * np.arange(4096) / 4096)
    levels = np.arange(-30.0, 0.0, 0.05)
    found = []
    for level in levels:
        lines = np.abs(np.fft.rfft(np.tanh(10 ** (level / 20) * phase / THRESHOLD)))
        found.append(np.sqrt(np.sum(lines[2:] ** 2)) / lines[1])
    return float(np.interp(share, found, levels))


@pytest.mark.certify
def test_a_soft_clipper_breaks_up_where_its_formula_says(tmp_path: Path) -> None:
    found = through(tmp_path, "tones", *soft_clip("tanh"))
    assert found.number("gain_db") == pytest.approx(0.0, abs=0.1)
    for percent, level in found.parts("breakup_dbfs").items():
        assert level == pytest.approx(level_of(int(percent) / 100), abs=0.1)


def test_a_compressor_squeezes_as_its_points_say(tmp_path: Path) -> None:
    points = "6:-40,-40,-20,-30,0,-20"
    result = through(tmp_path, "tones", "sox", "{sent}", "-b", "24", "{back}", "compand", "0.005,0.2", points, "0")
    found = result.parts("compressor")
    assert found["ratio"] == pytest.approx(2.0, rel=0.03)
    assert found["threshold_dbfs"] == pytest.approx(-40.0, abs=1.0)


@pytest.mark.parametrize(
    ("effect", "codes"),
    [
        ("tremolo 5 60", {"level_wavers"}),
        ("phaser 0.8 0.74 3 0.4 0.5 -t", {"level_wavers", "pitch_wavers"}),
        ("reverb 50", {"sounds_on"}),
    ],
)
def test_what_moves_or_rings_is_refused(tmp_path: Path, effect: str, codes: set[str]) -> None:
    command = ("sox", "{sent}", "-b", "24", "{back}", "gain", "-6", *effect.split())
    found = through(tmp_path, "tones", *command)
    assert found.code("gain_db") in codes
    assert not found.readings
