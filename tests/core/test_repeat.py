"""Repeatability and drift: what simulated players are known to do is recovered, and tails after a stop are told."""

from __future__ import annotations

import numpy as np
import pytest
import scipy.signal

from cata.core.bench.chain import ChainSettings, record
from cata.core.clip import Clip
from cata.core.match.cells import cell_of
from cata.core.match.features import features_of
from cata.core.match.repeat import Repeatability, drift, moved_beyond, repeatability, without_drift
from cata.core.match.room import fall_of, levels_of
from cata.core.match.rules.flight import audit_table
from cata.core.measure.analysis import analyse_material
from cata.core.measure.material import Material
from cata.core.measure.onsets import onsets_of
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
def test_a_room_lets_less_fall_where_the_playing_stops(phrase: str, t60_s: float) -> None:
    dry = record(ChainSettings(phrase=phrase, pedal="mid-hump"))
    assert fall(dry) > 20.0
    assert fall(wet(dry, t60_s)) < fall(dry) - 10.0


def fall(clip: Clip) -> float:
    material = Material(clip)
    return fall_of(levels_of(material), onsets_of(material))


def test_a_note_that_rings_on_tells_nothing_of_the_room() -> None:
    assert fall(record(ChainSettings(phrase="lead-line"))) < 20.0


@pytest.mark.certify
def test_reverb_on_one_take_is_looked_at_and_on_all_is_none() -> None:
    dry = [record(ChainSettings(phrase="offbeat", pedal=pedal)) for pedal in ("bypass", "mid-hump", "transparent")]

    def rules(clips: list[Clip]) -> list[tuple[str, int]]:
        cells = []
        for index, clip in enumerate(clips):
            material = Material(clip, lead_in_s=0.6)
            found = cell_of(index, index, 0, f"C{index}", "T", features_of(material), analyse_material(material))
            assert found is not None
            cells.append(found)
        return [(f.rule, f.take) for f in audit_table(cells)]

    assert rules(dry) == []
    assert rules([dry[0], wet(dry[1], 1.2), dry[2]]) == [("wet_tail", 1)]
    assert rules([wet(clip, 1.2) for clip in dry]) == []
