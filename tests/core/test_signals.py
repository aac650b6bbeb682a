"""Phrases, strings and clipping curves of the bench."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from cata.core.bench.circuit import analogue, one_pole, shelf
from cata.core.bench.curves import Curve, clip_with, hard, rounded, soft
from cata.core.bench.device import taper
from cata.core.bench.pickups import PICKUPS
from cata.core.signals.phrase import OPEN_STRINGS_MIDI, PHRASES, Note, retuned
from cata.core.signals.strings import Sensing, pluck, render
from tests.tones import sine

CURVES = {"soft": soft(0.4), "hard": hard(-0.3, 1.0), "rounded": rounded(0.45, 0.9)}


@pytest.mark.parametrize("key", PHRASES)
def test_phrases_hold_playable_notes_inside_their_length(key: str) -> None:
    phrase = PHRASES[key]
    assert phrase.key == key
    assert len(phrase.notes) >= 8
    for note in phrase.notes:
        assert 0 <= note.start_s < note.start_s + note.length_s <= phrase.length_s
        assert 0 <= note.midi - OPEN_STRINGS_MIDI[note.string] <= 22
        assert 0 < note.strength <= 1


def test_retuning_moves_every_string_alike() -> None:
    moved = retuned(PHRASES["offbeat"], -50)
    assert {b.midi - a.midi for a, b in zip(PHRASES["offbeat"].notes, moved.notes, strict=True)} == {-0.5}


def test_a_muted_note_dies_sooner_and_a_hard_one_is_brighter() -> None:
    def note(**more: object) -> np.ndarray:
        settings = {"start_s": 0, "length_s": 1.5, "string": 1, "midi": 45, "strength": 0.5} | more
        return pluck(Note(**settings), seed=3)  # type: ignore[arg-type]

    ringing, muted = note(), note(muted=True)
    late = slice(24000, 48000)
    assert np.std(muted[late]) < 0.1 * np.std(ringing[late])

    def brightness(wave: np.ndarray) -> float:
        power = np.abs(np.fft.rfft(wave[:48000])) ** 2
        return float((power * np.arange(len(power))).sum() / power.sum())

    assert brightness(note(strength=1.0)) > brightness(note(strength=0.2))


def test_a_pickup_near_the_bridge_hears_less_of_the_lows() -> None:
    phrase = PHRASES["muted-riff"]
    bridge, neck = render(phrase, Sensing(place=0.06)), render(phrase, Sensing(place=0.24))

    def lows(signal: np.ndarray) -> float:
        power = np.abs(np.fft.rfft(signal)) ** 2
        hz = np.fft.rfftfreq(len(signal), 1 / 48000)
        return float(power[hz < 150].sum() / power.sum())

    assert lows(neck) > lows(bridge)


def test_pickups_differ_in_output_and_resonance() -> None:
    peaks = {
        key: float(np.abs(PICKUPS[key].record(PHRASES["offbeat"])).max()) for key in ("narrow-single", "hot-two-coil")
    }
    assert peaks["hot-two-coil"] > peaks["narrow-single"]
    assert PICKUPS["hot-two-coil"].resonance_hz < PICKUPS["narrow-single"].resonance_hz


@pytest.mark.parametrize("name", CURVES)
@given(x=st.floats(-5, 5))
def test_a_curve_is_the_slope_of_its_integral(name: str, x: float) -> None:
    curve: Curve = CURVES[name]
    step = 1e-5
    ends = np.array([x - step, x + step])
    slope = np.diff(curve.integral(ends))[0] / (2 * step)
    assert slope == pytest.approx(float(curve.value(np.array([x]))[0]), abs=1e-4)


@pytest.mark.parametrize("name", CURVES)
def test_small_signals_pass_unchanged_and_large_ones_meet_the_ceiling(name: str) -> None:
    small = (sine(300, -50, 0.2)).astype(np.float32)
    assert np.abs(clip_with(small, CURVES[name]) - small)[1000:-1000].max() < 0.02 * np.abs(small).max()
    large = clip_with((sine(100, 20, 0.2)).astype(np.float32), CURVES[name])
    ceiling = float(CURVES[name].value(np.array([50.0]))[0])
    assert np.median(np.sort(large)[-2000:]) == pytest.approx(ceiling, rel=0.03)
    assert len(large) == int(0.2 * 48000)


def test_filters_do_what_their_names_say() -> None:
    def gain_db(process: object, hz: float) -> float:
        tone = sine(hz, -12, 0.5).astype(np.float32)
        out = process(tone)  # type: ignore[operator]
        return float(20 * np.log10(np.std(out[12000:]) / np.std(tone[12000:])))

    assert gain_db(one_pole(1000, "lowpass").process, 1000) == pytest.approx(-3.01, abs=0.05)
    assert gain_db(one_pole(1000, "highpass").process, 100) == pytest.approx(-20, abs=0.2)
    assert gain_db(shelf(1000, 6.0, 0.0).process, 40) == pytest.approx(6.0, abs=0.1)
    assert gain_db(shelf(1000, 6.0, 0.0).process, 15000) == pytest.approx(0.0, abs=0.1)
    w = 2 * np.pi * 3000
    resonant = analogue(np.array([w * w]), np.array([1, w / 2.0, w * w]), warp_hz=3000).process
    assert gain_db(resonant, 3000) == pytest.approx(20 * np.log10(2.0), abs=0.05)


def test_a_logarithmic_pot_is_at_its_geometric_mean_at_noon() -> None:
    assert taper(0.0, 4, 100) == pytest.approx(4)
    assert taper(0.5, 4, 100) == pytest.approx(20)
    assert taper(1.0, 4, 100) == pytest.approx(100)
