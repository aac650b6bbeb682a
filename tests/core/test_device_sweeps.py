"""Sweeps and chords through the whole recording path: response, overtones, polarity, dirt between notes."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import numpy.typing as npt
import pytest

from cata.core.bench.amplifiers import AMPLIFIERS
from cata.core.bench.circuit import Block, Filter, Gain, analogue, bell, one_pole, shelf
from cata.core.bench.pedals import PEDALS
from cata.core.measure.device import chords, responses, steady, sweeps
from tests.outside import come_back, sent_samples, shaped
from tests.tolerances import CLARITY_DB, CLARITY_DRIVEN_DB, RESPONSE_DB

Floats = npt.NDArray[np.float64]


def second_order(hz: float, q: float) -> Filter:
    w = 2 * np.pi * hz
    return analogue(np.array([w * w]), np.array([1.0, w / q, w * w]), hz)


LINEAR: dict[str, Block] = {
    "wire": Gain(1.0),
    **{f"high-pass {hz}": one_pole(hz, "highpass") for hz in (60.0, 250.0, 720.0)},
    **{f"low-pass {hz}": one_pole(hz, "lowpass") for hz in (800.0, 2500.0, 7000.0)},
    **{f"shelf {low:+.0f} {high:+.0f}": shelf(700.0, low, high) for low, high in ((6.0, 0.0), (-6.0, 3.0), (0.0, 9.0))},
    **{f"bell {db:+.0f} at {hz:.0f}": bell(hz, db, 1.2) for hz, db in ((400.0, 8.0), (650.0, -14.0), (2500.0, 6.0))},
    **{f"resonant {hz:.0f}": second_order(hz, 2.4) for hz in (3100.0, 4176.0)},
    **{
        f"pedal {key}": device.circuit(device.settings(knobs))
        for key, device, knobs in (
            ("transparent, bass up", PEDALS["transparent"], {"drive": 0.0, "bass": 1.0}),
            ("transparent, treble down", PEDALS["transparent"], {"drive": 0.0, "treble": 0.0}),
            ("boost", PEDALS["boost"], {"gain": 0.2}),
            ("leveller, light", PEDALS["leveller"], {"depth": 0.0}),
            ("clean amplifier", AMPLIFIERS["clean"], {"volume": 0.0, "treble": 0.9}),
            ("stack first", AMPLIFIERS["stack-first"], {"volume": 0.0, "middle": 0.1}),
        )
    },
}


def true_bands(block: Block) -> Floats:
    """Power gain of a circuit in each third octave, dB: the spectrum of its answer to a tiny click."""
    click = np.zeros(1 << 19, dtype=np.float32)
    click[64] = 1e-3
    power = np.abs(np.fft.rfft(block.process(click).astype(np.float64) * 1e3)) ** 2
    hz = np.fft.rfftfreq(len(click), 1 / 48000)
    edges = np.searchsorted(hz, [[f * 10**-0.05, f * 10**0.05] for f in sweeps.CENTRES_HZ])
    return np.array([10 * np.log10(np.mean(power[low:high])) for low, high in edges])


@pytest.mark.grid(4)
@pytest.mark.parametrize("name", LINEAR)
def test_response_colour_and_low_end_are_within_their_tolerance(name: str) -> None:
    block = LINEAR[name]
    through = block.process(sent_samples("sweep").astype(np.float32)).astype(np.float64)
    returned, sent, scale = come_back(through, "sweep", seed=len(name))
    density = sweeps.noise_density(steady.silence(returned))
    swept = [sweeps.read_sweep(returned, section, density) for section in sent.plan.of("sweep")]
    best, doubt = responses.most_linear([one for one in swept if not isinstance(one, str)])
    assert doubt is None
    change = responses.change_db(best, None) - 20 * np.log10(abs(scale))
    expected = true_bands(block)
    # Where the device leaves less than a hundredth of the power, noise decides.
    heard = expected > expected.max() - 20
    heard[-2:] = False
    assert np.abs(change - expected)[heard].max() < 1.2 * RESPONSE_DB
    assert np.sqrt(np.mean((change - expected)[heard] ** 2)) < RESPONSE_DB
    if heard[sweeps.TONE_BANDS].all():
        assert responses.transparency_db(change) == pytest.approx(responses.transparency_db(expected), abs=RESPONSE_DB)
        assert responses.low_end_loss_db(change) == pytest.approx(responses.low_end_loss_db(expected), abs=RESPONSE_DB)
    sign = responses.polarity(best)
    if name in ("wire", "low-pass 7000.0", "shelf +6 +0", "pedal boost"):
        assert sign.value == int(np.sign(scale))
    elif name not in ("pedal clean amplifier", "pedal stack first"):  # a speaker has no side of its own
        assert sign.value in (None, int(np.sign(scale)))


@pytest.mark.certify
@pytest.mark.parametrize("seed", range(4))
def test_bands_that_drown_are_left_out_and_the_others_are_right(seed: int) -> None:
    steep = second_order(400.0 + 100 * seed, 0.7)
    through = steep.process(steep.process(sent_samples("sweep").astype(np.float32))).astype(np.float64)
    returned, sent, scale = come_back(through, "sweep", seed=seed)
    density = sweeps.noise_density(steady.silence(returned))
    swept = [sweeps.read_sweep(returned, section, density) for section in sent.plan.of("sweep")]
    best, _ = responses.most_linear([one for one in swept if not isinstance(one, str)])
    heard = responses.heard(best)
    off = responses.change_db(best, None) - 20 * np.log10(abs(scale)) - 2 * true_bands(steep)
    assert np.abs(off)[heard].max() < 1.0
    assert heard[:14].all()
    assert not heard[-3:].any()
    assert np.abs(off)[~heard].max() > 1.0


CURVES: dict[str, Callable[[Floats], Floats]] = {
    "cubic": lambda x: x - 0.3 * x**3,
    "square": lambda x: x + 0.2 * x**2,
    "both": lambda x: x + 0.1 * x**2 - 0.2 * x**3,
    "soft": lambda x: np.tanh(3 * x),
    "softer": lambda x: np.tanh(8 * x),
    "off centre": lambda x: np.tanh(4 * x + 0.5) - np.tanh(0.5),
    "root": lambda x: 5 * x / np.sqrt(1 + 25 * x**2),
    "hard": lambda x: np.clip(8 * x, -1, 1),
    "uneven": lambda x: np.clip(6 * x, -0.4, 1),
    "one-sided": lambda x: np.clip(3 * x, -0.2, 9),
}


def fourier(curve: Callable[[Floats], Floats], level: float) -> Floats:
    wave = 10 ** (level / 20) * np.sin(2 * np.pi * np.arange(8192) / 8192)
    lines = np.abs(np.fft.rfft(curve(wave)))[1:6]
    return 20 * np.log10(np.maximum(lines[1:] / lines[0], 1e-9))


@pytest.mark.certify
@pytest.mark.parametrize("name", CURVES)
def test_overtones_over_frequency_are_those_of_the_fourier_series(name: str) -> None:
    returned, sent, _ = come_back(shaped(CURVES[name])(sent_samples("sweep")), "sweep", seed=3)
    density = sweeps.noise_density(steady.silence(returned))
    section = sent.plan.named("sweep-10")
    assert section is not None
    swept = sweeps.read_sweep(returned, section, density)
    assert not isinstance(swept, str)
    expected = fourier(CURVES[name], -10.0)
    for order, line in zip(range(2, 6), expected, strict=True):
        found = swept.harmonic_db(order)
        values = [found[band] for band in ("200", "250", "315", "400", "500", "630", "800", "1000") if band in found]
        if line > -40:
            assert np.mean(values) == pytest.approx(line, abs=0.1), order
        elif line < -100:
            assert not values or np.mean(values) < -55, order


def double_series(curve: Callable[[Floats], Floats], level: float) -> float:
    """Dirt over notes of two equal tones whose sum peaks at a level: a two-dimensional Fourier series."""
    turn = np.sin(2 * np.pi * np.arange(256) / 256)
    power = np.abs(np.fft.fft2(curve(10 ** (level / 20) / 2 * (turn[:, None] + turn[None, :])))) ** 2
    order = np.abs(np.fft.fftfreq(256, 1 / 256))
    a, b = order[:, None], order[None, :]
    own = power[((a == 0) != (b == 0))].sum()
    return 10 * float(np.log10(power[(a > 0) & (b > 0) & (a + b <= chords.ORDER)].sum() / own + 1e-12))


@pytest.mark.certify
@pytest.mark.parametrize("name", CURVES)
def test_dirt_between_the_notes_is_that_of_a_double_fourier_series(name: str) -> None:
    returned, sent, _ = come_back(shaped(CURVES[name])(sent_samples("chords")), "chords", seed=4)
    density = sweeps.noise_density(steady.silence(returned))
    for key in ("third-24", "third-12", "fifth-12"):
        section = sent.plan.named(key)
        assert section is not None
        lines = chords.read_chord(returned, section, density, sweeps.HZ)
        found, expected = chords.clarity_db(lines), double_series(CURVES[name], section.levels_dbfs[0])
        assert isinstance(found.value, float)
        if found.flag:
            assert expected < found.value + 0.5
            continue
        within = max(CLARITY_DB if expected < -20 else CLARITY_DRIVEN_DB, lines.band_db)
        assert found.value == pytest.approx(expected, abs=within), key
