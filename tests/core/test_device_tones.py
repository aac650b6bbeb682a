"""Stepped tones through the whole recording path, against what mathematics says of each device."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
import numpy.typing as npt
import pytest

from cata.core.bench.amplifiers import AMPLIFIERS
from cata.core.bench.circuit import truth
from cata.core.bench.device import Device
from cata.core.bench.pedals import PEDALS
from cata.core.measure.device import tones
from cata.core.measure.device.from_tones import tone_readings
from cata.core.measure.device.readings import NOMINAL_DBFS
from cata.core.measure.device.stepped import Ladder, read_ladder
from cata.core.measure.outcome import Outcome
from tests.outside import Through, come_back, sent_samples, shaped
from tests.tolerances import (
    BREAKUP_DB,
    EVEN_ODD_DB,
    GAIN_DB,
    KNEE_DB,
    SLOPE,
    THD_SHARE,
    TOUCH,
)
from tests.tones import code_of

Floats = npt.NDArray[np.float64]
FINE = np.arange(-60.0, 0.01, 0.125)


def poly(second: float, third: float) -> Through:
    return lambda x: x + second * x**2 - third * x**3


def limited(low: float, high: float, drive: float) -> Through:
    return lambda x: np.clip(x * drive, low, high)


def smooth(drive: float, offset: float = 0.0) -> Through:
    return lambda x: np.tanh(x * drive + offset) - np.tanh(offset)


def root(drive: float) -> Through:
    return lambda x: x * drive / np.sqrt(1 + (x * drive) ** 2)


STATIC: dict[str, Through] = {
    "hard at -20": limited(-1, 1, 10.0),
    "hard at -13.4": limited(-1, 1, 4.67),
    "hard at -31": limited(-1, 1, 35.5),
    "soft at -20": smooth(10.0),
    "soft at -8": smooth(2.51),
    "soft at -34": smooth(50.0),
    "uneven hard": limited(-0.3, 1, 10.0),
    "uneven hard, late": limited(-0.5, 0.9, 2.2),
    "one-sided": limited(-0.1, 3.0, 3.0),
    "soft, off centre": smooth(8.0, 0.4),
    "soft, far off centre": smooth(14.0, 0.9),
    "square-root knee": root(9.0),
    "square-root knee, late": root(2.0),
    "square-root knee, early": root(30.0),
}

BENCH: dict[str, tuple[Device, dict[str, float]]] = {
    "mid-hump": (PEDALS["mid-hump"], {"drive": 0.2}),
    "transparent": (PEDALS["transparent"], {"drive": 0.7}),
    "hard-clip": (PEDALS["hard-clip"], {"distortion": 0.0}),
    "boost": (PEDALS["boost"], {"gain": 0.9}),
    "treble-boost": (PEDALS["treble-boost"], {}),
    "scooped": (PEDALS["scooped"], {"gain": 0.0}),
    "clean amplifier": (AMPLIFIERS["clean"], {"volume": 0.9}),
    "edge amplifier": (AMPLIFIERS["edge"], {"volume": 0.3}),
    "crunch amplifier": (AMPLIFIERS["crunch"], {"gain": 0.2, "power": 0.3}),
    "stack first": (AMPLIFIERS["stack-first"], {"volume": 0.6}),
}


def harmonics_of(curve: Through, dbfs: float, count: int) -> npt.NDArray[np.complex128]:
    wave = 10 ** (dbfs / 20) * np.sin(2 * np.pi * np.arange(16384) / 16384)
    return np.fft.rfft(curve(wave))[1 : count + 1] / 8192


@lru_cache(maxsize=32)
def true_ladder(name: str, hz: float, count: int) -> Ladder:
    """The ladder that a recording without any fault would give, on a grid of 0.1 dB."""
    if name in STATIC:
        lines = np.array([harmonics_of(STATIC[name], level, count) for level in FINE])
    else:
        device, settings = BENCH[name]
        circuit = device.circuit(device.settings(settings))
        lines = np.array([truth(circuit, hz, level).lines[:count] for level in FINE])
    return Ladder(hz, FINE, lines, np.full(lines.shape, 1e-24), np.zeros(len(FINE)), np.full(len(FINE), 1e-24))


def rendered(name: str) -> Floats:
    sent = sent_samples("tones")
    if name in STATIC:
        return shaped(STATIC[name])(sent)
    device, settings = BENCH[name]
    return device.render(sent.astype(np.float32), settings).astype(np.float64)


def close(found: Outcome, expected: Outcome, within: float) -> bool:
    """Both refused, both bounded, or within a tolerance of each other."""
    if not isinstance(expected.value, float) or expected.bound:
        return found.value is None or found.bound is not None
    if found.value is None and code_of(found) == "at_lowest":
        return True
    if found.bound:
        assert isinstance(found.value, float)
        most = found.bound == "at_most"
        return expected.value <= found.value + within if most else expected.value >= found.value - within
    assert isinstance(found.value, float), (found.refusal, expected.value)
    return abs(found.value - expected.value) <= within


@pytest.mark.grid(2)
@pytest.mark.parametrize("name", [*STATIC, *BENCH])
def test_every_reading_of_a_stepped_tone_is_within_its_tolerance(name: str) -> None:
    returned, sent, scale = come_back(rendered(name), "tones", seed=len(name))
    section = sent.plan.named("tones-main")
    assert section is not None
    ladder = read_ladder(returned, section)
    found = tone_readings(ladder, NOMINAL_DBFS)
    ideal = true_ladder(name, ladder.hz, ladder.harmonics)
    expected = tone_readings(ideal, NOMINAL_DBFS)
    wrong = []
    tolerances = {
        "breakup_dbfs.1": BREAKUP_DB, "breakup_dbfs.3": BREAKUP_DB, "breakup_dbfs.10": BREAKUP_DB,
        "headroom_db": BREAKUP_DB, "knee_db": KNEE_DB, "slope_above_db_per_db": SLOPE, "touch_db_per_db": TOUCH,
        "even_odd_db": EVEN_ODD_DB, "p1db_dbfs": 2 * GAIN_DB,
    }  # fmt: skip
    for key, within in tolerances.items():
        if key == "touch_db_per_db" and found[key].value is None:
            continue  # the noise hides what the ideal ladder still shows
        if not close(found[key], expected[key], within):
            wrong.append((key, found[key], expected[key]))
    gain, true_gain = found["gain_db"].value, expected["gain_db"].value
    assert isinstance(gain, float)
    assert isinstance(true_gain, float)
    if abs(gain - 20 * np.log10(abs(scale)) - true_gain) > GAIN_DB:
        wrong.append(("gain_db", gain, true_gain))
    assert ladder.thd[-1] == pytest.approx(ideal.thd[-1], rel=THD_SHARE)
    assert not wrong


def test_the_stated_truths_of_four_curves_are_found() -> None:
    for name, at, expected in (
        ("hard at -20", -20.0, {"1": 0.251, "3": 0.666, "10": 2.173}),
        ("soft at -20", -20.0, {"1": -9.076, "3": -4.033, "10": 2.259}),
        ("uneven hard", -20.0, {"1": -10.13, "3": -9.60, "10": -7.68}),
    ):
        ideal = true_ladder(name, 226.4, 60)
        for percent, value in expected.items():
            onset = tones.onset_dbfs(ideal, float(percent))
            assert onset.value == pytest.approx(at + value, abs=0.02)
    hard = true_ladder("hard at -20", 226.4, 60)
    assert 100 * hard.thd[-1] == pytest.approx(43.04, abs=0.05)
    half = harmonics_of(lambda x: np.maximum(x, 0.0), 0.0, 60)
    assert np.sqrt(np.sum(np.abs(half[1:]) ** 2)) / np.abs(half[0]) == pytest.approx(0.4352, abs=0.001)


@pytest.mark.certify
def test_repeats_of_one_device_differ_by_less_than_the_band_19_times_in_20() -> None:
    through = shaped(STATIC["soft at -20"])(sent_samples("tones"))
    from cata.core.measure.device.from_tones import tone_bands

    runs, bands = [], {}
    for seed in range(24):
        returned, sent, _ = come_back(through, "tones", seed=seed, plain=True)
        section = sent.plan.named("tones-main")
        assert section is not None
        ladder = read_ladder(returned, section)
        found = tone_readings(ladder, NOMINAL_DBFS)
        runs.append({key: o.value for key, o in found.items() if isinstance(o.value, float) and not o.flag})
        if seed < 3:
            for key, band in tone_bands(ladder, NOMINAL_DBFS).items():
                bands.setdefault(key, []).append(band)
    inside = total = 0
    for key, found in bands.items():
        values = [run[key] for run in runs if key in run]
        if len(values) < 20:
            continue
        pairs = [(a, b) for i, a in enumerate(values) for b in values[:i]]
        inside += sum(abs(a - b) <= np.mean(found) for a, b in pairs)
        total += len(pairs)
    assert total > 1000
    assert 0.93 <= inside / total <= 1.0
