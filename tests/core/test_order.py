"""The order of takes: equal to the exact optimum on small plans, close to the solver's on large ones."""

from __future__ import annotations

from itertools import pairwise, permutations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from cata.core.plan.order import (
    better_order,
    for_seconds,
    good_order,
    inserted_seconds,
    middle_window,
    path_seconds,
)
from cata.core.plan.schedule import Cell, cost_table
from cata.core.plan.setup import CHANGE_S, Part, change_seconds, changes
from cata.errors import Invalid
from tests.conftest import declines
from tests.tolerances import ORDER_GAP_PERCENT


def plan_costs(rng: np.random.Generator, takes: int) -> np.ndarray:
    """Costs as a plan has them: takes that differ in amplifier, pedal, two knobs and the pickup position."""
    setups = []
    for _ in range(takes):
        pedal = f"pedal {rng.integers(4)}"
        setups.append(
            {
                "amplifier": Part("amplifier", "amplifier", f"amp {rng.integers(2)}"),
                "pedal": Part("pedal", "pedal", pedal),
                "pedal/drive": Part("knob", "Drive", str(rng.integers(4)), device="pedal"),
                "pedal/tone": Part("knob", "Tone", str(rng.integers(3)), device="pedal"),
                "position": Part("position", "pickup position", str(rng.integers(3))),
            }
        )
    return np.array([[change_seconds(a, b) for b in setups] for a in setups])


def by_trying_all(costs: np.ndarray, anchor: int | None) -> int:
    """The least of all permutations; with an anchor also of every allowed place for the middle one."""
    nodes = [i for i in range(len(costs)) if i != anchor]
    if anchor is None:
        return min(sum(costs[a, b] for a, b in pairwise(order)) for order in permutations(nodes))
    least = 10**9
    low, high = middle_window(len(nodes)) if len(nodes) >= 3 else (0, 0)
    for order in permutations(nodes):
        for place in range(low, high + 1):
            middle = [*order[:place], anchor, *order[place:]] if len(nodes) >= 3 else list(order)
            least = min(least, path_seconds(costs, [anchor, *middle, anchor]))
    return least


@pytest.mark.parametrize("seed", range(40))
def test_small_plans_get_the_order_that_trying_all_orders_finds(seed: int) -> None:
    rng = np.random.default_rng(seed)
    costs = plan_costs(rng, int(rng.integers(2, 8)))
    anchor = None if seed % 2 else int(rng.integers(len(costs)))
    order = good_order(costs, anchor)
    assert order.seconds == by_trying_all(costs, anchor) == path_seconds(costs, order.sequence)
    assert order.is_best


def held_karp(costs: np.ndarray) -> int:
    """The textbook's recursion, written apart from the one under test."""
    best = {(1 << i, i): 0 for i in range(len(costs))}
    for mask in range(1, 1 << len(costs)):
        for last in range(len(costs)):
            if (mask, last) in best:
                for i in range(len(costs)):
                    if not mask >> i & 1:
                        key, value = (mask | 1 << i, i), best[mask, last] + costs[last, i]
                        best[key] = min(best.get(key, 10**9), value)
    return min(best[(1 << len(costs)) - 1, last] for last in range(len(costs)))


@pytest.mark.certify
def test_two_hundred_random_plans_of_up_to_nine_takes_equal_the_exact_optimum() -> None:
    rng = np.random.default_rng(2026)
    for _ in range(200):
        costs = plan_costs(rng, int(rng.integers(2, 10)))
        assert good_order(costs).seconds == held_karp(costs)


@pytest.mark.parametrize("takes", [16, 40, 60])
def test_large_plans_come_within_two_per_cent_of_the_solvers_bound(takes: int) -> None:
    costs = plan_costs(np.random.default_rng(takes), takes)
    order = good_order(costs)
    assert sorted(order.sequence) == list(range(takes))
    assert order.seconds == path_seconds(costs, order.sequence)
    assert order.least_s <= order.seconds
    assert order.gap_percent <= ORDER_GAP_PERCENT


def test_an_anchored_plan_opens_closes_and_halves_with_the_anchor() -> None:
    costs = plan_costs(np.random.default_rng(5), 30)
    order = good_order(costs, 7)
    places = [i for i, take in enumerate(order.sequence) if take == 7]
    low, high = middle_window(29)
    assert places[0] == 0
    assert places[-1] == len(order.sequence) - 1
    assert len(places) == 3
    assert low <= places[1] - 1 <= high
    assert sorted(set(order.sequence)) == list(range(30))
    assert len(order.sequence) == 32


def test_the_same_plan_always_gets_the_same_order() -> None:
    costs = plan_costs(np.random.default_rng(9), 25)
    assert good_order(costs).sequence == good_order(costs).sequence


def test_a_swapped_pedal_takes_its_knobs_with_it() -> None:
    before = {"pedal": Part("pedal", "pedal", "Alder"), "pedal/drive": Part("knob", "Drive", "3", device="pedal")}
    same = before | {"pedal/drive": Part("knob", "Drive", "7", device="pedal")}
    other = {"pedal": Part("pedal", "pedal", "Birk"), "pedal/drive": Part("knob", "Drive", "7", device="pedal")}
    assert [(c.name, c.before, c.after) for c in changes(before, same)] == [("Drive", "3", "7")]
    assert [c.kind for c in changes(before, other)] == ["pedal"]
    assert change_seconds(before, other) == CHANGE_S["pedal"]
    assert change_seconds(before, before) == 0
    assert {c.kind for c in changes(None, before)} == {"pedal"}


@pytest.mark.parametrize("costs", [np.array([[0, 1], [2, 0]]), np.array([[0, -1], [-1, 0]]), np.zeros((2, 3))])
def test_costs_that_are_no_table_of_seconds_are_refused(costs: np.ndarray) -> None:
    with declines(Invalid, "no_cost_table"):
        good_order(costs)


def test_an_anchor_outside_the_plan_is_refused() -> None:
    with declines(Invalid, "no_such_anchor"):
        good_order(np.zeros((2, 2), dtype=int), 5)


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 10**6), st.integers(2, 7))
def test_change_overs_are_distances(seed: int, takes: int) -> None:
    """Symmetric, nothing between equals, and no way round is shorter: what the bound of an anchored order rests on."""
    costs = plan_costs(np.random.default_rng(seed), takes)
    assert np.array_equal(costs, costs.T)
    assert not np.diagonal(costs).any()
    around = (costs[:, :, None] + costs[None, :, :]).min(axis=1)
    assert np.all(costs <= around)


@settings(max_examples=30, deadline=None)
@given(st.integers(0, 10**6), st.integers(3, 6))
def test_an_anchored_order_of_a_small_plan_is_the_least_there_is(seed: int, takes: int) -> None:
    costs = plan_costs(np.random.default_rng(seed), takes)
    assert good_order(costs, 0).seconds == by_trying_all(costs, 0)


@pytest.mark.parametrize("takes", [14, 22, 40])
def test_the_bound_of_an_anchored_plan_lies_under_every_order_that_was_tried(takes: int) -> None:
    rng = np.random.default_rng(takes)
    costs = plan_costs(rng, takes)
    order = good_order(costs, 0)
    low, high = middle_window(takes - 1)
    for _ in range(300):
        others = (1 + rng.permutation(takes - 1)).tolist()
        place = int(rng.integers(low, high + 1))
        assert order.least_s <= path_seconds(costs, [0, *others[:place], 0, *others[place:], 0])
    assert order.least_s <= order.seconds


def test_what_more_takes_cost_is_what_the_longer_order_takes_more() -> None:
    costs = plan_costs(np.random.default_rng(4), 24)
    order = good_order(costs[:20, :20])
    more = inserted_seconds(costs, order.sequence, range(20, 24))
    longer = good_order(costs)
    assert longer.seconds - order.seconds <= more <= longer.seconds - order.seconds + 120
    assert inserted_seconds(costs, [3], [3]) == 0


def test_an_order_searched_further_is_no_worse_and_its_bound_no_lower() -> None:
    costs = plan_costs(np.random.default_rng(30), 30)
    order = good_order(costs, 0)
    better = better_order(costs, 0, order, seed=3, climb_until=for_seconds(1.0), until=for_seconds(1.5))
    assert better.seconds <= order.seconds
    assert order.least_s < better.least_s <= better.seconds
    assert sorted(set(better.sequence)) == list(range(30))
    assert better.seconds == path_seconds(costs, better.sequence)


@settings(max_examples=20, deadline=None)
@given(st.integers(0, 10**6), st.integers(2, 12))
def test_the_cost_table_is_what_each_pair_costs(seed: int, takes: int) -> None:
    rng = np.random.default_rng(seed)
    parts = {"amp": ("amplifier", ""), "pedal": ("pedal", ""), "pedal/k": ("knob", "pedal"), "phrase": ("phrase", "")}
    setups = [
        {
            key: Part(kind, key, str(rng.integers(3)), device)
            for key, (kind, device) in parts.items()
            if rng.random() < 0.9
        }  # type: ignore[arg-type]
        for _ in range(takes)
    ]
    table = cost_table([Cell(setup, 1.0) for setup in setups])
    assert table.tolist() == [[change_seconds(a, b) for b in setups] for a in setups]
