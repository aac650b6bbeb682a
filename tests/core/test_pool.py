"""Pooling over flights: what is said of items that never met is right as often as it says."""

from __future__ import annotations

import random
from functools import cache
from math import sqrt

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from cata.core.brief import Need, Sound, Target
from cata.core.choose.evidence import Asked, Evidence, asked_of, trait_of
from cata.core.choose.fit import fit_of
from cata.core.choose.next import Tells, next_take
from cata.core.choose.ranking import Candidate, rank_on
from cata.core.choose.takes import jnd_at
from cata.core.choose.whole import Whole
from cata.core.pool.estimate import estimate
from cata.core.pool.links import Link, groups, links_from, missing_link
from cata.core.pool.seen import NOTHING, Seen, Trait

KEYS = ("harshness_db", "level_spread_db", "tilt_db_per_oct")
TARGETS = [Target(reading=key, low=-jnd_at(Target(reading=key), 0.0), high=jnd_at(Target(reading=key), 0.0) * 2,
                  against="reference") for key in KEYS]  # fmt: skip
DRIVE = Target(reading="equivalent_drive", part="percent", low=4, high=12)


def seen(node: str, flight: str, cell: str, value: float, sd: float = 1.0) -> Seen:
    return Seen(node, flight, f"{flight}/{cell}", value, sd)


def test_what_met_in_a_cell_is_compared_there_and_what_did_not_over_what_both_met() -> None:
    one = estimate(
        [seen("a", "1", "t", 3.0), seen("b", "1", "t", 1.0), seen("b", "2", "t", 11.0), seen("c", "2", "t", 14.0)],
        Trait(0.0),
    )
    assert one is not None
    mean = dict(zip(one.nodes, one.mean, strict=True))
    assert mean["a"] - mean["b"] == pytest.approx(2.0)
    assert mean["c"] - mean["b"] == pytest.approx(3.0)
    at = {node: place for place, node in enumerate(one.nodes)}
    sd = lambda x, y: sqrt(one.cov[at[x], at[x]] + one.cov[at[y], at[y]] - 2 * one.cov[at[x], at[y]])  # noqa: E731
    assert sd("a", "b") == pytest.approx(sqrt(2), rel=1e-3)
    assert sd("a", "c") == pytest.approx(2.0, rel=1e-3)


def test_every_flight_on_the_way_adds_its_doubt_once() -> None:
    cells = [seen(node, "1", cell, 0.0, 0.1) for node in ("a", NOTHING) for cell in "tuvw"]
    one = estimate(cells, Trait(2.0))
    assert one is not None
    # However many cells a flight has, what its rig makes of an item is in all of them.
    assert one.against_nothing
    assert one.sd("a") == pytest.approx(2.0, rel=0.01)


def test_what_nothing_links_is_said_with_the_take_that_would() -> None:
    here = [seen("a", "1", "t", 0.0), seen("b", "1", "t", 1.0), seen("c", "1", "t", 1.0)]
    there = [seen("x", "2", "u", 0.0), seen("y", "2", "u", 1.0)]
    one = estimate([*here, *there], Trait(1.0))
    assert one is not None
    assert (one.nodes, one.apart) == (("a", "b", "c"), (frozenset({"x", "y"}),))
    main, other = groups([*here, *there])
    assert missing_link([*here, *there], other, main) == Link("x", "1", "1/t")
    with_bypass = [*here, seen(NOTHING, "1", "t", 0.0), *there]
    assert missing_link(with_bypass, other, main | {NOTHING}) == Link(NOTHING, "2", "2/u")
    assert "x" not in links_from([*here, *there], "a")
    found = links_from([*here, seen("c", "2", "u", 0.0), *there], "a")
    assert (found["x"], found["a"]) == (1, 0)


def shelf(chance: random.Random, links: int, bypass: bool) -> tuple[Need, Evidence, dict[int, float]]:
    """Flights in a chain, each sharing one item with the next (or the bypass with all), and every item's true fit."""
    wanted = Need(sounds=[Sound(key="x", name="X", targets=[*TARGETS, DRIVE])])
    flights = [[f"{flight}.{n}" for n in range(chance.randint(2, 4))] for flight in range(links + 1)]
    for flight in range(links):
        if not bypass:
            flights[flight + 1].append(flights[flight][-1])
        elif chance.random() < 0.5:
            flights[flight + 1].append(chance.choice(flights[flight]))
    items = sorted({item for flight in flights for item in flight})
    found: dict[tuple[str, str, str], list[Seen]] = {}
    truth = dict.fromkeys(range(len(items)), 0.0)
    spread = chance.choice((1.0, 2.0, 4.0))
    for target in wanted.sounds[0].targets:
        trait, jnd = trait_of(target), jnd_at(target, 5.0)
        own = {item: chance.gauss(6.0 if target is DRIVE else 0.0, spread * jnd) for item in items}
        # Without a bypass all are held against their middle.
        middle = 0.0 if bypass or not trait.relative else sum(own.values()) / len(own)
        for at, item in enumerate(items):
            truth[at] += fit_of(target, own[item] - middle, jnd_at(target, own[item]))[0] / 4
        own[NOTHING] = 0.0
        mine = found.setdefault(asked_of(wanted.sounds[0], target), [])
        for number, flight in enumerate(flights):
            rig = {item: chance.gauss(0, trait.transfer_sd) for item in flight} | {NOTHING: 0.0}
            for cell in range(chance.randint(1, 2)):
                moved = chance.gauss(0, trait.cell_sd or 20.0)
                for item in [*flight, NOTHING] if bypass and target is not DRIVE else flight:
                    value = own[item] + rig[item] + moved + chance.gauss(0, 0.7 * jnd)
                    mine.append(Seen(item, str(number), f"{number}/{cell}", value, 0.7 * jnd))
    return wanted, Evidence(found, {at: [item] for at, item in enumerate(items)}), truth


@cache
def said(links: int, bypass: bool, count: int) -> list[tuple[float, float]]:
    """What is said of the first placed on so many shelves, and whether it is the best (of level ones its share)."""
    chance, found = random.Random(100 * links + bypass), []
    for number in range(count):
        wanted, evidence, truth = shelf(chance, links, bypass)
        whole = Whole(wanted, evidence)
        candidates = [Candidate(ident, f"i{ident}", None) for ident in truth]
        first = rank_on(whole, wanted, candidates, seed=number)[0]
        best = [ident for ident, fit in truth.items() if fit > max(truth.values()) - 1e-9]
        found.append((first.best_share, (first.candidate.ident in best) / len(best)))
    return found


@pytest.mark.certify
@pytest.mark.parametrize("links", [1, 2, 3])
def test_what_is_said_first_over_links_is_first_as_often(links: int) -> None:
    found = [one for bypass in (False, True) for one in said(links, bypass, 300)]
    for least, most in ((0.25, 0.45), (0.45, 0.6), (0.6, 0.8)):
        near = [(share, right) for share, right in found if least <= share < most]
        assert len(near) >= 12
        told, right = np.mean([share for share, _ in near]), np.mean([right for _, right in near])
        assert abs(told - right) < 0.03 + 2 * sqrt(told * (1 - told) / len(near)), (least, told, right, len(near))


HARSH = Target(reading="harshness_db", low=-2, high=2, against="reference")
QUIET = Target(reading="crest_db", low=10, high=14, against="reference")


def placed(values: list[tuple[float, float]], prices: list[int]) -> list[tuple[int, float]]:
    """Items by their place with their scores: what they show of two readings against a bypass, what they cost."""
    wanted = Need(sounds=[Sound(key="s", name="S", targets=[HARSH, QUIET])], budget_minor=100_000)
    found = {
        asked_of(wanted.sounds[0], target): [
            Seen(name, "1", "1/1", value, 0.5)
            for name, value in [(NOTHING, 0.0), *((f"i{n}", pair[at]) for n, pair in enumerate(values))]
        ]
        for at, target in enumerate((HARSH, QUIET))
    }
    ground = Whole(wanted, Evidence(found, {n: [f"i{n}"] for n in range(len(values))}))
    standing = [Candidate(n, f"i{n}", price) for n, price in enumerate(prices)]
    return [(one.candidate.ident, one.score) for one in rank_on(ground, wanted, standing)]


def ahead_of(places: list[tuple[int, float]], who: int) -> int:
    """How many stand before somebody; level ones do not."""
    at = [ident for ident, _ in places].index(who)
    return sum(score > places[at][1] + 1e-9 for _, score in places[:at])


@settings(max_examples=40, deadline=None)
@given(
    values=st.lists(st.tuples(st.floats(-20, 20), st.floats(0, 30)), min_size=2, max_size=6),
    data=st.data(),
)
def test_a_better_reading_or_a_lower_price_never_lowers_a_place(
    values: list[tuple[float, float]], data: st.DataObject
) -> None:
    prices = data.draw(st.lists(st.integers(0, 150_000), min_size=len(values), max_size=len(values)))
    who, nearer = data.draw(st.integers(0, len(values) - 1)), data.draw(st.floats(0, 1))
    before = placed(values, prices)
    value = values[who][0]
    # Nearer to the middle of the range, never past it.
    better = [*values[:who], (value * (1 - nearer), values[who][1]), *values[who + 1 :]]
    cheaper = [*prices[:who], round(prices[who] * (1 - nearer)), *prices[who + 1 :]]
    for after in (placed(better, prices), placed(values, cheaper)):
        assert ahead_of(after, who) <= ahead_of(before, who)
    # One that is worse in everything changes nothing at the top.
    worse = (values[who][0] + (30 if values[who][0] >= 0 else -30), values[who][1] + 40)
    assert placed([*values, worse], [*prices, prices[who] + 1])[0][0] in {
        ident for ident, _ in before if ahead_of(before, ident) == 0
    }


@pytest.mark.certify
def test_one_more_take_changes_the_choice_as_often_as_is_said() -> None:
    chance, told = random.Random(77), []
    while len(told) < 160:
        wanted = Need(sounds=[Sound(key="s", name="S", targets=[HARSH])])
        jnd, scatter = jnd_at(HARSH, 0.0), 0.8
        own = [chance.gauss(0, 4 * jnd) for _ in range(4)]
        asked = asked_of(wanted.sounds[0], HARSH)

        def take(item: int, own: list[float] = own, scatter: float = scatter) -> Seen:
            return Seen(f"i{item}", "1", "1/1", own[item] + chance.gauss(0, scatter), scatter)

        seen_so_far = [take(item) for item in range(4)] + [Seen(NOTHING, "1", "1/1", 0.0, 0.01)]
        standing = [Candidate(item, f"i{item}", None) for item in range(4)]
        first, tells = _first_and_next(wanted, asked, seen_so_far, standing)
        if tells is not None:
            after, _ = _first_and_next(wanted, asked, [*seen_so_far, take(tells.ident)], standing)
            told.append((tells.chance, after != first))
    said_first, right = np.mean([one for one, _ in told]), np.mean([one for _, one in told])
    assert abs(said_first - right) < 0.12


def _first_and_next(
    wanted: Need, asked: Asked, values: list[Seen], standing: list[Candidate]
) -> tuple[int, Tells | None]:
    ground = Whole(wanted, Evidence({asked: values}, {one.ident: [one.name] for one in standing}))
    ranked = rank_on(ground, wanted, standing)
    return ranked[0].candidate.ident, next_take(wanted, ground, ranked)[1]


def test_many_settings_of_one_item_do_not_outnumber_items() -> None:
    measured = [Seen(f"x{n}", "test file", "t", 0.0, 1.0, family="x") for n in range(5)]
    measured.append(Seen(NOTHING, "test file", "t", 0.0, 1.0))
    flown = [Seen(node, "1", "c", 0.0, 1.0, family=node) for node in "abc"]
    assert groups([*measured, *flown])[0] == frozenset("abc")


def test_what_a_rig_makes_of_an_item_is_alike_at_all_its_settings() -> None:
    def at(setting_sd: float) -> list[Seen]:
        return [
            Seen("loud", "1", "c", 5.0, 0.1, family="a"), Seen(NOTHING, "1", "c", 0.0, 0.1),
            Seen("loud", "t", "t", 8.0, 0.1, family="a", transfer_sd=3.0, setting_sd=setting_sd),
            Seen("soft", "t", "t", 4.0, 0.1, family="a", transfer_sd=3.0, setting_sd=setting_sd),
            Seen(NOTHING, "t", "t", 0.0, 0.1),
        ]  # fmt: skip

    one, other = estimate(at(0.0), Trait(0.1)), estimate(at(2.0), Trait(0.1))
    assert one is not None
    assert other is not None
    # The test file reads this item three too high: so it does at the other setting.
    soft, loud = one.nodes.index("soft"), one.nodes.index("loud")
    assert one.mean[loud] - one.mean[soft] == pytest.approx(4.0, abs=0.05)
    assert one.mean[loud] == pytest.approx(5.0, abs=0.1)
    assert one.sd("soft") < 0.5 < other.sd("soft")
