"""Whatever is measured: a value or a reason for every reading, never an exception, never a number that is none."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from cata.core.clip import Clip
from cata.core.match.features import features_of
from cata.core.match.pair import match_pair
from cata.core.measure.analysis import analyse, analyse_material
from cata.core.measure.material import Material, block_powers
from cata.core.measure.registry import READINGS
from cata.core.measure.results import Results
from cata.core.peaks import chart_hz, chart_spectrum, outline
from cata.core.resample import to_rate
from cata.errors import Invalid
from cata.services.evidence import readings
from tests.conftest import declines
from tests.tones import plucks, sine, white


def numbers(analysis: Results) -> list[float]:
    return [number for value in analysis.readings.values() for number in number_parts(value)]


def number_parts(value: object) -> list[float]:
    parts = value.values() if isinstance(value, dict) else [value]
    return [float(part) for part in parts if isinstance(part, (int, float))]


def check(analysis: Results) -> None:
    assert set(analysis.readings) | set(analysis.refusals) == {reading.key for reading in READINGS}
    assert not set(analysis.readings) & set(analysis.refusals)
    assert all(math.isfinite(number) for number in numbers(analysis))
    assert all(why.code and why.words for why in analysis.refusals.values())


@given(
    st.integers(0, 2**32 - 1),
    st.sampled_from([2, 3, 100, 2432, 4799, 19_200, 24_001, 48_000, 131_073]),
    st.sampled_from([1, 2]),
    st.sampled_from([8000, 11025, 22050, 44100, 48000, 96000, 192000]),
    st.sampled_from(["noise", "click", "offset", "tone", "loud", "tiny", "half"]),
)
@settings(max_examples=60, deadline=None, suppress_health_check=[HealthCheck.too_slow])
def test_any_audio_gives_a_value_or_a_reason(seed: int, length: int, channels: int, rate_hz: int, kind: str) -> None:
    rng = np.random.default_rng(seed)
    t = np.arange(length) / rate_hz
    samples = {
        "noise": rng.standard_normal((channels, length)) * 0.1,
        "click": (np.arange(length) == length // 2) * np.ones((channels, 1)),
        "offset": np.full((channels, length), 0.5),
        "tone": np.sin(2 * np.pi * 220 * t) * np.ones((channels, 1)),
        "loud": rng.standard_normal((channels, length)) * 50,
        "tiny": rng.standard_normal((channels, length)) * 1e-7,
        "half": rng.standard_normal((channels, length)) * (np.arange(length) < length // 2),
    }[kind]
    clip = Clip.of(samples, rate_hz)
    check(analyse(clip))
    check(analyse(clip, lead_in_s=0.3, lossy=True))


@pytest.mark.parametrize("kind", ["silence", "one channel silent", "square", "dc step"])
def test_odd_recordings_are_read_or_refused(kind: str) -> None:
    tone = sine(220, -12, 3)
    samples = {
        "silence": np.zeros((2, 144_000)),
        "one channel silent": np.stack([tone, np.zeros_like(tone)]),
        "square": np.sign(tone) * 0.5,
        "dc step": np.where(np.arange(144_000) > 72_000, 0.4, -0.4),
    }[kind]
    check(analyse(Clip.of(samples, 48000)))


@given(st.floats(-40, 0), st.integers(0, 1000))
@settings(max_examples=15, deadline=None)
def test_gain_moves_the_level_and_nothing_else(gain_db: float, seed: int) -> None:
    base = plucks([0.4, 1.0, 1.6, 2.1], 130 + seed / 10, 10, 3.0, lead_noise_dbfs=-75)
    one = analyse(Clip.of(base, 48000)).readings
    other = analyse(Clip.of(base * 10 ** (gain_db / 20), 48000)).readings
    for key in ("loudness_lufs", "true_peak_dbtp", "sample_peak_dbfs"):
        assert float(other[key]) - float(one[key]) == pytest.approx(gain_db, abs=0.01)  # type: ignore[arg-type]
    for key in ("crest_db", "centroid_hz", "harshness_db", "level_spread_db", "drive_density", "tuning_cents"):
        if key in one:
            assert other[key] == pytest.approx(one[key], rel=0.002, abs=0.02)


def test_a_take_stored_as_two_equal_channels_reads_like_one() -> None:
    base = plucks([0.4, 1.0, 1.6], 196, 10, 3.0)
    one, both = analyse(Clip.of(base, 48000)).readings, analyse(Clip.of(np.stack([base, base]), 48000)).readings
    for key, value in one.items():
        # These stand in relation to loudness, in which two channels count twice.
        if key not in ("loudness_lufs", "plr_db", "third_octaves_db"):
            assert number_parts(both[key]) == pytest.approx(number_parts(value))
    spectra = [chart_spectrum(Material(Clip.of(s, 48000))) for s in (base, np.stack([base, base]))]
    assert spectra[0] == pytest.approx(spectra[1], abs=0.02)


def test_another_rate_reads_the_same() -> None:
    base = Clip.of(plucks([0.4, 1.0, 1.6], 196, 10, 3.0, lead_noise_dbfs=-70), 48000)
    one, other = analyse(base).readings, analyse(to_rate(base, 44100)).readings
    for key, tolerance in {"loudness_lufs": 0.05, "centroid_hz": 3.0, "harshness_db": 0.1, "tuning_cents": 0.5}.items():
        assert other[key] == pytest.approx(one[key], abs=tolerance)


def test_a_clip_refuses_what_is_no_audio() -> None:
    with declines(Invalid, "bad_samples"):
        Clip(np.zeros(5, np.float32), 48000)
    with declines(Invalid, "bad_samples"):
        Clip(np.zeros((1, 5)), 48000)  # type: ignore[arg-type]
    with declines(Invalid, "bad_samples"):
        Clip.of([0.0], 0)
    clip = Clip.of([[1.0, 2.0, 3.0]], 10)
    assert clip.duration_s == pytest.approx(0.3)
    assert clip.cut(-5, 2).length == 2
    assert to_rate(clip, 10) is clip


def test_what_several_readings_share_is_computed_once() -> None:
    calls = []

    def costly(material: Material) -> int:
        calls.append(material)
        return 7

    material = Material(Clip.of(white(-20, 1), 48000))
    assert [material.shared(costly) for _ in range(3)] == [7, 7, 7]
    assert len(calls) == 1
    assert len(analyse_material(material).readings) > 5


def test_blocks_are_mean_squares_over_channels() -> None:
    planes = np.array([[1, 1, 3, 3, 9], [0, 0, 1, 1, 9]], dtype=np.float32)
    assert block_powers(planes, 2) == pytest.approx([0.5, 5.0])


def test_charts_hold_one_level_a_frequency_and_leave_out_what_is_noise() -> None:
    material = Material(Clip.of(sine(1000, -12, 3) + white(-90, 3), 48000))
    levels = chart_spectrum(material)
    assert len(levels) == len(chart_hz())
    assert chart_hz() == readings.chart_hz()
    peak = max(level for level in levels if level is not None)
    assert abs(chart_hz()[levels.index(peak)] - 1000) < 40
    assert None in levels
    assert set(chart_spectrum(Material(Clip.of(np.zeros(96000), 48000)))) == {None}
    assert outline(Clip.of(np.ones(100), 48000)) == [1.0]
    assert len(outline(material.work)) == 300


@given(st.integers(0, 100))
@settings(max_examples=8, deadline=None)
def test_matching_never_fails_on_unrelated_sound(seed: int) -> None:
    a = Material(Clip.of(white(-20, 2.0, seed), 48000))
    b = Material(Clip.of(plucks([0.3, 0.8], 150 + seed, 10, 1.5), 44100))
    match = match_pair(features_of(a), features_of(b))
    assert match.same_phrase in ("no", "unsure")
    for key in ("lag_ms", "tempo_ratio", "tuning_difference_cents"):
        assert (getattr(match, key) is None) == (key in match.refusals)
