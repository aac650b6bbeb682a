"""Whole reports: compressors, refusals, the loop-back, playing, and bands that keep what they promise."""

from __future__ import annotations

import itertools

import numpy as np
import numpy.typing as npt
import pytest
import scipy.signal

from cata.core.bench.compressing import Compressing, static_gain_db
from cata.core.bench.curves import soft, uneven
from cata.core.bench.pedals import PEDALS
from cata.core.clip import Clip
from cata.core.measure.device.report import Report
from cata.core.measure.device.returned import Unusable, as_written, read_sent
from cata.core.measure.device.whole import device_report
from cata.core.signals.slate import SlateMark, slate
from cata.core.signals.testfile.layout import MARKS, PartName, layout
from cata.core.signals.testfile.waves import sent_file
from cata.core.workshop.coil import with_cable
from tests.conftest import declines
from tests.outside import RATE_HZ, Recorder, sent_samples, shaped
from tests.tolerances import RATIO_SHARE, THRESHOLD_DB, TIMES_SHARE

Floats = npt.NDArray[np.float64]

COMPRESSORS = [
    {"threshold_db": float(t), "ratio": r, "knee_db": k, "attack_s": a, "release_s": d}
    for t, r, k, a, d in (
        (-25, 4.0, 6.0, 0.010, 0.150), (-35, 8.0, 10.0, 0.003, 0.060), (-20, 2.5, 0.0, 0.030, 0.300),
        (-30, 3.0, 4.0, 0.005, 0.100), (-28, 5.0, 2.0, 0.015, 0.200), (-22, 6.0, 8.0, 0.008, 0.120),
        (-33, 2.0, 6.0, 0.020, 0.250), (-18, 10.0, 6.0, 0.004, 0.080), (-26, 4.0, 0.0, 0.012, 0.180),
        (-24, 3.5, 12.0, 0.006, 0.090), (-30, 12.0, 3.0, 0.010, 0.140), (-21, 3.0, 5.0, 0.025, 0.220),
        (-27, 7.0, 7.0, 0.018, 0.160), (-34, 4.0, 6.0, 0.009, 0.110), (-23, 2.2, 4.0, 0.014, 0.130),
        (-29, 5.5, 9.0, 0.007, 0.170), (-19, 4.5, 3.0, 0.011, 0.190), (-31, 6.5, 5.0, 0.016, 0.070),
        (-25, 3.2, 8.0, 0.022, 0.210), (-32, 9.0, 4.0, 0.013, 0.240),
    )
]  # fmt: skip


def both_parts(through: Compressing, seed: int) -> tuple[Report, Report]:
    reports = []
    parts: tuple[PartName, PartName] = ("tones", "bursts")
    for part in parts:
        out = through.process(sent_samples(part).astype(np.float32)).astype(np.float64)
        reports.append(device_report(as_written(part), Recorder(seed).record(out)))
    return reports[0], reports[1]


@pytest.mark.grid(1)
@pytest.mark.parametrize("known", COMPRESSORS[::2], ids=lambda k: f"{k['threshold_db']:.0f} dB {k['ratio']}:1")
def test_compressors_give_back_their_constants(known: dict[str, float]) -> None:
    tones, bursts = both_parts(Compressing(**known, makeup_db=4.0), seed=int(known["ratio"] * 10))
    found, times = tones.results.readings["compressor"], bursts.results.readings["compressor"]
    assert isinstance(found, dict)
    assert isinstance(times, dict)
    assert found["threshold_dbfs"] == pytest.approx(known["threshold_db"], abs=THRESHOLD_DB)
    assert found["ratio"] == pytest.approx(known["ratio"], rel=RATIO_SHARE)
    assert found["knee_db"] == pytest.approx(known["knee_db"], abs=1.0)
    low, high = static_gain_db(np.array([-30.0, 0.0]), known["threshold_db"], known["ratio"], known["knee_db"])
    assert found["dynamics_kept_percent"] == pytest.approx(100 * (30 + high - low) / 30, abs=1.0)
    assert times["attack_ms"] == pytest.approx(1000 * known["attack_s"], rel=TIMES_SHARE, abs=0.5)
    assert times["release_ms"] == pytest.approx(2303 * known["release_s"], rel=TIMES_SHARE)


@pytest.mark.certify
@pytest.mark.parametrize(("dry", "kept"), [(0.0, 50.0), (0.25, 72.2), (0.5, 84.7)])
def test_the_dry_signal_gives_dynamics_back(dry: float, kept: float) -> None:
    sent = sent_samples("tones")
    squeezed = Compressing(threshold_db=-20.0, ratio=4.0, knee_db=0.0).process(sent.astype(np.float32))
    report = device_report(as_written("tones"), Recorder(5).record(dry * sent + (1 - dry) * squeezed))
    found = report.results.readings["compressor"]
    assert isinstance(found, dict)
    assert found["dynamics_kept_percent"] == pytest.approx(kept, abs=0.6)


# --- what is refused


def wavering(x: Floats, cents_or_db: str) -> Floats:
    t = np.arange(len(x)) / RATE_HZ
    if cents_or_db == "tremolo":
        return x * (1 + 0.4 * np.sin(2 * np.pi * 5.0 * t))
    place = np.arange(len(x)) - RATE_HZ * (0.006 + 0.0015 * np.sin(2 * np.pi * 0.9 * t))
    return 0.6 * x + 0.6 * np.interp(place, np.arange(len(x)), x)


def echoing(x: Floats, after_s: float) -> Floats:
    late = round(after_s * RATE_HZ)
    return x + 0.4 * np.concatenate((np.zeros(late), x[:-late]))


def reverberant(x: Floats) -> Floats:
    tail = np.random.default_rng(2).standard_normal(RATE_HZ) * 10 ** (-3 * np.arange(RATE_HZ) / RATE_HZ / 1.2) * 0.006
    tail[0] = 1.0
    return scipy.signal.oaconvolve(x, tail)[: len(x)]


PART: PartName = "chords"


def good(part: PartName = PART) -> Floats:
    return shaped(lambda x: np.tanh(3 * x))(sent_samples(part))


def recorded(through: Floats, **how: object) -> Clip:
    return Recorder(7, **how).record(through)  # type: ignore[arg-type]


def clipped(clip: Clip) -> Clip:
    return Clip.of(np.clip(clip.samples * 6, -1, 1 - 2**-23), RATE_HZ)


def two_channels(clip: Clip) -> Clip:
    return Clip.of(np.stack([clip.samples[0], np.roll(clip.samples[0], 480) * 0.5 + white(clip.length)]), RATE_HZ)


def white(count: int) -> Floats:
    return np.random.default_rng(3).standard_normal(count) * 0.01


def of_a_take() -> Clip:
    mark = slate(SlateMark(12), RATE_HZ).samples[0]
    return Clip.of(np.concatenate((white(48000) * 0.01, mark, white(20 * 48000))), RATE_HZ)


REFUSED = {
    "clipped interface": (lambda: clipped(recorded(good())), "clipped"),
    "no slate at all": (lambda: Clip.of(white(RATE_HZ * 30), RATE_HZ), "no_slate"),
    "shorter than the file": (lambda: Clip.of(white(RATE_HZ * 5), RATE_HZ), "shorter_than_file"),
    "cut off at the end": (lambda: Clip.of(recorded(good()).samples[:, : 20 * RATE_HZ], RATE_HZ), "no_closing_slate"),
    "begun too late": (lambda: Clip.of(recorded(good()).samples[:, 3 * RATE_HZ :], RATE_HZ), "no_opening_slate"),
    "another part": (lambda: recorded(good("bursts")), "other_part"),
    "a take of a flight": (of_a_take, "slate_of_a_take"),
    "two different channels": (lambda: two_channels(recorded(good())), "two_channels"),
    "too much noise": (lambda: recorded(good(), snr_db=24.0), "noise"),
    "tremolo": (lambda: recorded(wavering(good(), "tremolo")), "level_wavers"),
    "chorus": (lambda: recorded(wavering(good(), "chorus")), "level_wavers|pitch_wavers"),
    "a short echo": (lambda: recorded(echoing(good(), 0.12)), "sounds_on|echoes"),
    "a long echo": (lambda: recorded(echoing(good(), 0.45)), "echoes"),
    "reverb": (lambda: recorded(reverberant(good())), "sounds_on"),
    "cut in the middle": (
        lambda: Clip.of(np.delete(recorded(good()).samples, np.s_[500_000:548_000], axis=1), RATE_HZ), "cut"),
    "not a number": (lambda: Clip.of(np.where(np.arange(1_200_000) == 9e5, np.nan, 0.1), RATE_HZ), "no_numbers"),
}  # fmt: skip


@pytest.mark.grid(4)
@pytest.mark.parametrize("name", REFUSED)
def test_what_would_make_every_reading_wrong_is_refused_with_its_reason(name: str) -> None:
    make, codes = REFUSED[name]
    with declines(Unusable, *codes.split("|")):
        device_report(as_written(PART), make())


def test_one_live_channel_of_two_is_taken_and_a_chosen_one_too() -> None:
    clip = recorded(good())
    lone = Clip.of(np.stack([white(clip.length) * 1e-3, clip.samples[0]]), RATE_HZ)
    report = device_report(as_written(PART), lone)
    assert [(note.code, note.numbers) for note in report.notes] == [("one_live_channel", {"channel": 2})]
    chosen = device_report(as_written(PART), two_channels(clip), channel=0)
    assert chosen.results.number("chord_clarity_db") == pytest.approx(
        report.results.number("chord_clarity_db"), abs=0.1
    )
    upside_down = device_report(as_written(PART), Clip.of(np.stack([clip.samples[0], -clip.samples[0]]), RATE_HZ))
    assert upside_down.results.number("chord_clarity_db") == pytest.approx(
        report.results.number("chord_clarity_db"), abs=0.1
    )
    with declines(Unusable, "no_channel"):
        device_report(as_written(PART), clip, channel=1)


def test_the_file_sent_is_known_at_any_level_and_rate_but_not_when_it_was_changed() -> None:
    for rate in (44_100, 96_000):
        clip = sent_file("bursts", rate)
        quieter = Clip.of(clip.samples * 0.5, rate)
        assert read_sent(quieter).level_db == pytest.approx(-6.02, abs=0.01)
    samples = sent_file("bursts").samples.copy()
    with declines(Unusable, "sent_changed"):
        read_sent(Clip.of(np.tanh(samples * 3), RATE_HZ))
    with declines(Unusable, "no_test_file"):
        read_sent(Clip.of(white(RATE_HZ), RATE_HZ))
    with declines(Unusable, "sent_cut"):
        read_sent(Clip.of(samples[:, : 5 * RATE_HZ], RATE_HZ))


def test_every_part_keeps_within_its_time_and_its_own_number() -> None:
    assert layout("all").length_s < 90
    assert len(set(MARKS.values())) == len(MARKS)
    for part in MARKS:
        sections = layout(part).sections
        assert all(a.end_s < b.start_s for a, b in itertools.pairwise(sections))


@pytest.mark.certify
def test_a_loopback_takes_the_interface_out() -> None:
    interface = scipy.signal.butter(1, 150.0, "highpass", fs=RATE_HZ)
    through = PEDALS["transparent"].render(sent_samples("sweep").astype(np.float32), {"drive": 0.0, "bass": 0.9})
    coloured = scipy.signal.lfilter(*interface, through)
    cable = scipy.signal.lfilter(*interface, sent_samples("sweep"))
    alone = device_report(as_written("sweep"), Recorder(3).record(through.astype(np.float64)))
    loop = Recorder(4).record(cable)
    corrected = device_report(as_written("sweep"), Recorder(5).record(coloured), loopback=loop)
    uncorrected = device_report(as_written("sweep"), Recorder(5).record(coloured))
    for key in ("transparency_db", "low_end_loss_db"):
        assert corrected.results.readings[key] == pytest.approx(alone.results.readings[key], abs=0.1)
        assert key not in corrected.results.flags
    assert abs(uncorrected.results.readings["low_end_loss_db"] - alone.results.readings["low_end_loss_db"]) > 0.5
    assert corrected.results.readings["polarity"] == Recorder(5).sign * Recorder(4).sign
    with declines(Unusable, "loopback_shorter_than_file"):
        device_report(as_written("sweep"), Recorder(5).record(coloured), loopback=Clip.of(white(90000), RATE_HZ))


@pytest.mark.certify
def test_a_coil_is_read_against_a_flat_reference_and_not_without() -> None:
    coil = with_cable(4.5, 8200, 130, cable_m=5.0, volume_ohm=500e3, tone_ohm=500e3)
    sent = sent_samples("sweep")
    x = np.fft.rfftfreq(1 << 21, 1 / RATE_HZ) / coil.resonance_hz
    # The sweep coil induces more the higher the pitch; so does it in the wire loop that is the reference.
    induced = np.fft.rfft(sent, 1 << 21) * np.minimum(x, 4.0)
    out, reference = (
        np.fft.irfft(one, 1 << 21)[: len(sent)] for one in (induced / (1 - x * x + 1j * x / coil.q), induced)
    )
    report = device_report(as_written("sweep"), Recorder(2).record(out), loopback=Recorder(3).record(reference))
    found = report.results.readings["resonance"]
    assert isinstance(found, dict)
    assert found["resonance_hz"] == pytest.approx(coil.resonance_hz, rel=0.01)
    assert found["q"] == pytest.approx(coil.q, rel=0.03)
    alone = device_report(as_written("sweep"), Recorder(2).record(out))
    assert alone.results.code("resonance") == "no_flat_reference"


@pytest.mark.certify
@pytest.mark.parametrize(("drive", "onset"), [(3.0, -6.2), (6.0, -12.2), (10.0, -16.6)])
def test_breakup_in_playing_follows_the_drive(drive: float, onset: float) -> None:
    out = shaped(lambda x: np.clip(drive * x, -1, 1))(sent_samples("ladder"))
    report = device_report(as_written("ladder"), Recorder(8).record(out))
    found = report.results.readings["played_breakup_dbfs"]
    assert isinstance(found, dict)
    assert found["3"] == pytest.approx(onset, abs=1.0)
    assert "breakup_dbfs" not in report.results.readings  # of playing, never mixed with that of tones


def test_a_compressor_in_playing_is_not_taken_for_a_clipper() -> None:
    out = Compressing(threshold_db=-25.0, ratio=4.0).process(sent_samples("ladder").astype(np.float32))
    report = device_report(as_written("ladder"), Recorder(8).record(out.astype(np.float64)))
    assert report.results.code("played_breakup_dbfs") == "compressor"


@pytest.mark.certify
def test_bands_of_sweeps_and_chords_hold_19_times_in_20() -> None:
    inside = total = 0
    for part, curve in (("sweep", uneven(0.4, 0.9)), ("chords", soft(0.5))):
        through = shaped(lambda x, c=curve: c.value(x.astype(np.float64)))(sent_samples(part))  # type: ignore[misc]
        reports = [device_report(as_written(part), Recorder(s, plain=True).record(through)) for s in range(10)]  # type: ignore[arg-type]
        both = reports[0].results.bands.keys() & reports[1].results.bands.keys()
        keys = [key for key in both if key.split(".")[0] in ("response_db", "chords_db", "noise_dbfs")]
        for key in keys:
            values = [value_of(report, key) for report in reports]
            band = np.mean([report.results.bands[key] for report in reports])
            pairs = [(a, b) for i, a in enumerate(values) for b in values[:i]]
            inside += sum(abs(a - b) <= band for a, b in pairs)
            total += len(pairs)
    assert total > 1000
    assert 0.92 <= inside / total <= 1.0


@pytest.mark.certify
@pytest.mark.parametrize("bend", [1.4, 2.2])
def test_bands_of_a_chord_near_the_noise_grow_with_it(bend: float) -> None:
    """Hardly any dirt between the notes: how well the silence tells the noise is then most of the doubt."""
    through = shaped(lambda x: soft(bend).value(x.astype(np.float64)))(sent_samples("chords"))
    reports = [device_report(as_written("chords"), Recorder(s, plain=True).record(through)) for s in range(9)]
    inside = []
    for key in ("chords_db.third", "chords_db.fifth", "chords_db.triad"):
        values = [value_of(report, key) for report in reports]
        band = float(np.mean([report.results.bands[key] for report in reports]))
        assert np.mean(values) < -50
        assert band < 2.0
        inside += [abs(a - b) <= band for i, a in enumerate(values) for b in values[:i]]
    assert np.mean(inside) >= 0.92
    # Played softly nothing stands clear of the noise: a bound, and a bound has no band.
    assert reports[0].results["chords_db.soft third"].bound == "at_most"
    assert "chords_db.soft third" not in reports[0].results.bands


def value_of(report: Report, key: str) -> float:
    name, _, part = key.partition(".")
    found = report.results.readings[name]
    return float(found[part]) if isinstance(found, dict) else float(found)  # type: ignore[arg-type]
