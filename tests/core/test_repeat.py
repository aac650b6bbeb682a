"""Repeatability and drift: what simulated players are known to do is recovered, and tails after a stop are told."""

from __future__ import annotations

import numpy as np
import pytest
import scipy.signal

from cata.core.bench.chain import ChainSettings, record
from cata.core.clip import Clip
from cata.core.match.audit import audit_test
from cata.core.match.evidence import Source, TakeEvidence
from cata.core.match.features import features_of
from cata.core.match.repeat import Repeatability, drift, moved_beyond, repeatability, without_drift
from cata.core.match.room import levels_of, tail_of
from cata.core.measure.material import Material
from cata.core.measure.results import Results
from tests.tolerances import RECOVERED_SHARE
from tests.tones import value


@pytest.mark.parametrize("cells", [8, 20])
@pytest.mark.parametrize("sd", [0.05, 0.6, 40.0])
def test_the_variation_of_a_player_is_recovered(cells: int, sd: float) -> None:
    rng = np.random.default_rng(cells)
    groups = [(rng.normal(rng.uniform(-9, 9) * sd, sd, 6)).tolist() for _ in range(cells)]
    found = repeatability(groups)
    assert found is not None
    assert found.freedom == 5 * cells
    assert found.sd == pytest.approx(sd, rel=RECOVERED_SHARE)
    assert found.band == pytest.approx(2 * found.sd)


def test_few_repeats_are_right_on_average() -> None:
    rng = np.random.default_rng(3)
    pairs = [repeatability([rng.normal(0, 1, 2).tolist()]) for _ in range(4000)]
    assert np.mean([p.sd for p in pairs if p is not None]) == pytest.approx(1.0, rel=0.03)


def test_without_a_repeat_nothing_is_claimed() -> None:
    assert repeatability([[1.0], [2.0]]) is None
    assert drift([1.0], [0.0]) is None
    assert drift([1.0, 2.0], [3.0, 3.0]) is None


@pytest.mark.parametrize("slope", [-3.0, 0.8])
def test_a_drift_over_the_session_is_recovered_and_taken_out(slope: float) -> None:
    rng = np.random.default_rng(5)
    places = np.linspace(0, 36, 9)
    values = 50 + slope * places / 36 + rng.normal(0, 0.05, 9)
    found = drift(values.tolist(), places.tolist())
    assert found is not None
    assert found.change == pytest.approx(slope, rel=RECOVERED_SHARE)
    assert moved_beyond(found, values.tolist(), jnd=0.5)
    still = without_drift(values.tolist(), places.tolist(), found)
    assert repeatability([still]).sd == pytest.approx(0.05, rel=0.5)  # type: ignore[union-attr]


def test_scatter_is_no_drift() -> None:
    rng = np.random.default_rng(8)
    called = 0
    for _ in range(500):
        values = rng.normal(0, 0.6, 3).tolist()
        found = drift(values, [0.0, 18.0, 36.0])
        assert found is not None
        called += moved_beyond(found, values, jnd=1.0)
    assert called < 40


@pytest.mark.certify
def test_a_simulated_players_level_is_recovered_through_the_whole_reading() -> None:
    """Takes whose level is known to vary, recorded with unsteady hands and read as any take is."""
    gains = np.random.default_rng(12).normal(-3, 1.2, 12)
    levels = [
        value("loudness_lufs", record(ChainSettings(phrase="offbeat", player=0.3, seed=i, gain_db=gain)).samples)
        for i, gain in enumerate(gains)
    ]
    found = repeatability([levels])
    assert isinstance(found, Repeatability)
    assert found.sd == pytest.approx(np.std(gains, ddof=1), rel=RECOVERED_SHARE)


def wet(clip: Clip, t60_s: float) -> Clip:
    t = np.arange(48_000) / 48_000
    room = np.random.default_rng(1).normal(0, 1, 48_000) * 10 ** (-3 * t / t60_s)
    room *= 0.25 / np.sqrt((room**2).sum())
    return Clip.of(clip.samples[0] + scipy.signal.oaconvolve(clip.samples[0], room)[: clip.length], clip.rate_hz)


@pytest.mark.grid(1)
@pytest.mark.parametrize("phrase", ["offbeat", "muted-riff", "soft-to-hard"])
@pytest.mark.parametrize("t60_s", [0.7, 1.5])
def test_the_room_after_a_stop_is_measured(phrase: str, t60_s: float) -> None:
    dry = record(ChainSettings(phrase=phrase, pedal="mid-hump"))
    plain, roomy = tail_of(levels_of(Material(dry))), tail_of(levels_of(Material(wet(dry, t60_s))))
    assert plain is not None
    assert plain.t60_s < 0.4
    assert roomy is not None
    assert roomy.t60_s == pytest.approx(t60_s, rel=0.25)


def test_a_note_that_rings_on_tells_nothing_of_the_room() -> None:
    assert tail_of(levels_of(Material(record(ChainSettings(phrase="lead-line"))))) is None


@pytest.mark.certify
def test_reverb_on_one_take_is_a_fault_and_on_all_is_none() -> None:
    dry = [record(ChainSettings(phrase="offbeat", pedal=pedal)) for pedal in ("bypass", "mid-hump", "transparent")]

    def rules(clips: list[Clip]) -> list[tuple[str, int]]:
        takes = [
            TakeEvidence(
                i, f"T{i}", features_of(Material(c, lead_in_s=0.6)), Results(), Source("PCM_24", False, 48000, 1)
            )
            for i, c in enumerate(clips)
        ]
        return [(f.rule, f.take) for f in audit_test(takes).findings if f.rule == "wet_tail"]

    assert rules(dry) == []
    assert rules([dry[0], wet(dry[1], 1.2), dry[2]]) == [("wet_tail", 1)]
    assert rules([wet(clip, 1.2) for clip in dry]) == []
