"""The demo as data: stored whole and once, its faults where they are meant to be."""

from __future__ import annotations

import pytest

from cata.core.bench.chain import ChainSettings
from cata.demo import scenario
from cata.demo.seed import chain_of, is_seeded, seed, start_settings
from cata.services.standing.flight import get_flight
from cata.services.together.beds import list_beds
from cata.services.workspace import Workspace


def test_the_demo_is_stored_whole_and_once(ws: Workspace, monkeypatch: pytest.MonkeyPatch) -> None:
    small = scenario.DemoFlight(
        name="Small",
        question="",
        link="pedal",
        held="",
        contenders=(("bypass", "No pedal", True), ("mid-hump", "", False)),
        tests=(scenario.DemoTest(name="Offbeat", phrase="offbeat"),),
    )
    monkeypatch.setattr("cata.demo.seed.FLIGHTS", (small,))
    told: list[tuple[int, int]] = []
    assert not is_seeded(ws)
    seed(ws, lambda done, total: told.append((done, total)))
    assert told == [(1, 2), (2, 2)]
    assert is_seeded(ws)
    view = get_flight(ws, 1)
    assert [c.name for c in view.contenders] == ["No pedal", "Aldermoor Hump"]
    assert view.contenders[0].price_minor == 0
    assert len(view.takes) == 2
    (bed,) = list_beds(ws)
    assert bed.tempo_bpm == 104
    # Eight bars of four: it begins again on the beat.
    assert bed.duration_s == pytest.approx(8 * 4 * 60 / 104, abs=1e-3)


def test_deliberate_faults_are_changes_to_single_cells() -> None:
    clean = chain_of(scenario.PICKUPS, "narrow-single", "Lead line")
    assert clean == ChainSettings(phrase="lead-line", pickup="narrow-single")
    assert chain_of(scenario.PICKUPS, "wide-single", "Lead line").tuning_cents == -100.0
    assert chain_of(scenario.DRIVES, "mid-hump", "Offbeat chords").guitar_volume == 0.8
    assert start_settings("mid-hump") == {"drive": 0.45, "tone": 0.55, "level": 0.3}
    assert start_settings("bypass") == {}
