"""Level against mathematics."""

from __future__ import annotations

import numpy as np
import pyloudnorm
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from cata.core.clip import Clip
from cata.core.measure.level import _block_peak, gated_loudness, k_cells, true_peak
from tests.tolerances import CREST_DB, LOUDNESS_LU, PEAK_DB
from tests.tones import code_of, pink, reading, sine, value, white


def test_a_997_hz_sine_at_full_scale_reads_minus_3_01_lufs_in_one_channel() -> None:
    assert value("loudness_lufs", sine(997, 0.0, 5)) == pytest.approx(-3.01, abs=LOUDNESS_LU)


def test_two_equal_channels_read_3_01_lu_more_than_one() -> None:
    one = sine(997, -20, 5)
    assert value("loudness_lufs", np.stack([one, one])) - value("loudness_lufs", one) == pytest.approx(3.01, abs=0.001)


def test_a_mono_take_counts_as_two_channels_only_when_asked() -> None:
    one = sine(997, -20, 5)
    assert value("loudness_lufs", one, dual_mono=True) - value("loudness_lufs", one) == pytest.approx(3.01, abs=0.001)


@pytest.mark.parametrize("rate_hz", [8000, 22050, 44100, 48000, 88200, 96000, 192000])
def test_loudness_does_not_depend_on_the_sampling_rate(rate_hz: int) -> None:
    assert value("loudness_lufs", sine(997, -23, 5, rate_hz), rate_hz) == pytest.approx(-26.01, abs=LOUDNESS_LU)


@pytest.mark.parametrize("hz", [60, 300, 1700, 3000, 11500, 12050, 15000])
def test_the_fast_way_at_48_khz_equals_the_filter_in_time(hz: int) -> None:
    samples = sine(hz, -12, 8)
    assert value("loudness_lufs", samples) == pytest.approx(gated_loudness(k_cells(Clip.of(samples, 48000))), abs=0.002)


@pytest.mark.parametrize("duration_s", [0.5, 1.0, 2.9, 7.0])
def test_the_fast_way_agrees_at_awkward_lengths(duration_s: float) -> None:
    samples = white(-20, duration_s)
    assert value("loudness_lufs", samples) == pytest.approx(gated_loudness(k_cells(Clip.of(samples, 48000))), abs=0.01)


def test_the_gates_leave_out_the_pauses() -> None:
    playing = white(-20, 10)
    with_pause = np.concatenate([playing, np.zeros(480_000) + white(-95, 10, seed=3)])
    assert value("loudness_lufs", with_pause) == pytest.approx(value("loudness_lufs", playing), abs=0.1)


def test_loudness_agrees_with_an_independent_meter_on_noise() -> None:
    samples = np.stack([pink(-20, 20, seed=1), pink(-26, 20, seed=2)])
    meter = pyloudnorm.Meter(48000, filter_class="DeMan")
    assert value("loudness_lufs", samples) == pytest.approx(meter.integrated_loudness(samples.T), abs=LOUDNESS_LU)


def test_less_than_a_block_has_no_loudness() -> None:
    assert code_of(reading("loudness_lufs", sine(997, -20, 0.39))) == "too_short"


def test_silence_has_no_loudness_and_no_peak() -> None:
    silent = np.zeros(96_000)
    assert {code_of(reading(key, silent)) for key in ("loudness_lufs", "true_peak_dbtp")} == {"silent"}


def test_the_true_peak_of_a_quarter_rate_sine_lies_between_its_samples() -> None:
    samples = np.sin(2 * np.pi * 12000 * np.arange(48000) / 48000 + np.pi / 4) * 0.5
    assert value("sample_peak_dbfs", samples) == pytest.approx(-9.03, abs=0.01)
    assert value("true_peak_dbtp", samples) == pytest.approx(-6.02, abs=PEAK_DB)


def test_a_note_that_is_cut_off_gains_no_peak() -> None:
    samples = sine(100, -6, 0.5)[: 48000 // 400]
    assert value("true_peak_dbtp", samples) == pytest.approx(-6.0, abs=PEAK_DB)


@given(st.integers(0, 2**32 - 1), st.sampled_from([1, 2, 47, 48, 49, 511, 512, 513, 1025, 4096]))
@settings(max_examples=40, deadline=None)
def test_leaving_out_blocks_never_changes_the_true_peak(seed: int, length: int) -> None:
    samples = np.random.default_rng(seed).standard_normal((2, length)).astype(np.float32) * 0.3
    whole = max(_block_peak(plane, block, 0.0) for plane in samples for block in range(-(-length // 512)))
    assert true_peak(Clip(samples, 48000)) == pytest.approx(max(whole, float(np.abs(samples).max())), rel=1e-6)


def test_a_sine_has_a_crest_of_3_01_db() -> None:
    assert value("crest_db", sine(1000, -10, 2)) == pytest.approx(3.01, abs=CREST_DB)


def test_inverted_channels_do_not_vanish() -> None:
    one = sine(500, -10, 3)
    both = np.stack([one, -one])
    assert value("loudness_lufs", both) == pytest.approx(value("loudness_lufs", np.stack([one, one])), abs=1e-6)
    assert value("centroid_hz", both) == pytest.approx(500, rel=0.001)
