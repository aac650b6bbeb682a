"""Settings that nobody measured: foretold within their bands, and better for a sound than what was only played."""

from __future__ import annotations

import itertools
from functools import cache

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from cata.core.bench.pedals import PEDALS
from cata.core.brief import Need, Sound, Target
from cata.core.choose.between import MOST_SHARE, Travel, travels
from cata.core.choose.certainty import Draws
from cata.core.choose.column import BETWEEN
from cata.core.choose.evidence import Evidence, asked_of, trait_of
from cata.core.choose.whole import Whole
from cata.core.clip import ANALYSIS_RATE_HZ
from cata.core.evidence.as_take import as_take, sounds_like_speaker, steps_for
from cata.core.measure.registry import BY_KEY
from cata.core.measure.results import Result, Results
from cata.core.pool.seen import NOTHING, Seen
from cata.core.signals.testfile.layout import layout
from cata.core.signals.testfile.waves import wave

LADDER = layout("ladder").named("ladder")
DRIVE = "equivalent_drive.percent"
FORETOLD = (DRIVE, "level_spread_db", "regions_db.lows", "regions_db.upper_mids", "tilt_db_per_oct")


@cache
def shown(pedal: str, *settings: tuple[str, float], gain: float = 1.0) -> dict[str, float]:
    """The readings of the ladder through a pedal of the bench, less those of what was sent where they are relative."""
    assert LADDER is not None
    sent = wave(LADDER, ANALYSIS_RATE_HZ)
    found = as_take(gain * PEDALS[pedal].render(sent, dict(settings)), sent, LADDER, -20.0)
    own, without = found.own.numbers(), found.sent.numbers()
    return {key: own[key] - (without[key] if key != DRIVE else 0.0) for key in FORETOLD if key in own}


def measured(pedal: str, *knobs: str) -> dict[str, dict[str, float]]:
    """The corners of the travel of some knobs, and their middle."""
    corners = [*itertools.product((0.0, 1.0), repeat=len(knobs)), (0.5,) * len(knobs)]
    return {str(at): dict(zip(knobs, at, strict=True)) for at in corners}


def errors_of(pedal: str, knobs: tuple[str, ...], count: int) -> list[tuple[str, float, float]]:
    """Errors of readings that are foretold at places nobody measured, with what they were said to be off by."""
    nodes = measured(pedal, *knobs)
    travel = travels(nodes, knobs)
    assert travel is not None
    chance = np.random.default_rng(5)
    places = np.round(chance.random((count, len(knobs))) * 20) / 20
    weights, share = travel.at(places)
    found = []
    for key in FORETOLD:
        values = np.array([shown(pedal, *nodes[node].items())[key] for node in travel.nodes])
        spread = travel.spread(values, BY_KEY[key.split(".")[0]].jnd or 1.0)
        for at, row, left in zip(places, weights, share, strict=True):
            truth = shown(pedal, *zip(knobs, map(float, at), strict=True))[key]
            found.append((key, float(row @ values - truth), spread * float(left) ** 0.5))
    return found


def test_what_lies_between_is_foretold_within_its_band() -> None:
    found = errors_of("mid-hump", ("drive", "tone"), 5)
    inside = [abs(error) < 1.645 * sd + 1e-6 for _, error, sd in found]
    assert sum(inside) >= 0.8 * len(inside)
    # The band is no excuse: drive lies within five points, though the knob moves it by thirty.
    assert max(abs(error) for key, error, _ in found if key == DRIVE) < 6.0


@pytest.mark.certify
def test_bands_between_settings_hold_on_every_pedal() -> None:
    found = [
        one
        for pedal, knobs in (
            ("hard-clip", ("distortion", "filter")), ("fuzz", ("fuzz", "bias")), ("treble-boost", ("boost", "range")),
            ("octave-fuzz", ("fuzz", "octave")), ("transparent", ("drive", "bass", "treble")),
        )
        for one in errors_of(pedal, knobs, 8)
    ]  # fmt: skip
    share = np.mean([abs(error) < 1.645 * sd for _, error, sd in found])
    assert 0.85 <= share <= 0.99
    assert np.sqrt(np.mean([error**2 for key, error, _ in found if key == DRIVE])) < 4.0


places = st.lists(st.tuples(st.integers(0, 20), st.integers(0, 20)), min_size=3, max_size=8, unique=True)


@given(places, st.floats(-50, 50))
def test_what_moves_nothing_stays_and_what_was_measured_is_met(at: list[tuple[int, int]], level: float) -> None:
    nodes = {str(n): {"a": x / 20, "b": y / 20} for n, (x, y) in enumerate(at)}
    travel = travels(nodes, ("a", "b"))
    if travel is None:
        return
    weights, share = travel.at(travel.positions)
    assert weights.sum(axis=1) == pytest.approx(1.0)
    assert weights @ np.full(len(at), level) == pytest.approx(level)
    assert (share < 0.02).all()
    for place in travel.places:
        assert place.share <= MOST_SHARE
        assert all(
            min(one[key] for one in nodes.values()) - 1e-9 <= value <= 1 for key, value in place.positions.items()
        )
        assert not any(abs(place.positions["a"] - x / 20) < 0.02 and abs(place.positions["b"] - y / 20) < 0.02
                       for x, y in at)  # fmt: skip


def test_only_settings_that_differ_in_the_knobs_alone_belong_together() -> None:
    nodes = {"a": {"drive": 0.0, "voice": 0.0}, "b": {"drive": 0.5, "voice": 0.0}, "c": {"drive": 1.0, "voice": 1.0}}
    assert travels(nodes, ("drive",)) is None
    nodes["d"] = {"drive": 1.0, "voice": 0.0}
    travel = travels(nodes, ("drive",))
    assert travel is not None
    assert set(travel.nodes) == {"a", "b", "d"}
    assert {place.positions["voice"] for place in travel.places} == {0.0}


def shelf(values: dict[float, float], low: float, high: float) -> tuple[Whole, Sound, Travel]:
    """One item whose drive was measured at some places of a knob, and a sound that wants a range of it."""
    sound = Sound(key="s", name="S", targets=[Target(reading="equivalent_drive", part="percent", low=low, high=high)])
    nodes = {str(at): {"drive": at} for at in values}
    travel = travels(nodes, ("drive",))
    assert travel is not None
    seen = [Seen(str(at), "t", "c", value, 0.7, family="1") for at, value in values.items()]
    seen.append(Seen(NOTHING, "t", "c", 0.0, 0.7))
    evidence = Evidence({asked_of(sound, sound.targets[0]): seen}, {1: list(nodes)}, {1: travel})
    return Whole(Need(sounds=[sound]), evidence), sound, travel


def test_the_best_setting_may_lie_where_nobody_measured_and_says_how_sure_that_is() -> None:
    ground, sound, _ = shelf({0.0: 0.0, 0.5: 20.0, 1.0: 40.0}, 8.0, 12.0)
    node = ground.setting_for(1, "s")
    assert node is not None
    assert node.startswith(BETWEEN)
    between = ground.evidence.place(node)
    assert between is not None
    assert 0.15 <= between[1].positions["drive"] <= 0.4
    known, measured_there = ground.known(1, "s", sound.targets[0]), shelf({0.0: 0.0, 0.25: 10.0, 1.0: 40.0}, 8.0, 12.0)
    assert known is not None
    assert 6.0 <= known.value <= 14.0
    there = measured_there[0].known(1, "s", sound.targets[0])
    assert there is not None
    # Measured at the place it is surer, and nobody is sent elsewhere.
    assert there.sd < known.sd
    assert not (measured_there[0].setting_for(1, "s") or "").startswith(BETWEEN)
    low, high = ground.span_for(1, sound)
    assert low < high <= 1.0
    assert ground.covariance([1], "s", sound.targets[0]) == [[pytest.approx(known.sd**2)]]


def test_what_settings_between_share_is_in_their_covariance() -> None:
    """Held against the same sums written out."""
    target = Target(reading="equivalent_drive", part="percent", low=8, high=12)
    sound = Sound(key="s", name="S", targets=[target])
    seen, nodes, between = [Seen(NOTHING, "t", "c", 0.0, 0.7)], {}, {}
    for ident in (1, 2, 3):
        mine = {f"{ident} {at}": {"drive": at} for at in (0.0, 0.5, 1.0)}
        seen += [Seen(node, "t", "c", 40 * one["drive"], 0.7, family=str(ident)) for node, one in mine.items()]
        nodes[ident] = list(mine)
        travel = travels(mine, ("drive",))
        if ident < 3 and travel is not None:
            between[ident] = travel
    ground = Whole(Need(sounds=[sound]), Evidence({asked_of(sound, target): seen}, nodes, between))
    one = ground.evidence.estimate(asked_of(sound, target), trait_of(target))
    assert one is not None
    sums = np.zeros((3, len(one.nodes)))
    for row, ident in zip(sums, (1, 2, 3), strict=True):
        node = ground.setting_for(ident, "s") or ""
        place = ground.evidence.place(node)
        assert (place is None) == (ident == 3)
        parts = {node: 1.0} if place is None else dict(zip(place[0].nodes, place[1].weights, strict=True))
        for part, weight in parts.items():
            row[one.nodes.index(part)] = weight
    found, wanted = np.array(ground.covariance([1, 2, 3], "s", target)), sums @ one.cov @ sums.T
    off = ~np.eye(3, dtype=bool)
    assert found[off] == pytest.approx(wanted[off])


def test_nobody_is_sent_beyond_what_was_measured() -> None:
    ground, _, travel = shelf({0.0: 0.0, 0.2: 8.0, 0.4: 16.0}, 30.0, 50.0)
    assert max(place.positions["drive"] for place in travel.places) <= 0.4
    assert ground.setting_for(1, "s") == "0.4"


def test_chances_are_drawn_anew_where_another_setting_serves_better() -> None:
    tone = Target(reading="tilt_db_per_oct", low=1.0, against="reference")
    drive = Target(reading="equivalent_drive", part="percent", high=3.0)

    def need(weight: float) -> Need:
        targets = [tone.model_copy(update={"weight": weight}), drive.model_copy(update={"weight": 5 - weight})]
        return Need(sounds=[Sound(key="s", name="S", targets=targets)])

    (sound,) = need(1.0).sounds
    seen = {
        asked_of(sound, tone): [
            Seen(node, "1", "c", value, 0.1) for node, value in (("a", 2.0), ("b", 0.0), (NOTHING, 0.0))
        ],
        asked_of(sound, drive): [Seen("a", "1", "c", 30.0, 1.0), Seen("b", "1", "c", 0.0, 1.0)],
    }  # fmt: skip
    evidence = Evidence(seen, {1: ["a", "b"], 2: []})
    fits = [Draws(need(weight), Whole(need(weight), evidence), [1], 1).fits.mean() for weight in (0.5, 4.5, 0.5)]
    assert fits[0] == fits[2]
    assert all(fit > 0.8 for fit in fits)


def test_what_a_compressor_moves_is_no_drive() -> None:
    squeezed = shown("compressor", ("squeeze", 1.0), ("blend", 1.0), ("attack", 0.0))
    assert squeezed[DRIVE] < 2.0
    assert squeezed["level_spread_db"] < -3.0
    assert shown("mid-hump", ("drive", 1.0))[DRIVE] > 15.0


def test_the_level_that_came_back_changes_nothing() -> None:
    one, other = (shown("mid-hump", ("drive", 0.5), gain=gain) for gain in (1.0, 0.1))
    assert one == pytest.approx(other, abs=0.05)


def test_the_steps_are_those_about_everyday_strumming() -> None:
    assert LADDER is not None
    for nominal in (-32.0, -20.0, -12.0):
        levels = LADDER.levels_dbfs[steps_for(LADDER, nominal)]
        assert min(abs(level - 9.0 - nominal) for level in levels) <= 3.1
    assert steps_for(LADDER, -80.0) == slice(0, 1)


def test_a_speaker_is_told_from_a_tone_knob() -> None:
    def response(fall: float) -> Results:
        value = {str(hz): 0.0 if hz <= 4000 else -fall for hz in (2000, 2500, 3150, 4000, 8000, 10000)}
        return Results(response_db=Result(value=dict(value)))

    assert sounds_like_speaker(response(20.0))
    assert not sounds_like_speaker(response(8.0))
    assert not sounds_like_speaker(Results())
