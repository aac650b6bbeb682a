"""The picking ladder, noise and the reverb's tail against devices whose truth is known, through the whole path."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
import pytest
import scipy.signal

from cata.core.bench.circuit import Filter, bell, one_pole, shelf
from cata.core.clip import Clip
from cata.core.measure.device.report import Report
from cata.core.measure.device.returned import Unusable, as_written
from cata.core.measure.device.sweeps import CENTRES_HZ, LOW, MIDDLE
from cata.core.measure.device.whole import device_report
from cata.core.measure.dynamics import low_tightness_ms
from cata.core.measure.material import Material
from cata.core.measure.tone import harshness_db
from cata.core.signals.testfile.layout import layout
from tests.conftest import declines
from tests.outside import RATE_HZ, Floats, Recorder, Through, sent_samples, shaped

FILTERS: dict[str, tuple[Filter, ...]] = {
    **{f"low cut at {hz} Hz": (one_pole(hz, "highpass"),) for hz in (60.0, 120.0, 250.0, 500.0, 720.0)},
    **{f"high cut at {hz} Hz": (one_pole(hz, "lowpass"),) for hz in (900.0, 2000.0, 4500.0, 9000.0)},
    **{f"shelf of {low} and {high} dB": (shelf(400.0, low, high),) for low, high in
       ((-8.0, 0.0), (6.0, 0.0), (0.0, -9.0), (0.0, 7.0), (5.0, 5.0))},
    **{f"bell of {db} dB at {hz} Hz": (bell(hz, db, 0.9),) for hz, db in
       ((100.0, 6.0), (300.0, -10.0), (650.0, -14.0), (800.0, 8.0), (2500.0, 9.0))},
    "low cut and bell": (one_pole(200.0, "highpass"), bell(1000.0, 10.0, 1.2)),
}  # fmt: skip


def through(filters: tuple[Filter, ...], x: Floats) -> Floats:
    for block in filters:
        x = scipy.signal.lfilter(block.b, block.a, x)
    return x


@pytest.mark.certify
@pytest.mark.parametrize("name", FILTERS)
def test_the_low_end_that_goes_is_known_from_playing_alone(name: str) -> None:
    """Without a sweep the ladder's softest steps give the response, within 0.1 dB for the low end."""
    filters = FILTERS[name]
    recorded = Recorder(len(name), snr_db=60.0).record(through(filters, sent_samples("ladder")))
    report = device_report(as_written("ladder"), recorded)
    hz = np.geomspace(40, 18_500, 6000)
    gain = 20 * np.log10(np.abs(np.prod([block.response(hz) for block in filters], axis=0)))
    truth = [float(np.mean(gain[(hz > f * 10**-0.05) & (hz < f * 10**0.05)])) for f in CENTRES_HZ]
    loss = np.mean(truth[MIDDLE]) - np.mean(truth[LOW])
    # What a band gains depends on where in it the strings' overtones lie: the truth is that of the playing itself.
    assert report.results.readings["low_end_loss_db"] == pytest.approx(played_loss(filters), abs=0.1)
    assert report.results.readings["low_end_loss_db"] == pytest.approx(loss, abs=0.6)
    assert report.results.flags["low_end_loss_db"].code == "from_playing"
    hardest_playing_is_told(report, lambda x: through(filters, x))


def played_loss(filters: tuple[Filter, ...]) -> float:
    section = layout("ladder").named("ladder")
    assert section is not None
    dry = soft_steps()
    powers = [np.abs(np.fft.rfft(one, 1 << 20)) ** 2 for one in (dry, through(filters, dry))]
    hz = np.fft.rfftfreq(1 << 20, 1 / RATE_HZ)
    change = []
    for f in CENTRES_HZ:
        inside = (hz > f * 10**-0.05) & (hz < f * 10**0.05)
        change.append(10 * np.log10(powers[1][inside].sum() / powers[0][inside].sum()))
    return float(np.mean(change[MIDDLE]) - np.mean([change[LOW][0], change[LOW][2]]))  # no string near 100 Hz


@lru_cache(maxsize=1)
def soft_steps() -> Floats:
    return ladder()[: round(3 * 1.7 * RATE_HZ)]


def ladder() -> Floats:
    plan = layout("ladder")
    section = plan.named("ladder")
    assert section is not None
    first = round((0.5 + section.start_s) * RATE_HZ)
    return sent_samples("ladder")[first : first + round(section.length_s * RATE_HZ)]


CURVES = {
    "soft": lambda x: np.tanh(4 * x),
    "softer": lambda x: np.tanh(1.5 * x),
    "hard": lambda x: np.clip(6 * x, -0.5, 0.5),
    "uneven": lambda x: np.where(x > 0, np.tanh(5 * x), 0.4 * np.tanh(12 * x)),
    "clean": lambda x: 0.6 * x,
}


@pytest.mark.certify
@pytest.mark.parametrize("name", CURVES)
def test_what_the_hardest_playing_gains_is_what_the_device_adds(name: str) -> None:
    """Harshness, tightness and sustain of the last step, against the same step without noise, clock or recorder.

    The filters above count among the devices too.
    """
    device = shaped(CURVES[name])
    report = device_report(as_written("ladder"), Recorder(11, snr_db=60.0).record(device(sent_samples("ladder"))))
    hardest_playing_is_told(report, device)


def hardest_playing_is_told(report: Report, device: Through) -> None:
    step = ladder()[-round(1.7 * RATE_HZ) :]
    wet, dry = (Material(Clip.of(x.astype(np.float32), RATE_HZ)) for x in (device(step), step))
    gained = float(harshness_db(wet).value) - float(harshness_db(dry).value)  # type: ignore[arg-type]
    assert report.results.readings["harshness_db"] == pytest.approx(gained, abs=0.1)
    muted = Material(wet.clip.cut(round(1.1 * RATE_HZ), wet.clip.length))
    tight = low_tightness_ms(muted).value
    assert report.results.readings.get("low_tightness_ms") == (None if tight is None else pytest.approx(tight, abs=4.0))
    fall = [[level(one.clip, at) for at in (0.12, 0.57)] for one in (dry, wet)]
    held = (fall[0][0] - fall[0][1]) - (fall[1][0] - fall[1][1])
    assert report.results.readings["sustain_db"] == pytest.approx(held, abs=0.3)


def level(clip: Clip, at_s: float) -> float:
    part = clip.samples[0][round(at_s * RATE_HZ) : round((at_s + 0.06) * RATE_HZ)].astype(np.float64)
    return 10 * float(np.log10(np.mean(part**2)))


@pytest.mark.certify
def test_a_driven_chord_sings_on_and_a_clean_one_does_not() -> None:
    found = {
        name: device_report(as_written("ladder"), Recorder(3).record(shaped(CURVES[name])(sent_samples("ladder"))))
        for name in ("soft", "softer", "clean")
    }
    gained = [found[name].results.readings["sustain_db"] for name in ("soft", "softer", "clean")]
    assert gained == sorted(gained, reverse=True)
    assert abs(gained[2]) < 0.3


@pytest.mark.grid(1)
@pytest.mark.parametrize("noise_dbfs", [-80.0, -72.0, -66.0, -58.0])
@pytest.mark.parametrize("hum", [False, True])
def test_noise_is_read_within_two_tenths_of_a_decibel(noise_dbfs: float, hum: bool) -> None:
    clip = Recorder(4, snr_db=200.0).record(sent_samples("chords"))
    rng = np.random.default_rng(round(-noise_dbfs))
    t = np.arange(clip.length) / RATE_HZ
    noise = np.sqrt(2) * np.sin(2 * np.pi * 50.3 * t) if hum else rng.standard_normal(clip.length)
    heard_db = 0.0 if hum else 10 * np.log10((20_000 - 20) / 24_000)  # what lies between 20 Hz and 20 kHz
    dirty = Clip.of(clip.samples[0] + noise * 10 ** (noise_dbfs / 20), RATE_HZ)
    report = device_report(as_written("chords"), dirty)
    assert report.results.readings["noise_dbfs"] == pytest.approx(noise_dbfs + heard_db, abs=0.2)


def rings(t60_s: float, level_db: float, seed: int) -> Floats:
    """A direct sound and a diffuse tail behind it, of so much energy against it between 200 Hz and 4 kHz."""
    t = np.arange(round(1.5 * t60_s * RATE_HZ)) / RATE_HZ
    tail = np.random.default_rng(seed).standard_normal(len(t)) * 10 ** (-3 * t / t60_s)
    tail *= 10 ** (level_db / 20) / np.sqrt(np.sum(tail**2))
    tail[0] += 1.0
    return tail


@pytest.mark.grid(1)
@pytest.mark.parametrize("t60_s", [0.5, 0.9, 1.4, 2.0, 2.8])
@pytest.mark.parametrize("level_db", [-6.0, -14.0])
def test_a_reverb_gives_its_tail_and_nothing_else(t60_s: float, level_db: float) -> None:
    wet = scipy.signal.oaconvolve(sent_samples("sweep"), rings(t60_s, level_db, round(10 * t60_s)))
    report = device_report(as_written("sweep"), Recorder(round(-level_db), snr_db=60.0).record(wet))
    tail = report.results.readings["tail"]
    assert isinstance(tail, dict)
    assert tail["t60_s"] == pytest.approx(t60_s, rel=0.05)
    assert tail["level_db"] == pytest.approx(level_db, abs=0.7)
    assert list(report.results.readings) == ["tail"]
    assert report.results.code("response_db") in ("sounds_on", "level_wavers", "pitch_wavers")


@pytest.mark.certify
@pytest.mark.parametrize("kind", ["tremolo", "slow tremolo", "chorus", "vibrato"])
def test_what_moves_by_itself_has_no_tail(kind: str) -> None:
    sent = sent_samples("sweep")
    t = np.arange(len(sent)) / RATE_HZ
    if "tremolo" in kind:
        moved = sent * (1 + 0.5 * np.sin(2 * np.pi * (0.8 if kind.startswith("slow") else 6.0) * t))
    else:
        place = np.arange(len(sent)) - RATE_HZ * (0.008 + 0.002 * np.sin(2 * np.pi * 0.9 * t))
        moved = np.interp(place, np.arange(len(sent)), sent) + (sent if kind == "chorus" else 0.0)
    with declines(Unusable, "level_wavers", "pitch_wavers", "no_closing_slate"):
        device_report(as_written("sweep"), Recorder(6, snr_db=60.0).record(moved))


def test_an_echo_is_no_tail() -> None:
    sent = sent_samples("sweep")
    echo = sum(np.pad(sent, (late, 0))[: len(sent)] * 0.5**n for n, late in enumerate(range(0, 96_000, 14_400)))
    with declines(Unusable, "echoes"):
        device_report(as_written("sweep"), Recorder(2, snr_db=60.0).record(np.asarray(echo)))
