"""Equivalent drive: against the known share of corpus flights, through noise, without a clean take, and exactly."""

from __future__ import annotations

import itertools
from functools import cache
from math import erf, exp, pi, sqrt

import numpy as np
import pytest

from cata.core.clip import Audio, Clip
from cata.core.drive.grain import grain_of
from cata.core.drive.ladder import ladder_of
from cata.core.drive.of_test import Heard, drives, foot_among, share_of_image, shifted
from cata.core.drive.words import name_between
from cata.core.measure.analysis import analyse_material
from cata.core.measure.material import Material
from cata.core.measure.results import Result
from cata.core.resample import downsample
from tests.corpus.flights import Flight, Place, make_flight
from tests.corpus.parts import RATE_HZ, Floats

Read = dict[Place, Result]


def _heard(samples: Floats, *, bypass: bool = False) -> Heard:
    material = Material(Clip.of(samples.astype(np.float32), RATE_HZ))
    return Heard(grain_of(material), analyse_material(material, ["plr_db"]).number("plr_db"), is_bypass=bypass)


def _read(takes: dict[Place, Floats], bypass: str = "no pedal") -> Read:
    """The takes of one test."""
    heard = [_heard(samples, bypass=place[0] == bypass) for place, samples in takes.items()]
    foot = foot_among(heard)
    assert foot is not None
    dry: Audio = downsample(list(takes.values())[foot].astype(np.float32), 2)
    return dict(zip(takes, drives(heard, foot, ladder_of(dry), {}), strict=True))


def _tests(flight: Flight) -> list[dict[Place, Floats]]:
    tests = dict.fromkeys(test for _, test in flight.takes)
    return [{place: take for place, take in flight.takes.items() if place[1] == test} for test in tests]


def _share(result: Result) -> float:
    assert isinstance(result.value, dict)
    return float(result.value["percent"] or 0) / 100


@cache
def pedals(seed: int) -> Flight:
    return make_flight("pedal", None, seed)


@pytest.mark.certify
@pytest.mark.parametrize("seed", [31])
def test_the_share_of_drive_is_read_off_the_cleanest_take(seed: int) -> None:
    flight = pedals(seed)
    # A compressor's own modulation fills no gap: what it adds to the share is not seen (docs/measures.md).
    read = {p: r for test in _tests(flight) for p, r in _read(test).items() if p[0] != "press"}
    known = {place: _share(result) for place, result in read.items() if result.value is not None}
    assert len(known) >= 0.6 * len(read)
    off = np.abs([share - flight.dirt[place] for place, share in known.items()])
    assert np.mean(off < 0.05) >= 0.75
    assert off.max() < 0.15
    for one, other in itertools.combinations(known, 2):
        if one[1] == other[1] and flight.dirt[one] - flight.dirt[other] > 0.1:
            assert known[one] > known[other]


@pytest.mark.certify
def test_noise_between_the_partials_is_not_taken_for_drive() -> None:
    test = {place: take for place, take in pedals(31).takes.items() if place[0] == "no pedal"}
    hiss = np.random.default_rng(1).normal(0, 10 ** (-50 / 20), 1_000_000)
    for place, take in test.items():
        noisy = {place: take, ("hissing", place[1]): take + hiss[: len(take)]}
        assert [_share(result) < 0.03 for result in _read(noisy).values()] == [True, True]


def test_without_a_clean_take_only_the_order_is_told() -> None:
    test = {place: take for place, take in _tests(pedals(31))[0].items() if place[0] in ("slab", "wool")}
    read = list(_read(test).values())
    assert [result.refusal.code if result.refusal else None for result in read] == ["order_only"] * 2
    places = sorted(int(result.refusal.numbers["place"]) for result in read if result.refusal)
    assert places == [1, 2]


@pytest.mark.parametrize("limit", [0.5, 1.0, 2.0])
def test_a_re_amped_share_is_that_of_a_clipped_gaussian(limit: float) -> None:
    noise = np.random.default_rng(2).normal(0, 1, 4_000_000).astype(np.float32)
    lagging = np.concatenate([np.zeros(480, dtype=np.float32), np.clip(noise, -limit, limit)])
    found = share_of_image(noise, shifted(lagging, 480 / 24_000))
    # Bussgang: the linear part of a clipped Gaussian has the gain erf(limit / sqrt 2).
    inside = erf(limit / sqrt(2))
    power = inside - 2 * limit * exp(-(limit**2) / 2) / sqrt(2 * pi) + limit**2 * (1 - inside)
    assert found.value == pytest.approx(1 - inside**2 / power, abs=0.003)


def test_a_take_that_is_to_be_recorded_again_or_hardly_sounds_has_no_drive() -> None:
    good = next(take for place, take in pedals(31).takes.items() if place[0] == "no pedal")
    heard = [_heard(good), Heard(None, 14.0), Heard(_heard(good).grain, 14.0, spoilt=True)]
    found = drives(heard, 0, ladder_of(downsample(good.astype(np.float32), 2)), {})
    assert [one.refusal.code if one.refusal else "" for one in found] == ["", "too_short", "spoilt"]
    assert foot_among(heard[1:]) is None


@pytest.mark.parametrize(
    ("low", "high", "word"),
    [(-0.01, 0.004, "clean"), (0.04, 0.08, "edge"), (0.08, 0.15, "edge to crunch"), (0.4, 1.3, "saturated")],
)
def test_a_word_needs_the_whole_band_inside(low: float, high: float, word: str) -> None:
    assert name_between(low, high) == word
