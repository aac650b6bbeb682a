"""The pool survives its workers, and a slow listener never blocks work."""

from __future__ import annotations

import os
from concurrent.futures.process import BrokenProcessPool
from pathlib import Path

import pytest

from cata.demo import scenario
from cata.demo.seed import chain_of, is_seeded, seed, start_settings
from cata.jobs import Bus, Pool, worker_count
from cata.services import benching, flight_view, work
from cata.services.workspace import Workspace


def die() -> None:
    os._exit(9)


def test_a_pool_goes_on_after_a_worker_died() -> None:
    pool = Pool(1)
    with pytest.raises(BrokenProcessPool):
        pool.submit(die).result()
    pool.renew()
    assert pool.submit(work.ready).result() is True
    pool.close()
    assert worker_count() >= 1


def test_a_slow_listener_loses_its_oldest_events_only() -> None:
    bus = Bus()
    with bus.listen() as listener:
        for number in range(Bus.CAPACITY + 10):
            bus.publish({"n": number})
        first = listener.get_nowait()
        assert first == {"n": 10}
        assert listener.qsize() == Bus.CAPACITY - 1
    bus.publish({"n": -1})
    assert listener.qsize() == Bus.CAPACITY - 1


def test_a_worker_says_what_a_file_is_or_why_not(tmp_path: Path) -> None:
    (tmp_path / "a.wav").write_bytes(b"")
    assert work.inspect_file(str(tmp_path / "a.wav"), 60)["code"] == "empty"
    assert work.analyse_file(str(tmp_path / "a.wav"), str(tmp_path / "c.flac"), 0.0)["refused"]
    facts = benching.render_settings({"phrase": "offbeat"}, str(tmp_path / "b.wav"))
    told = work.inspect_file(str(tmp_path / "b.wav"), 60)
    assert (told["rate_hz"], told["channels"], told["codec"]) == (facts["rate_hz"], facts["channels"], facts["codec"])
    assert work.inspect_file(str(tmp_path / "b.wav"), 1.0)["code"] == "too_long"
    result = work.analyse_file(str(tmp_path / "b.wav"), str(tmp_path / "b.flac"), 0.6)
    assert set(result) == {"readings", "flags", "refusals", "copy_gain_db", "outline", "spectrum"}
    assert (tmp_path / "b.flac").exists()
    assert len(result["outline"]) == int(told["duration_s"] * 100)


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
    view = flight_view.get_flight(ws, 1)
    assert [c.name for c in view.contenders] == ["No pedal", "Aldermoor Hump"]
    assert view.contenders[0].price_minor == 0
    assert len(view.takes) == 2


def test_deliberate_faults_are_changes_to_single_cells() -> None:
    clean = chain_of(scenario.PICKUPS, "narrow-single", "Lead line")
    assert clean == {"phrase": "lead-line", "pickup": "narrow-single"}
    assert chain_of(scenario.PICKUPS, "wide-single", "Lead line")["tuning_cents"] == -100.0
    assert chain_of(scenario.DRIVES, "mid-hump", "Offbeat chords")["guitar_volume"] == 0.8
    assert start_settings("mid-hump") == {"drive": 0.45, "tone": 0.55, "level": 0.3}
    assert start_settings("bypass") == {}
