"""Tone against mathematics: spectra whose bands are known."""

from __future__ import annotations

import numpy as np
import pytest

from cata.core.clip import Clip
from cata.core.measure.material import Material
from cata.core.measure.regions import THIRD_OCTAVES_HZ, band_edges
from cata.core.measure.segments import spectrum_of
from tests.tolerances import BAND_DB, CENTROID_SHARE, TILT_DB
from tests.tones import code_of, pink, reading, sine, value, white


def _bands(samples: np.ndarray, **options: object) -> dict[str, float]:
    found = reading("third_octaves_db", samples, **options).value
    assert isinstance(found, dict)
    return {key: float(level) for key, level in found.items() if level is not None}


def test_pink_noise_does_not_lean_and_white_leans_by_3_01() -> None:
    assert value("tilt_db_per_oct", pink(-20, 60)) == pytest.approx(0.0, abs=TILT_DB)
    assert value("tilt_db_per_oct", white(-20, 60)) == pytest.approx(3.01, abs=TILT_DB)


def test_all_bands_of_a_flat_density_hold_their_width() -> None:
    """A sum of equal sines every hertz is white without chance."""
    t = np.arange(10 * 48000) / 48000
    spectrum = np.zeros(len(t) // 2 + 1, dtype=complex)
    spectrum[::10] = np.exp(2j * np.pi * np.random.default_rng(3).random(len(spectrum[::10])))
    samples = np.fft.irfft(spectrum)
    bands = _bands(samples / np.abs(samples).max() * 0.5)
    width = {hz: band_edges(hz)[1] - band_edges(hz)[0] for hz in THIRD_OCTAVES_HZ}
    for hz in THIRD_OCTAVES_HZ[3:]:
        assert bands[str(hz)] - bands["1000"] == pytest.approx(10 * np.log10(width[hz] / width[1000]), abs=4 * BAND_DB)


def test_the_band_of_a_sine_holds_all_of_it_at_minus_23_lufs() -> None:
    bands = _bands(sine(1000, -6, 5))
    # A 1 kHz sine reads its RMS level less 0.69 plus the weighting, which is 0.69 dB at 997 Hz.
    assert bands["1000"] == pytest.approx(-23.0, abs=BAND_DB)
    assert bands["500"] < -60


def test_stretches_give_the_bands_of_a_single_transform() -> None:
    samples = pink(-20, 20).astype(np.float32)
    single = np.abs(np.fft.rfft(samples)) ** 2 * 2 / len(samples) ** 2
    hz = np.fft.rfftfreq(len(samples), 1 / 48000)
    spectrum = spectrum_of(samples[None, :], 48000)
    for nominal in THIRD_OCTAVES_HZ:
        low, high = band_edges(nominal)
        whole = single[(hz >= low) & (hz < high)].sum()
        assert 10 * np.log10(spectrum.energy(low, high) / whole) == pytest.approx(0.0, abs=2 * BAND_DB)


@pytest.mark.parametrize(("low", "high", "ratio"), [(300, 1200, 1.0), (300, 3000, 4.0)])
def test_the_centroid_of_two_sines_is_their_weighted_mean(low: float, high: float, ratio: float) -> None:
    samples = sine(low, -12, 4) + np.sqrt(ratio) * sine(high, -12, 4)
    expected = (low + ratio * high) / (1 + ratio)
    assert value("centroid_hz", samples) == pytest.approx(expected, rel=CENTROID_SHARE)


def test_regions_are_shares_of_the_whole() -> None:
    samples = sine(100, -12, 4) + sine(700, -12, 4)
    found = reading("regions_db", samples).value
    assert isinstance(found, dict)
    assert found["lows"] == pytest.approx(-3.01, abs=BAND_DB)
    assert found["mids"] == pytest.approx(-3.01, abs=BAND_DB)
    # Nobody hears what lies so far under the rest: it is given as the most that it may be.
    assert found["air"] == -44.0
    flag = reading("regions_db", samples).flag
    assert flag is not None
    assert flag.code == "faint"


def test_harshness_is_the_edge_over_the_body() -> None:
    assert value("harshness_db", sine(1000, -6, 3) + sine(4000, -12, 3)) == pytest.approx(-6.0, abs=BAND_DB)


def test_a_band_near_the_noise_is_cleared_of_it_and_flagged() -> None:
    noise = white(-40, 7, seed=4)
    playing = pink(-30, 7) * (np.arange(7 * 48000) > 48000)
    clean, noisy = _bands(playing), _bands(playing + noise, lead_in_s=0.9)
    outcome = reading("third_octaves_db", playing + noise, lead_in_s=0.9)
    assert outcome.flag is not None
    assert outcome.flag.code == "near_noise"
    assert noisy["12500"] == pytest.approx(clean["12500"], abs=1.0)


def test_bands_above_what_was_recorded_are_absent() -> None:
    found = reading("third_octaves_db", sine(440, -12, 3, 22050), 22050).value
    assert isinstance(found, dict)
    assert found["12500"] is None
    assert found["8000"] is not None


def test_short_takes_and_low_rates_are_refused() -> None:
    assert code_of(reading("third_octaves_db", sine(440, -12, 1.9))) == "too_short"
    assert code_of(reading("centroid_hz", sine(440, -12, 3, 16000), 16000)) == "low_rate"
    assert code_of(reading("regions_db", np.zeros(96000))) == "silent"


@pytest.mark.parametrize("length", [1000, 2432, 5000, 131_072, 131_073, 200_000, 400_001])
def test_the_reduced_rates_keep_level_and_place_at_awkward_lengths(length: int) -> None:
    t = np.arange(length) / 48000
    reduced = Material(Clip.of(np.sin(2 * np.pi * 150 * t), 48000)).reduced
    for signal, factor in ((reduced.half[0], 2), (reduced.quarter, 4)):
        assert len(signal) == -(-length // factor)
        inner = slice(len(signal) // 10, -len(signal) // 10)
        expected = np.sin(2 * np.pi * 150 * np.arange(len(signal)) * factor / 48000)
        assert np.abs(signal - expected)[inner].max() < (0.01)
