"""The bench's devices against their own analytic truth, and each behaving as its structure says."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
import pytest

from cata.core.bench.amplifiers import AMPLIFIERS, MIDDLE_STACK, SCOOPED_STACK, SPEAKERS_DB, TIGHT_STACK, speaker_taps
from cata.core.bench.circuit import (
    Beside,
    Chain,
    Gain,
    MovingBias,
    Response,
    Sagging,
    Shape,
    analogue,
    bell,
    one_pole,
    shelf,
    truth,
)
from cata.core.bench.compressing import Compressing, static_gain_db
from cata.core.bench.curves import Curve, folded, hard, rounded, soft, uneven
from cata.core.bench.device import Device
from cata.core.bench.pedals import PEDALS
from cata.errors import Invalid
from tests.conftest import declines

Floats = npt.NDArray[np.float64]
RATE_HZ, PERIOD = 48_000, 212
HZ = RATE_HZ / PERIOD
DEVICES = {**PEDALS, **AMPLIFIERS}


def steady(device: Device, settings: dict[str, float], dbfs: float) -> npt.NDArray[np.complex128]:
    """Harmonics of a rendered tone, long after everything that moves has settled."""
    tone = 10 ** (dbfs / 20) * np.sin(2 * np.pi * np.arange(PERIOD * 500) / PERIOD)
    out = device.render(tone.astype(np.float32), settings).astype(np.float64)[-PERIOD * 40 :]
    return np.fft.rfft(out)[40 : 40 * 60 : 40] * 2 / len(out)


@pytest.mark.grid(5)
@pytest.mark.parametrize("dbfs", [-34.0, -12.0])
@pytest.mark.parametrize("key", [key for key in DEVICES if key != "bypass"])
def test_what_is_rendered_is_what_analysis_says(key: str, dbfs: float) -> None:
    device = DEVICES[key]
    lines, expected = steady(device, {}, dbfs), device.truth({}, HZ, dbfs)
    gain = 20 * np.log10(np.abs(lines[0])) - dbfs
    assert gain == pytest.approx(expected.gain_db, abs=0.08)
    thd = np.sqrt(np.sum(np.abs(lines[1:]) ** 2)) / np.abs(lines[0])
    assert thd == pytest.approx(expected.thd(60), rel=0.02, abs=5e-4)


@pytest.mark.grid(2)
@pytest.mark.parametrize(
    "curve",
    [soft(0.4), soft(2.0), hard(-0.3, 1.0), rounded(0.45, 0.9), uneven(0.5, 1.1), folded()],
    ids=["soft", "late soft", "hard", "rounded", "uneven", "folded"],
)
def test_every_curves_integral_is_its_own(curve: Curve) -> None:
    x = np.linspace(-3, 3, 60_001)
    area = np.concatenate(([0.0], np.cumsum((curve.value(x)[1:] + curve.value(x)[:-1]) / 2 * np.diff(x))))
    integral = curve.integral(x)
    assert area == pytest.approx(integral - integral[0], abs=1e-5)


def test_the_power_switch_lowers_the_ceiling_and_sag_softens_it() -> None:
    for key in ("crunch", "stack-first"):
        full, low = (AMPLIFIERS[key].truth({"power": p}, HZ, -6.0).thd(60) for p in (1.0, 0.0))
        assert low > full
    stiff, sagging = Shape(soft(1.0)), Sagging(soft(1.0), 0.8)
    loud = truth(stiff, HZ, 12.0), truth(sagging, HZ, 12.0)
    assert loud[1].gain_db < loud[0].gain_db - 2
    assert truth(sagging, HZ, -40.0).gain_db == pytest.approx(0.0, abs=0.1)


def test_the_supply_takes_its_time_to_sag() -> None:
    tone = (2.0 * np.sin(2 * np.pi * np.arange(RATE_HZ) / PERIOD)).astype(np.float32)
    out = Sagging(soft(1.0), 0.8).process(tone)
    early, late = (np.sqrt(np.mean(out[a : a + 4800] ** 2)) for a in (200, 40_000))
    assert early > 1.12 * late


def test_the_bias_moves_with_the_playing() -> None:
    moving = MovingBias(hard(-0.3, 1.0), 0.0, 0.3)
    soft_even, loud_even = (np.abs(truth(moving, HZ, level).lines[1]) for level in (-20.0, 6.0))
    assert soft_even < 0.01 * loud_even


def test_tone_stacks_differ_and_follow_their_components() -> None:
    hz = np.array([80.0, 400.0, 700.0, 4000.0])
    at_noon = {
        name: 20 * np.log10(np.abs(stack.response(hz, 0.5, 0.5, 0.5)))
        for name, stack in (("scooped", SCOOPED_STACK), ("middle", MIDDLE_STACK), ("tight", TIGHT_STACK))
    }
    scoop = {name: (levels[0] + levels[3]) / 2 - levels[1:3].mean() for name, levels in at_noon.items()}
    assert scoop["scooped"] > scoop["middle"] + 2
    for stack in (SCOOPED_STACK, MIDDLE_STACK, TIGHT_STACK):
        treble = [20 * np.log10(abs(stack.response(hz, 0.5, 0.5, t)[3])) for t in (0.1, 0.9)]
        assert treble[1] > treble[0] + 3


@pytest.mark.grid(4)
@pytest.mark.parametrize("turned", [0.1, 0.95])
@pytest.mark.parametrize("key", DEVICES)
def test_nothing_sounds_on_when_the_tone_has_stopped(key: str, turned: float) -> None:
    tone = 0.06 * np.sin(2 * np.pi * np.arange(RATE_HZ // 2) / PERIOD)
    device = DEVICES[key]
    silent = np.pad(tone, (0, RATE_HZ // 4)).astype(np.float32)
    out = device.render(silent, {control.key: turned for control in device.controls}).astype(np.float64)
    sounding, after = out[len(tone) - 4800 : len(tone)], out[len(tone) + 3360 :]
    assert np.std(after) < 1e-3 * np.std(sounding)


def test_a_stack_before_the_gain_decides_what_breaks_up() -> None:
    quiet, loud = (
        AMPLIFIERS["stack-first"].truth({"volume": 0.9, "bass": b}, 107.6, -10.0).thd(60) for b in (0.1, 0.9)
    )
    assert loud > 1.3 * quiet


@pytest.mark.parametrize("kind", SPEAKERS_DB)
def test_every_speaker_is_a_band_pass_of_its_own(kind: str) -> None:
    power = 20 * np.log10(np.abs(np.fft.rfft(speaker_taps(kind), 1 << 15)) + 1e-9)
    hz = np.fft.rfftfreq(1 << 15, 1 / RATE_HZ)
    level = lambda f: power[np.argmin(np.abs(hz - f))]  # noqa: E731
    assert level(2500) > level(30) + 10
    assert level(2500) > level(9000) + 15


def test_a_compressor_takes_its_time_and_keeps_its_ratio() -> None:
    levels = np.array([-40.0, -20.0, 0.0])
    assert static_gain_db(levels, -20.0, 4.0, 0.0) == pytest.approx([0.0, 0.0, -15.0])
    assert static_gain_db(levels, -20.0, 4.0, 8.0)[1] == pytest.approx(-0.75)
    squeeze = Compressing(threshold_db=-20.0, ratio=4.0, knee_db=0.0, attack_s=0.02, release_s=0.2)
    tone = np.sin(2 * np.pi * np.arange(RATE_HZ) / 48).astype(np.float32)
    tone[: RATE_HZ // 2] *= 10 ** (-30 / 20)
    out = squeeze.process(tone)
    at = RATE_HZ // 2 + round(0.02 * RATE_HZ)
    gain = 20 * np.log10(np.max(np.abs(out[at - 24 : at + 24])))
    assert gain == pytest.approx(-15 * 0.632, abs=0.5)
    assert 20 * np.log10(np.max(np.abs(out[-480:]))) == pytest.approx(-15.0, abs=0.1)


def test_blocks_do_to_a_signal_what_they_do_to_its_period() -> None:
    taps = np.zeros(64, dtype=np.float32)
    taps[[0, 7]] = 1.0, 0.5
    blocks = (
        Gain(0.5), one_pole(300.0, "highpass"), one_pole(2000.0, "lowpass"), shelf(500.0, 6.0, -3.0),
        bell(800.0, 9.0, 1.5), analogue(np.array([1e7]), np.array([1.0, 2e3, 1e7])), Response(taps),
        Beside(one_pole(1000.0, "lowpass"), 0.5, 0.5), Chain((Gain(2.0), Shape(soft(0.5)))),
    )  # fmt: skip
    for block in blocks:
        tone = 0.3 * np.sin(2 * np.pi * np.arange(PERIOD * 400) / PERIOD)
        rendered = np.fft.rfft(block.process(tone.astype(np.float32))[-PERIOD * 20 :])[20] * 2 / (PERIOD * 20)
        expected = truth(block, HZ, 20 * np.log10(0.3)).lines[0]
        assert np.abs(rendered) == pytest.approx(np.abs(expected), rel=2e-3)


def test_a_device_of_the_bench_refuses_what_it_has_not() -> None:
    with declines(Invalid, "no_control"):
        AMPLIFIERS["edge"].truth({"middle": 0.5}, HZ, -20.0)
    with declines(Invalid, "out_of_range"):
        PEDALS["boost"].render(np.zeros(10, np.float32), {"gain": 2.0})
