"""Perceived loudness: against another implementation of the standard, at its anchor points, and held equal by gains."""

from __future__ import annotations

import random
import sys
from collections.abc import Callable
from unittest.mock import MagicMock

import numpy as np
import pytest

from cata.core.clip import Audio, Clip
from cata.core.hearing.by_ear import OFFSETS_DB, Curves, gains_by_ear, phon, phon_apart
from cata.core.hearing.zwicker import AT_LUFS, LISTENING_DB, MOMENT_HZ, exceeded, loudness_sone, third_octaves
from cata.core.measure.analysis import analyse_material
from cata.core.measure.material import Material
from tests.corpus.parts import RATE_HZ, Floats, clean_amplifier, cut, pedals
from tests.corpus.playing import play

FULL_SCALE_PA = 2e-5 * 10 ** ((LISTENING_DB - AT_LUFS) / 20)
SECONDS = np.arange(2 * RATE_HZ) / RATE_HZ
NOISE = np.random.default_rng(1).normal(0, 0.03, len(SECONDS))


def _tone(hz: float, peak: float) -> Floats:
    return np.asarray(peak * np.sin(2 * np.pi * hz * SECONDS))


def guitar(device: str = "no pedal", seconds: float = 2.0) -> Floats:
    made = random.Random(4)
    through, amplifier = pedals(made)[device], clean_amplifier(made)
    wet = amplifier(through(play("offbeats", random.Random(5))), 0.0)
    wet = wet[RATE_HZ : RATE_HZ + round(seconds * RATE_HZ)]
    return wet / np.abs(wet).max() * 0.5


SIGNALS: dict[str, Callable[[], Floats]] = {
    "tone": lambda: _tone(1000, 0.05),
    "low tone": lambda: _tone(63, 0.3),
    "high tone": lambda: _tone(8000, 0.02),
    "noise": lambda: NOISE,
    "moving tone": lambda: 0.05 * np.sin(2 * np.pi * (50 * SECONDS + 1500 * SECONDS**2)),
    "tremolo": lambda: _tone(500, 0.08) * (1 + np.sin(2 * np.pi * 4 * SECONDS)) / 2,
    "bursts": lambda: _tone(2000, 0.2) * (SECONDS % 0.5 < 0.03),
    "clean guitar": guitar,
    "fuzz": lambda: guitar("wool"),
    "compressed guitar": lambda: guitar("press"),
}


def n5(samples: Floats, gain_db: float = 0.0) -> float:
    return exceeded(loudness_sone(third_octaves(samples.astype(np.float32)), gain_db))


@pytest.mark.grid(1)
@pytest.mark.parametrize("name", SIGNALS)
def test_another_implementation_of_the_standard_agrees(name: str, monkeypatch: pytest.MonkeyPatch) -> None:
    # The witness imports a plotting library for pictures that nobody draws here.
    for module in ("matplotlib", "matplotlib.pyplot"):
        monkeypatch.setitem(sys.modules, module, MagicMock())
    from mosqito.sq_metrics.loudness.loudness_zwtv.loudness_zwtv import loudness_zwtv  # type: ignore[import-untyped]

    samples = SIGNALS[name]()
    sone = loudness_zwtv(samples.astype(np.float32) * FULL_SCALE_PA, RATE_HZ)[0]
    assert n5(samples) == pytest.approx(float(np.percentile(sone, 95)), rel=0.03)


@pytest.mark.parametrize(("level_db", "sone"), [(40, 1.0), (60, 4.0), (80, 16.0)])
def test_a_tone_of_1_khz_has_the_loudness_that_defines_the_scale(level_db: float, sone: float) -> None:
    samples = _tone(1000, np.sqrt(2) * 2e-5 * 10 ** (level_db / 20) / FULL_SCALE_PA)
    assert n5(samples) == pytest.approx(sone, rel=0.03)
    assert phon(sone) == pytest.approx(level_db, abs=0.5)


def _curves(samples: Audio, loudness_lufs: float) -> Curves:
    levels = third_octaves(samples)
    sone = [loudness_sone(levels, AT_LUFS - loudness_lufs + offset) for offset in OFFSETS_DB]
    return Curves(tuple(one[:: round(0.02 * MOMENT_HZ)].tolist() for one in sone))


@pytest.mark.certify
def test_gains_by_ear_make_takes_equally_loud_to_the_ear() -> None:
    plain, fuzz = guitar("no pedal", 4.0), guitar("wool", 4.0)
    takes = [take.astype(np.float32) for take in (plain, fuzz, cut(plain, 300, "low", 2))]
    loudness = [
        analyse_material(Material(Clip.of(take, RATE_HZ)), ["loudness_lufs"]).number("loudness_lufs") or 0.0
        for take in takes
    ]
    known = [_curves(take, lufs).n5() for take, lufs in zip(takes, loudness, strict=True)]
    gains = gains_by_ear(known)
    assert phon_apart(known) > 3.0
    heard = [n5(take, AT_LUFS - lufs + gain) for take, lufs, gain in zip(takes, loudness, gains, strict=True)]
    assert max(heard) / min(heard) < 1.03


def test_what_is_looped_is_what_counts() -> None:
    soft_then_loud = Curves(tuple([level] * 100 + [4 * level] * 100 for level in (5.0, 10.0, 20.0)))
    assert soft_then_loud.n5(0.0, 2.0) == (5.0, 10.0, 20.0)
    assert soft_then_loud.n5(2.0, 4.0) == (20.0, 40.0, 80.0)
    assert soft_then_loud.n5(30.0, 40.0) == soft_then_loud.n5() == (20.0, 40.0, 80.0)
    assert gains_by_ear([(5.0, 10.0, 20.0), (10.0, 20.0, 40.0), (20.0, 40.0, 80.0)]) == [10.0, 0.0, -10.0]
    assert gains_by_ear([(0.0, 0.0, 0.0), (5.0, 10.0, 20.0)]) == [0.0, 0.0]
