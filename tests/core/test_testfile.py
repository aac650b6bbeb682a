"""The test file itself: what is sent is what the plan says, at every rate, whole periods and true levels."""

from __future__ import annotations

import numpy as np
import pytest

from cata.core.capture.slates import SEARCH_RATE_HZ, find_slates
from cata.core.resample import to_rate
from cata.core.signals.testfile.layout import LEAD_S, MARKS, PITCH_PERIODS, RATES_HZ, PartName, layout, part_of
from cata.core.signals.testfile.waves import SWEEP_L_S, SWEEP_LOW_HZ, SWEEP_S, amplitude, sent_file, sweep, wave
from cata.errors import Invalid
from tests.conftest import declines


@pytest.mark.grid(3)
@pytest.mark.parametrize("rate", RATES_HZ)
@pytest.mark.parametrize("part", MARKS)
def test_every_part_at_every_rate_is_found_by_its_slates(part: PartName, rate: int) -> None:
    clip = sent_file(part, rate)
    plan = layout(part)
    assert clip.duration_s == pytest.approx(plan.length_s, abs=1e-3)
    assert float(np.max(np.abs(clip.samples))) <= 1.0
    low = to_rate(clip, SEARCH_RATE_HZ).samples[0]
    found = find_slates(low, lambda a, b: clip.cut(round(a * rate), round(b * rate)))
    assert [(one.mark.take, one.mark.closes) for one in found] == [(plan.mark, False), (plan.mark, True)]
    assert found[0].start_s == pytest.approx(LEAD_S, abs=2e-5)
    assert found[1].start_s - found[0].start_s == pytest.approx(plan.closing_s, abs=2e-5)


def test_steps_have_the_levels_and_periods_that_are_written_down() -> None:
    for name, period in PITCH_PERIODS.items():
        section = layout("tones").named(f"tones-{name}")
        assert section is not None
        samples = wave(section, 48_000).astype(np.float64)
        step = round(section.step_s * 48_000)
        for index in (0, len(section.levels_dbfs) // 2, len(section.levels_dbfs) - 1):
            middle = samples[index * step + step // 3 :][: 4 * period]
            line = np.fft.rfft(middle)[4] * 2 / len(middle)
            level = 20 * np.log10(np.abs(line))
            assert level == pytest.approx(section.levels_dbfs[index], abs=0.001)
            assert np.sum(np.abs(np.fft.rfft(middle)[5:]) ** 2) < 1e-9 * np.abs(line) ** 2 * len(middle) ** 2


def test_no_harmonic_that_counts_falls_on_the_mains() -> None:
    for period in PITCH_PERIODS.values():
        harmonics = np.arange(1, 20) * 48_000 / period
        for mains in (50.0, 60.0):
            off = np.abs(harmonics - mains * np.round(harmonics / mains))
            assert np.all(off[harmonics < 1000] > 0.4)


def test_the_harmonics_of_the_sweep_are_the_same_sweep_earlier() -> None:
    assert pytest.approx(round(SWEEP_LOW_HZ * SWEEP_L_S)) == SWEEP_LOW_HZ * SWEEP_L_S
    t = np.linspace(1.0, 4.0, 5001)
    phase = 2 * np.pi * SWEEP_LOW_HZ * SWEEP_L_S * np.exp(t / SWEEP_L_S)
    for order in (2, 3, 5):
        assert np.sin(order * phase) == pytest.approx(sweep(t + SWEEP_L_S * np.log(order)), abs=1e-6)
    assert sweep(np.array([-0.1, SWEEP_S + 0.1])) == pytest.approx([0.0, 0.0])


@pytest.mark.certify
def test_the_ladder_plays_the_same_at_every_strength() -> None:
    section = layout("ladder").named("ladder")
    assert section is not None
    samples = wave(section, 48_000)
    step = round(section.step_s * 48_000)
    steps = [samples[i * step : (i + 1) * step] / amplitude(level) for i, level in enumerate(section.levels_dbfs)]
    for one in steps[1:]:
        assert one == pytest.approx(steps[0], abs=1e-4)
    assert np.max(np.abs(steps[0])) == pytest.approx(1.0, abs=1e-4)


def test_what_is_not_offered_is_refused_by_name() -> None:
    with declines(Invalid, "rate"):
        sent_file("all", 22_050)
    with declines(Invalid, "no_part"):
        layout("noise")  # type: ignore[arg-type]
    assert part_of(12) is None
    assert part_of(MARKS["sweep"]) == "sweep"
