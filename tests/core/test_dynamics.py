"""Noise, spread, sustain, tightness, tuning and drive against constructed notes."""

from __future__ import annotations

import random

import numpy as np
import numpy.typing as npt
import pytest

from cata.core.bench.chain import ChainSettings, record
from cata.core.clip import Clip
from cata.core.measure.drive import chord_dirt_db, drive_density
from cata.core.measure.material import Material
from cata.core.measure.onsets import onsets_of
from tests.corpus.moving import STILL
from tests.corpus.phrases import PHRASES
from tests.corpus.strings import strum
from tests.tolerances import CENTS, NOISE_DB, SPREAD_DB, SUSTAIN_SHARE, T20_S, TIGHT_MS
from tests.tones import code_of, plucks, reading, seconds, sine, value, white


def test_a_declared_lead_in_gives_the_noise_itself() -> None:
    samples = white(-70, 6, seed=2) + np.where(seconds(6) > 1.0, sine(220, -12, 6), 0.0)
    outcome = reading("noise_floor_dbfs", samples, lead_in_s=0.9)
    assert outcome.value == pytest.approx(-70, abs=NOISE_DB)
    assert outcome.flag is None


def test_without_a_declaration_the_noise_is_a_bound() -> None:
    samples = white(-70, 6, seed=2) + np.where(seconds(6) > 2.0, sine(220, -12, 6), 0.0) + 0.01
    outcome = reading("noise_floor_dbfs", samples)
    assert outcome.value == pytest.approx(-70, abs=NOISE_DB)
    assert outcome.bound == "at_most"


def test_playing_without_a_pause_has_no_noise_floor() -> None:
    assert code_of(reading("noise_floor_dbfs", sine(220, -12, 5) + white(-60, 5))) == "no_pause"


def test_gated_pauses_have_no_noise_floor() -> None:
    gated = np.where(seconds(5) > 2.0, sine(220, -12, 5), 0.0)
    assert code_of(reading("noise_floor_dbfs", gated)) == "digital_silence"


def test_the_spread_of_two_levels_is_their_distance() -> None:
    samples = np.where(seconds(8) < 4.0, sine(440, -10, 8), sine(440, -22, 8))
    assert value("level_spread_db", samples) == pytest.approx(12.0, abs=SPREAD_DB)


@pytest.mark.parametrize("db_per_s", [4.0, 12.0, 30.0])
def test_the_slope_of_an_exponential_note_is_found(db_per_s: float) -> None:
    found = reading("sustain", plucks([0.5], 220, db_per_s, 7.0), lead_in_s=0.4).value
    assert isinstance(found, dict)
    assert found["status"] == "ok"
    assert found["db_per_s"] == pytest.approx(db_per_s, rel=SUSTAIN_SHARE)
    if db_per_s > 5:
        assert found["t20_s"] == pytest.approx(20 / db_per_s, abs=T20_S + 0.02 * 20 / db_per_s)


def test_a_note_that_hardly_falls_is_longer_than_the_clip() -> None:
    found = reading("sustain", plucks([0.2], 220, 0.5, 3.0)).value
    assert isinstance(found, dict)
    assert found["status"] == "longer than the clip"
    assert found["db_per_s"] is None


def test_a_short_note_has_no_sustain() -> None:
    assert code_of(reading("sustain", plucks([0.1], 220, 10, 0.4))) == "nothing_held"


@pytest.mark.parametrize("decay_s", [0.03, 0.06])
def test_the_tightness_of_an_exponential_thump_is_known(decay_s: float) -> None:
    t = seconds(4.0)
    samples = white(-95, 4.0)
    for start in (0.5, 1.2, 1.9, 2.6, 3.3):
        since = t - start
        samples = samples + np.where(since >= 0, np.sin(2 * np.pi * 100 * since) * np.exp(-since / decay_s), 0) * 0.4
    # Energy exp(-2t/decay) reaches 1 % and 93.7 % at -decay/2 ln(1 - share).
    expected = -decay_s / 2 * (np.log(1 - 0.937) - np.log(1 - 0.01)) * 1000
    assert value("low_tightness_ms", samples) == pytest.approx(expected, abs=2 * TIGHT_MS)


def test_lead_notes_have_no_low_tightness() -> None:
    assert code_of(reading("low_tightness_ms", plucks([0.5, 1.0, 1.5], 440, 20, 2.5))) == "no_low_notes"


@pytest.mark.parametrize("cents", [-31.0, -5.0, 0.0, 12.0, 47.0])
def test_tuning_is_found_from_chords(cents: float) -> None:
    shift = 2 ** (cents / 1200)
    samples = sum(sine(hz * shift, -20, 6) for hz in (82.41, 123.47, 164.81, 207.65, 246.94, 329.63))
    assert value("tuning_cents", np.asarray(samples)) == pytest.approx(cents, abs=CENTS)


def test_noise_has_no_tuning() -> None:
    assert code_of(reading("tuning_cents", white(-20, 5))) == "steady_noise"


def test_onsets_are_found_where_they_are() -> None:
    times = [0.5, 1.1, 1.6, 2.4, 3.0]
    found = onsets_of(Material(Clip.of(plucks(times, 196, 25, 4.0), 48000)))
    assert len(found) == len(times)
    assert np.abs(found - times).max() < 0.015


def test_string_balance_is_relative_to_the_mean() -> None:
    t = seconds(7.5)
    samples = white(-95, 7.5)
    levels = [0.0, -2.0, 1.0, 3.0, -1.0, -1.0]
    for i, (hz, db) in enumerate(zip((82.4, 110, 146.8, 196, 246.9, 329.6), levels, strict=True)):
        since = t - (0.3 + 1.15 * i)
        inside = (since >= 0) & (since < 1.15)
        samples = samples + np.where(
            inside, 0.1 * 10 ** (db / 20) * np.exp(-6 * since) * np.sin(2 * np.pi * hz * since), 0.0
        )
    found = reading("string_balance_db", samples).value
    assert isinstance(found, dict)
    # The K weighting takes a little off the lowest string.
    assert float(found["4"]) - float(found["3"]) == pytest.approx(2.0, abs=0.3)  # type: ignore[arg-type]
    assert sum(float(v) for v in found.values()) == pytest.approx(0.0, abs=1e-6)  # type: ignore[arg-type]
    assert code_of(reading("string_balance_db", plucks([0.5, 1.5], 110, 5, 3))) == "not_six_strings"


def test_more_drive_fills_the_spectrum() -> None:
    densities = []
    for drive in (0.0, 0.3, 0.6, 0.9):
        settings = ChainSettings(phrase="muted-riff", pedal="hard-clip", pedal_settings={"distortion": drive})
        outcome = drive_density(Material(record(settings)))
        assert isinstance(outcome.value, float)
        densities.append(outcome.value)
    assert densities == sorted(densities)
    assert densities[-1] - densities[0] > 0.06


def test_density_is_refused_for_high_single_notes() -> None:
    assert code_of(reading("drive_density", plucks([0.5, 1.5], 700, 5, 3))) == "high_notes"


def _fifth(a: float, b: float) -> np.ndarray:
    """A fifth through a gentle quadratic: products of known size between its partials."""
    t = seconds(3.0)
    clean = 0.3 * (np.sin(2 * np.pi * 110 * t) + np.sin(2 * np.pi * 165 * t))
    driven = a * clean + b * clean**2
    return np.where(t > 0.3, driven, 0.0) + white(-95, 3.0)


def test_the_dirt_of_a_fifth_is_what_only_both_notes_can_make() -> None:
    outcome = chord_dirt_db(Material(Clip.of(_fifth(1.0, 0.2), 48000)))
    # Lines at k u (u = 55 Hz): the quadratic's difference tone and sum tone fall on k = 1 and 5.
    amplitude = 0.3
    own = 2 * (amplitude**2 / 2) + 2 * (0.2 * amplitude**2 / 2) ** 2 / 2
    between = 2 * (0.2 * amplitude**2) ** 2 / 2
    assert outcome.value == pytest.approx(10 * np.log10(between / own), abs=3.0)


def test_a_single_note_is_no_fifth() -> None:
    assert chord_dirt_db(Material(Clip.of(plucks([0.3], 110, 5, 3), 48000))).value is None


# --- what is played, not what lies between


def phrase(kind: str, seed: int, device: str = "nothing", hiss_db: float = -90.0) -> npt.NDArray[np.float64]:
    """A generated phrase on strings through a device, with hiss at a level."""
    dry = strum(PHRASES[kind](random.Random(5)), random.Random(seed))
    wet = STILL[device](dry / np.abs(dry).max() * 0.6)
    wet = wet / np.abs(wet).max() * 0.5
    return np.asarray(wet + np.random.default_rng(seed).normal(0, 10 ** (hiss_db / 20), len(wet)))


@pytest.mark.parametrize("kind", ["offbeats", "lead", "repeating chords", "chugs"])
@pytest.mark.parametrize("device", ["nothing", "compressor"])
def test_hiss_changes_no_level_spread(kind: str, device: str) -> None:
    still, hissing = (reading("level_spread_db", phrase(kind, 3, device, hiss)) for hiss in (-90.0, -58.0))
    assert isinstance(still.value, float)
    assert still.band is not None
    assert hissing.value is None or hissing.value == pytest.approx(still.value, abs=max(1.0, still.band))


def test_where_soft_strokes_lie_in_the_noise_nothing_is_said_of_the_spread() -> None:
    assert code_of(reading("level_spread_db", phrase("repeating chords", 3, hiss_db=-38.0))) == "soft_hidden"


def test_the_band_of_a_spread_is_about_what_playing_it_again_does() -> None:
    found = [reading("level_spread_db", phrase("one chord", seed)) for seed in range(6)]
    values = [one.value for one in found if isinstance(one.value, float)]
    bands = [one.band for one in found if one.band is not None]
    assert float(np.std(values, ddof=1)) < float(np.median(bands)) * 1.5
    assert float(np.median(bands)) < 3.0


def test_muted_strokes_of_two_kinds_have_no_tightness_between_them() -> None:
    samples, t = white(-95, 8.0), seconds(8.0)
    for at in range(10):
        decay = 0.03 if at % 2 else 0.09
        since = t - 0.4 - 0.7 * at
        samples = samples + np.where(since >= 0, np.sin(2 * np.pi * 100 * since) * np.exp(-since / decay), 0) * 0.4
    assert code_of(reading("low_tightness_ms", samples)) == "two_kinds"


def test_a_note_that_a_hand_stops_shows_how_fast_it_fell_before() -> None:
    note = plucks([0.5], 220, 8.0, 4.0)
    stopped = note * np.exp(-np.maximum(seconds(4.0) - 2.2, 0.0) / 0.012)
    for samples in (note, stopped):
        found = reading("sustain", samples).value
        assert isinstance(found, dict)
        assert found["db_per_s"] == pytest.approx(8.0, rel=0.1)
    assert isinstance(found, dict)
    assert found["t20_s"] is None


def test_a_lead_line_without_lows_tells_nothing_of_lows_or_tilt_by_what_is_not_there() -> None:
    line = phrase("lead", 4)
    thump = np.resize(np.sin(2 * np.pi * 90 * seconds(1.0)) * 0.0006, len(line))
    plain, louder = (reading("regions_db", samples).value for samples in (line, line + thump))
    assert isinstance(plain, dict)
    assert isinstance(louder, dict)
    assert plain["lows"] == louder["lows"] == -30.0
    tilts = [value("tilt_db_per_oct", samples) for samples in (line, line + thump)]
    assert tilts[0] == pytest.approx(tilts[1], abs=0.3)
