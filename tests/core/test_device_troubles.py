"""Devices that once were read wrong without a word: each is read right now, or says why not."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import numpy.typing as npt
import pytest
import scipy

from cata.core.bench.compressing import Compressing
from cata.core.bench.pedals import PEDALS
from cata.core.clip import Clip
from cata.core.measure.device import responses, steady
from cata.core.measure.device.loopback import read_sweeps
from cata.core.measure.device.report import Report
from cata.core.measure.device.returned import Unusable, as_written, read_returned
from cata.core.measure.device.whole import device_report
from cata.core.measure.dynamics import low_tightness_ms
from cata.core.measure.material import Material
from cata.core.signals.testfile.layout import PartName
from tests.conftest import declines
from tests.corpus.moving import MOVING, STILL
from tests.outside import RATE_HZ, Recorder, sent_samples, shaped
from tests.tolerances import GAIN_DB, RATIO_SHARE, THRESHOLD_DB
from tests.tones import plucks

Floats = npt.NDArray[np.float64]
Device = Callable[[Floats], Floats]


def wire(x: Floats) -> Floats:
    return x


def reading(
    device: Device, part: PartName = "tones", *, after: Callable[[Clip], Clip] | None = None, **how: object
) -> Report:
    clip = Recorder(7, **how).record(device(sent_samples(part)))  # type: ignore[arg-type]
    return device_report(as_written(part), after(clip) if after else clip)


def refusals(report: Report, key: str) -> set[str]:
    """The codes of everything refused under a key and its parts."""
    return {one.refusal.code for name, one in report.results.items() if name.split(".")[0] == key and one.refusal}


# --- what goes on sounding


def echo(after_s: float, down_db: float) -> Device:
    late = round(after_s * RATE_HZ)
    return lambda x: x + 10 ** (-down_db / 20) * np.pad(x, (late, 0))[: len(x)]


def reverb(t60_s: float, down_db: float, before_s: float = 0.02) -> Device:
    t = np.arange(round(1.3 * t60_s * RATE_HZ)) / RATE_HZ
    tail = np.random.default_rng(2).standard_normal(len(t)) * 10 ** (-3 * t / t60_s) * (t > before_s)
    tail *= 10 ** (-down_db / 20) / np.sqrt(np.sum(tail**2))
    tail[0] += 1.0
    return lambda x: scipy.signal.oaconvolve(x, tail)[: len(x)]


ECHOES = [(0.45, 35.0), (0.8, 28.0), (2.5, 35.0), (1.2, 20.0), (1.8, 35.0), (0.45, 20.0), (2.5, 20.0)]


@pytest.mark.grid(1)
@pytest.mark.parametrize(("after_s", "down_db"), ECHOES)
def test_a_faint_late_echo_is_told_with_its_delay(after_s: float, down_db: float) -> None:
    with pytest.raises(Unusable) as declined:
        reading(echo(after_s, down_db))
    assert declined.value.code == "echoes"
    assert declined.value.said.numbers["after_s"] == pytest.approx(after_s, abs=0.002)
    assert declined.value.said.numbers["down_db"] == pytest.approx(down_db, abs=1.0)


@pytest.mark.grid(1)
@pytest.mark.parametrize(("t60_s", "down_db"), [(t, d) for t in (0.45, 1.0, 2.5) for d in (20.0, 28.0)] + [(1.0, 35.0)])
def test_a_faint_reverb_is_no_breakup(t60_s: float, down_db: float) -> None:
    with declines(Unusable, "sounds_on", "echoes"):
        reading(reverb(t60_s, down_db))


def test_a_room_around_a_near_microphone_is_read_and_breaks_nothing_up() -> None:
    report = reading(reverb(0.4, 28.0, 0.004))
    assert refusals(report, "breakup_dbfs") == {"never"}


# --- compressors, gates, dry paths


def compressor(threshold_db: float, release_s: float, ratio: float = 4.0) -> Device:
    squeeze = Compressing(threshold_db=threshold_db, ratio=ratio, release_s=release_s)
    return lambda x: squeeze.process(x.astype(np.float32)).astype(np.float64)


@pytest.mark.grid(2)
@pytest.mark.parametrize(("threshold_db", "release_s"), [(-35.0, 0.3), (-25.0, 0.6), (-35.0, 1.0)])
def test_a_compressor_that_lets_go_slowly_is_read_as_if_rested(release_s: float, threshold_db: float) -> None:
    recorder = Recorder(7, plain=True)
    clip = recorder.record(compressor(threshold_db, release_s)(sent_samples("all")))
    report = device_report(as_written("all"), clip)
    level = 20 * np.log10(recorder.scale)
    squeezed = report.results.parts("compressor")
    assert report.results.number("gain_db") == pytest.approx(level, abs=GAIN_DB)
    assert squeezed["threshold_dbfs"] == pytest.approx(threshold_db, abs=THRESHOLD_DB)
    assert squeezed["ratio"] == pytest.approx(4.0, rel=RATIO_SHARE)
    assert report.results.number("transparency_db") == pytest.approx(0.0, abs=0.1)
    assert report.results.parts("response_db")["1000"] == pytest.approx(level, abs=0.4)


def gate(threshold_db: float) -> Device:
    """Opens in 2 ms, closes with 100 ms."""

    def through(x: Floats) -> Floats:
        envelope = scipy.ndimage.maximum_filter1d(np.abs(x), round(0.05 * RATE_HZ))
        wanted = (envelope > 10 ** (threshold_db / 20)).astype(float)
        opened = scipy.signal.lfilter([1 - np.exp(-1 / 96)], [1, -np.exp(-1 / 96)], wanted)
        closed = scipy.signal.lfilter([1 - np.exp(-1 / 4800)], [1, -np.exp(-1 / 4800)], wanted)
        return x * np.maximum(opened, np.minimum(closed, 1.0))

    return through


@pytest.mark.parametrize(
    ("device", "code"),
    [(compressor(-35.0, 0.06, 8.0), "compressor"), (compressor(-30.0, 0.03, 3.0), "compressor"),
     (compressor(-40.0, 0.02, 20.0), "compressor"), (gate(-30.0), "gate"), (gate(-35.0), "gate")],
)  # fmt: skip
def test_what_only_moves_the_gain_does_not_break_up_in_playing(device: Device, code: str) -> None:
    report = reading(device, "ladder")
    assert refusals(report, "played_breakup_dbfs") == {code}


@pytest.mark.certify
def test_what_bends_the_wave_still_breaks_up_in_playing() -> None:
    """The other side: none of the bench's drives is taken for a compressor or a gate."""
    for name in ("mid-hump", "transparent", "hard-clip", "fuzz", "octave-fuzz", "treble-boost", "scooped"):
        report = reading(lambda x, one=name: PEDALS[one].render(x.astype(np.float32), {}).astype(np.float64), "ladder")  # type: ignore[misc]
        assert not refusals(report, "played_breakup_dbfs") & {"compressor", "gate"}, name


@pytest.mark.grid(1)
@pytest.mark.parametrize(("threshold_db", "ratio", "dry"), [(-35.0, 4.0, 0.2), (-20.0, 2.5, 0.5), (-35.0, 4.0, 0.5)])
def test_a_dry_path_is_told_and_the_squeezed_one_read(threshold_db: float, ratio: float, dry: float) -> None:
    squeeze = compressor(threshold_db, 0.15, ratio)
    report = reading(lambda x: dry * x + (1 - dry) * squeeze(x), plain=True)
    found = report.results.parts("compressor")
    assert found["dry_percent"] == pytest.approx(100 * dry, abs=2.0)
    assert found["ratio"] == pytest.approx(ratio, rel=2 * RATIO_SHARE)
    assert found["threshold_dbfs"] == pytest.approx(threshold_db, abs=THRESHOLD_DB)
    assert report.results["compressor.ratio"].flag is not None


def test_a_dry_path_out_of_step_is_refused() -> None:
    squeeze = compressor(-35.0, 0.15)
    report = reading(lambda x: 0.5 * np.pad(x, (24, 0))[: len(x)] + 0.5 * squeeze(x), plain=True)
    assert report.results.code("compressor.ratio") == "no_single_slope"
    assert "dynamics_kept_percent" in report.results.parts("compressor")


# --- dirt at no overtone


def held(x: Floats) -> Floats:
    """Sampled at 6.9 kHz and held: images all over."""
    return np.repeat(x[::7], 7)[: len(x)]


def octave_below(x: Floats) -> Floats:
    flips = np.cumsum(np.diff(np.sign(x), prepend=0.0) > 0) % 2 * 2 - 1
    envelope = np.abs(scipy.signal.hilbert(np.pad(x, (0, -len(x) % (1 << 16)))))[: len(x)]
    return x + 0.3 * scipy.signal.lfilter(*scipy.signal.butter(2, 800.0, fs=RATE_HZ), flips * envelope)


def ring(x: Floats) -> Floats:
    return 0.7 * x + 0.3 * x * np.sin(2 * np.pi * 487.3 * np.arange(len(x)) / RATE_HZ)


@pytest.mark.grid(1)
@pytest.mark.parametrize("device", [held, octave_below, ring], ids=lambda one: one.__name__)
def test_dirt_at_no_overtone_is_not_called_clean(device: Device) -> None:
    report = reading(device)
    assert refusals(report, "breakup_dbfs") == {"inharmonic"}
    assert report.results.code("thd_max_percent") == "inharmonic"


# --- what the recorder did


def test_a_level_that_rests_beside_zero_is_no_answer_of_the_device() -> None:
    for part, key in (("ladder", "played_breakup_dbfs"), ("tones", "breakup_dbfs")):
        report = reading(wire, part, after=lambda clip: Clip.of(clip.samples + 1e-3, RATE_HZ))  # type: ignore[arg-type]
        assert refusals(report, key) == {"never"}


def jump(x: Floats) -> Floats:
    return x * np.where(np.arange(len(x)) > 0.55 * len(x), 10 ** (3 / 20), 1.0)


def drift(x: Floats) -> Floats:
    return x * 10 ** (np.linspace(0.0, 1.5, len(x)) / 20)


def automatic(x: Floats) -> Floats:
    slow = Compressing(threshold_db=-30.0, ratio=3.0, attack_s=0.3, release_s=3.0)
    return slow.process(x.astype(np.float32)).astype(np.float64)


@pytest.mark.grid(1)
@pytest.mark.parametrize("part", ["tones", "sweep", "chords", "ladder"])
@pytest.mark.parametrize("device", [jump, drift, automatic], ids=lambda one: one.__name__)
def test_a_level_that_moves_between_the_slates_is_told(device: Device, part: PartName) -> None:
    with declines(Unusable, "level_moved", "level_wavers"):
        reading(device, part)


@pytest.mark.parametrize("top", [0.999, 0.99])
def test_a_recorder_that_clips_just_below_full_scale_is_told(top: float) -> None:
    def clip(one: Clip) -> Clip:
        return Clip.of(np.clip(one.samples / np.max(np.abs(one.samples)) * 1.4, -top, top), RATE_HZ)

    with declines(Unusable, "clipped"):
        reading(wire, after=clip)


# --- what was given or withheld wrongly


def test_chords_that_ring_have_no_low_tightness() -> None:
    starts = [0.5 + 0.3 * n for n in range(8)]
    ringing, muted = (plucks(starts, 98.0, decay, 3.5) for decay in (8.0, 120.0))
    assert low_tightness_ms(Material(Clip.of(ringing, RATE_HZ))).refusal.code == "rings_on"  # type: ignore[union-attr]
    assert low_tightness_ms(Material(Clip.of(muted, RATE_HZ))).value is not None


@pytest.mark.parametrize("sign", [1, -1])
@pytest.mark.parametrize(("hz", "order"), [(500.0, 1), (1500.0, 1), (2600.0, 1), (800.0, 2)])
def test_a_treble_boost_has_a_polarity(hz: float, order: int, sign: int) -> None:
    numbers = scipy.signal.butter(order, hz, "highpass", fs=RATE_HZ)
    clip = Recorder(3, plain=True).record(sign * 6 * scipy.signal.lfilter(*numbers, sent_samples("sweep")))
    file = as_written("sweep")
    best, _ = responses.most_linear(read_sweeps(read_returned(clip, file), file))
    assert responses.polarity(best).value == sign


def test_every_breakup_that_has_a_value_has_a_band() -> None:
    """Near the noise, too, where it once was missing: the band then is wide."""
    report = reading(shaped(lambda x: np.tanh(3 * x)), snr_db=42.0, plain=True)
    parts = {key: one for key, one in report.results.items() if key.startswith("breakup_dbfs.")}
    assert all(one.band for one in parts.values() if one.value is not None and not one.bound)
    assert (parts["breakup_dbfs.1"].band or 0) > 3 * (parts["breakup_dbfs.3"].band or 0)


@pytest.mark.parametrize("low", [0.0, 1.0], ids=["hiss", "rumble"])
def test_the_band_of_the_noise_holds_19_times_in_20(low: float) -> None:
    rng = np.random.default_rng(4)
    answer = read_returned(Recorder(7).record(sent_samples("bursts")), as_written("bursts"))
    quiet = answer.plan.of("noise")[0]
    first, last = (round((at + 0.25) * RATE_HZ) for at in (quiet.start_s, quiet.end_s))
    hz = np.fft.rfftfreq(2 * (last - first), 1 / RATE_HZ)
    values, bands = [], []
    for _ in range(80):
        hiss = np.fft.rfft(rng.standard_normal(2 * (last - first))) / np.maximum(hz, 1.0) ** (low / 2)
        answer.signal[first:last] = 1e-3 * np.fft.irfft(hiss)[: last - first]
        values.append(steady.noise_dbfs(answer))
        bands.append(1.96 * 2**0.5 * 4.343 * steady.noise_scatter(answer))
    inside = [abs(a - b) <= np.mean(bands) for i, a in enumerate(values) for b in values[:i]]
    assert 0.92 <= np.mean(inside) <= 1.0
    assert np.mean(bands) < 6 * np.std(values)


# --- what follows the playing, or moves by itself


@pytest.mark.parametrize("device", [MOVING["auto-wah"].through, STILL["gate"]], ids=["auto-wah", "gate"])
def test_what_follows_the_level_without_bending_a_wave_has_no_breakup_and_no_response(device: Device) -> None:
    report = reading(device, "ladder")
    assert refusals(report, "played_breakup_dbfs") <= {"follows", "gate"}
    assert all(report.results[f"played_breakup_dbfs.{percent}"].value is None for percent in (3, 10))
    assert reading(lambda x: np.tanh(1.2 * x), "ladder").results["played_breakup_dbfs.3"].value is not None


@pytest.mark.certify
@pytest.mark.parametrize("name", sorted(MOVING))
def test_nothing_that_moves_or_repeats_gets_a_breakup(name: str) -> None:
    try:
        report = reading(MOVING[name].through, "ladder")
    except Unusable:
        return
    onsets = [key for key in report.results if key.startswith("played_breakup_dbfs.")]
    assert onsets
    assert all(report.results[key].value is None for key in onsets)
