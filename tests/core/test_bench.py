"""The bench: deterministic, free of aliases, and with the truths it claims."""

from __future__ import annotations

import numpy as np
import pytest

from cata.core.bench.amplifiers import AMPLIFIERS, speaker_taps, tone_stack_response
from cata.core.bench.bed import backing_bed
from cata.core.bench.chain import ChainSettings, record
from cata.core.bench.pedals import PEDALS
from cata.core.bench.pickups import PICKUPS
from cata.core.measure.pitch import find_peaks
from cata.core.signals.phrase import Note
from cata.core.signals.strings import pluck
from cata.errors import Invalid
from tests.conftest import declines
from tests.tolerances import ALIAS_DB


@pytest.mark.parametrize("key", [key for key in PEDALS if key != "bypass"])
@pytest.mark.parametrize("hz", [1234.5, 4321.5])
def test_what_folds_back_lies_70_db_under_the_tone(key: str, hz: float) -> None:
    rate, count = 48000, 96000
    tone = (0.7 * np.sin(2 * np.pi * hz * np.arange(count) / rate)).astype(np.float32)
    hottest = {control.key: 1.0 for control in PEDALS[key].controls if control.key in ("drive", "distortion", "fuzz")}
    out = PEDALS[key].render(tone, hottest)[24000:72000]
    spectrum = np.abs(np.fft.rfft(out * np.blackman(len(out)))) ** 2
    grid = np.fft.rfftfreq(len(out), 1 / rate)
    nearest = np.abs(grid - hz * np.round(grid / hz))
    stray = spectrum[(nearest > 12) & (grid > 40)].max()
    assert 10 * np.log10(stray / spectrum.max()) < ALIAS_DB


def test_the_same_settings_give_the_same_samples() -> None:
    settings = ChainSettings(phrase="offbeat", pedal="fuzz")
    assert np.array_equal(record(settings).samples, record(settings).samples)


@pytest.mark.parametrize(("midi", "string"), [(40, 0), (45, 1), (64, 5), (69, 5)])
def test_strings_sound_in_tune(midi: int, string: int) -> None:
    wave = pluck(Note(start_s=0, length_s=2.0, string=string, midi=midi, strength=0.5), seed=1)
    cents, weights = find_peaks(wave[::4].astype(np.float32), 12000)
    off = cents - 100 * np.round((cents - 100 * (midi - 69)) / 1200) * 12 - 100 * (midi - 69)
    fundamental = np.abs(off) < 50
    assert np.average(off[fundamental], weights=weights[fundamental]) == pytest.approx(0.0, abs=3.0)


def test_the_loaded_coil_resonates_where_the_formula_says() -> None:
    narrow = PICKUPS["narrow-single"]
    assert narrow.resonance_hz == pytest.approx(4176, rel=0.002)
    assert narrow.q == pytest.approx(2.40, rel=0.01)


def test_the_tone_stack_scoops_at_noon_and_turns_with_its_knobs() -> None:
    hz = np.array([80.0, 500.0, 5000.0])
    noon = 20 * np.log10(np.abs(tone_stack_response(hz, 0.5, 0.5, 0.5)))
    assert noon[1] < noon[0]
    assert noon[1] < noon[2]
    bright = 20 * np.log10(np.abs(tone_stack_response(hz, 0.5, 0.5, 1.0)))
    assert bright[2] - noon[2] > 2
    full = 20 * np.log10(np.abs(tone_stack_response(hz, 1.0, 0.5, 0.5)))
    assert full[0] - noon[0] > 2


def test_the_speaker_rolls_off_and_is_causal() -> None:
    response = np.abs(np.fft.rfft(speaker_taps()))
    hz = np.fft.rfftfreq(len(speaker_taps()), 1 / 48000)
    level = lambda f: 20 * np.log10(response[np.argmin(np.abs(hz - f))])  # noqa: E731
    assert level(8000) < level(2500) - 20
    assert np.argmax(np.abs(speaker_taps())) < 200


def test_devices_refuse_unknown_knobs_and_positions() -> None:
    with declines(Invalid, "no_control"):
        PEDALS["mid-hump"].settings({"gain": 0.5})
    with declines(Invalid, "out_of_range"):
        AMPLIFIERS["clean"].settings({"bass": 1.5})


def test_recording_too_hot_clips_at_full_scale() -> None:
    clip = record(ChainSettings(phrase="soft-to-hard", pickup="hot-two-coil", input_gain=6.0))
    assert float(clip.samples.max()) == pytest.approx(1.0, abs=1e-6)


def test_the_backing_bed_begins_again_without_a_click_and_fills_the_spectrum() -> None:
    bed = backing_bed()
    assert bed.channels == 2
    around = np.concatenate((bed.samples[0, -2_400:], bed.samples[0, :2_400]))
    assert np.abs(np.diff(around)).max() <= 1.01 * np.abs(np.diff(bed.samples[0])).max()
    power = np.abs(np.fft.rfft(bed.samples.mean(axis=0))) ** 2
    hz = np.fft.rfftfreq(bed.length, 1 / bed.rate_hz)
    shares = [
        power[(hz >= low) & (hz < high)].sum() / power.sum() for low, high in ((30, 200), (200, 2_000), (2_000, 16_000))
    ]
    assert min(shares) > 0.005
    assert np.abs(bed.samples).max() == pytest.approx(0.5, abs=1e-4)
