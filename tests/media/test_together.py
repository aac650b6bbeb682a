"""Blending, one tone and the mix at the command line: a sampled guitar, changed by other tools in known ways."""

from __future__ import annotations

import json
import random
from pathlib import Path
from subprocess import run
from typing import Any

import numpy as np
import pytest
import soundfile
from typer.testing import CliRunner

from cata.cli import app
from cata.core.together.bands import centres, edges, in_db, power_of
from cata.media.decode import decode
from tests.corpus.parts import RATE_HZ
from tests.corpus.playing import play


@pytest.fixture(scope="module")
def guitar(tmp_path_factory: pytest.TempPathFactory) -> Path:
    path = tmp_path_factory.mktemp("together") / "guitar.wav"
    soundfile.write(path, 0.5 * play("soft to hard", random.Random(3)), RATE_HZ, subtype="PCM_24")
    return path


def made(source: Path, name: str, *effects: str) -> Path:
    path = source.parent / f"{name}.wav"
    run(["sox", str(source), "-b", "24", str(path), *effects], check=True, capture_output=True)
    return path


def asked(*words: str | Path) -> dict[str, Any]:
    found = CliRunner().invoke(app, [*map(str, words), "--json"])
    assert found.exit_code == 0, found.output
    return dict(json.loads(found.output))


def test_two_microphones_made_by_another_tool_are_blended(guitar: Path) -> None:
    second = made(guitar, "second", "gain", "-7", "pad", "0.005", "vol", "-1")
    target = guitar.parent / "target.wav"
    command = ["sox", "-m", "-v", "0.5", guitar, "-v", "-0.4", second, "-b", "24", target]
    run([str(one) for one in command], check=True, capture_output=True)
    found = asked("blend", guitar, second, "--target", target)
    assert found["lag_ms"] == pytest.approx(5.0, abs=0.021)
    assert (found["polarity"], found["best_polarity"]) == ("inverted", "inverted")
    assert found["first_notch_hz"] == pytest.approx(200.0, rel=0.01)
    assert found["best_gain_db"] == pytest.approx(-1.94, abs=0.5)
    assert found["residual_rms_db"] < 0.3
    assert 2 < found["notch_depth_db"] < 12


def test_a_blend_comes_nearest_to_a_curve_from_a_table(guitar: Path) -> None:
    second = made(guitar, "bright", "gain", "-12", "treble", "+9", "3000")
    target = guitar.parent / "sum.wav"
    command = ["sox", "-m", "-v", "0.5", guitar, "-v", "0.4", second, "-b", "24", target]
    run([str(one) for one in command], check=True, capture_output=True)
    sound = decode(target).clip.samples.mean(axis=0).astype(np.float64)
    of = edges(6)
    levels = in_db(power_of(sound, of))
    table = guitar.parent / "curve.csv"
    table.write_text("hz;dB\n" + "".join(f"{hz:.1f};{db:.2f}\n" for hz, db in zip(centres(of), levels, strict=True)))
    found = asked("blend", guitar, second, "--target", table)
    assert found["best_gain_db"] == pytest.approx(-1.94, abs=0.5)
    assert found["residual_rms_db"] < 0.3
    for text in ("hz,dB\n100,0\n", "100,0\nloud,1\n200,3\n", "-5,0\n100,1\n200,2\n300,3\n"):
        table.write_text(text)
        refused = CliRunner().invoke(app, ["blend", str(guitar), str(second), "--target", str(table)])
        assert refused.exit_code != 0
        assert "curve" in refused.output


@pytest.mark.certify
def test_a_tone_knob_of_another_tool_is_explained_and_its_overdrive_is_not(guitar: Path) -> None:
    toned = made(guitar, "toned", "gain", "-12", "equalizer", "350", "1q", "-6", "treble", "+6", "2500")
    driven = made(guitar, "driven", "overdrive", "30", "10", "gain", "-6")
    tone, drive = asked("remains", guitar, toned), asked("remains", driven, guitar)
    assert tone["explained_percent"] > 95
    assert drive["explained_percent"] < 60
    assert drive["remains_db"] > 3 * tone["remains_db"]
    assert {"hz", "db"} == set(tone["moves"][0])
    assert any(move["db"] < -2 and 250 <= move["hz"] <= 500 for move in tone["moves"])
    assert any(move["db"] > 2 and move["hz"] >= 2500 for move in tone["moves"])


@pytest.mark.certify
def test_a_band_raised_by_another_tool_covers_a_take_more_and_more(guitar: Path) -> None:
    plain = made(guitar, "bed", "synth", "pinknoise", "gain", "-30")
    shares = []
    for raised in (0, 8, 16, 24):
        bed = made(plain, f"bed{raised}", "equalizer", "800", "1q", str(raised))
        shares.append(asked("cut-through", guitar, bed)["cut_through"])
    assert shares == sorted(shares, reverse=True)
    assert shares[0] - shares[-1] > 0.1
    louder = asked("cut-through", guitar, plain, "--relation", "12")
    assert louder["cut_through"] > asked("cut-through", guitar, plain, "--relation", "-12")["cut_through"]
    assert set(louder["masked"]) <= {str(hz) for hz in (63, 125, 200, 315, 400, 500, 630, 800, 1000, 1250, 1600, 2000,
                                                         2500, 3150, 4000, 5000, 6300, 8000, 10000, 12500)}  # fmt: skip


@pytest.mark.certify
def test_what_cannot_be_blended_is_refused(guitar: Path) -> None:
    other = guitar.parent / "other.wav"
    soundfile.write(other, 0.5 * play("arpeggio", random.Random(4)), RATE_HZ, subtype="PCM_24")
    found = CliRunner().invoke(app, ["blend", str(guitar), str(other), "--json"])
    assert found.exit_code == 2
    silent = made(guitar, "silent", "vol", "0")
    assert CliRunner().invoke(app, ["cut-through", str(silent), str(guitar)]).exit_code == 2
