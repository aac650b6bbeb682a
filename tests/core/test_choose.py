"""Fit, ranking and certainty."""

from __future__ import annotations

import random
from dataclasses import replace
from functools import cache
from math import sqrt

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from cata.core.brief import Need, Sound, Target
from cata.core.choose.checks import Noted, checks
from cata.core.choose.fit import Fit, fit, judge
from cata.core.choose.next import next_take, what_would_tell
from cata.core.choose.takes import Known, Scatter
from cata.core.measure.outcome import Bound
from cata.core.sounds import SOUNDS
from tests.corpus.flown import Played, Stands, rank, whole_of

SOUND = Sound(key="x", name="X", targets=[Target(reading="crest_db", low=10, high=14, weight=1)])
KEYS = ("crest_db", "harshness_db", "level_spread_db", "tilt_db_per_oct")
SDS = (0.8, 1.0, 1.2, 0.15)


def need(**more: object) -> Need:
    return Need(sounds=[SOUND], **more)  # type: ignore[arg-type]


def candidate(ident: int, crest: float | None, price: int | None, **more: object) -> Stands:
    values = {} if crest is None else {"crest_db": crest}
    return Stands(ident, f"c{ident}", price, (Played("t", "", values),), **more)  # type: ignore[arg-type]


def fit_of_takes(wanted: Need, takes: list[Played]) -> Fit:
    return fit(wanted, whole_of(wanted, [Stands(1, "c1", None, tuple(takes))]), 1)


def test_inside_the_range_the_fit_is_whole_and_three_differences_halve_it() -> None:
    target = SOUND.targets[0]
    assert judge(SOUND, target, Known(12.0, 1.0, 1, 1.5)).fit == 1.0
    missed = judge(SOUND, target, Known(14.0 + 3 * 1.5, 1.0, 1, 1.5))
    assert missed.fit == pytest.approx(0.5)
    assert missed.miss == pytest.approx(4.5)


def test_what_was_refused_counts_as_bad_and_is_said() -> None:
    wanted = Need(sounds=[Sound(key="x", name="X", targets=[*SOUND.targets, Target(reading="tilt_db_per_oct", low=0)])])
    found = fit_of_takes(wanted, [Played("t", "", {"crest_db": 12.0})])
    assert (found.score, found.best, found.coverage) == (0.5, 1.0, 0.5)
    assert [(one.target.reading, one.played) for one in found.missing] == [("tilt_db_per_oct", True)]


@pytest.mark.parametrize(
    ("bound", "low", "high", "fit_there"),
    [("at_most", None, 14, 1.0), ("at_most", 2, 14, 0.0), ("at_least", 10, None, 1.0), ("at_least", 10, 20, 0.0)],
)
def test_a_bound_counts_as_its_worse_end(bound: Bound, low: float | None, high: float | None, fit_there: float) -> None:
    target = Target(reading="crest_db", low=low, high=high)
    assert judge(SOUND, target, Known(12.0, 1.0, 1, 1.5, bound)).fit == fit_there


def test_a_sound_is_judged_by_all_takes_of_its_own_tests_together() -> None:
    takes = [Played("a", "x", {"crest_db": 14.0 + 3.0}), Played("b", "x", {"crest_db": 14.0 + 6.0}),
             Played("c", "y", {"crest_db": 12.0})]  # fmt: skip
    # The middle of both is three just-noticeable differences off.
    assert fit_of_takes(need(), takes).score == pytest.approx(0.5, abs=0.02)


def test_what_lacks_a_sound_that_must_be_there_stands_behind_all_that_have_it() -> None:
    must = Need(
        sounds=[SOUND.model_copy(update={"must": True}), Sound(key="y", name="Y", targets=SOUND.targets, weight=5)]
    )
    lacks, unknown, has = (
        Stands(n, f"c{n}", None, tuple(Played(key, key, {"crest_db": value}) for key, value in values.items()))
        for n, values in enumerate(({"x": 30.0, "y": 12.0}, {"y": 12.0}, {"x": 12.0, "y": 30.0}))
    )
    ranked = rank(must, [lacks, unknown, has])
    assert [(one.candidate.ident, one.fine) for one in ranked] == [(2, True), (0, False), (1, False)]
    told = [[one.numbers["percent"] for one in each.shortfalls if one.code == "must_sound"] for each in ranked]
    assert [[round(float(percent)) for percent in mine] for mine in told] == [[], [7], [0]]


def test_a_difference_is_held_against_the_bypass_of_the_same_test() -> None:
    target = Target(reading="harshness_db", low=-1, high=1, against="reference")
    wanted = Need(sounds=[Sound(key="x", name="X", targets=[target])])
    takes = [Stands(n, f"c{n}", None, (Played("t", "", {"harshness_db": v}),), is_bypass=n == 0)
             for n, v in enumerate((-20.0, -20.5, -8.0))]  # fmt: skip
    first, second = rank(wanted, takes)
    assert (first.candidate.ident, first.score) == (1, 1.0)
    assert second.fit.judged[0].value == pytest.approx(12.0)


@pytest.mark.parametrize("known", [False, True])
def test_what_nobody_knows_is_open_and_not_decided_by_the_price(known: bool) -> None:
    sounds = [SOUND, Sound(key="u", name="U", targets=[Target(reading="tilt_db_per_oct", low=0)], weight=4)]
    wanted = Need(sounds=sounds, budget_minor=30_000, fit_weight=10, price_weight=1)
    values = {"crest_db": 12.0} | ({"tilt_db_per_oct": 1.0} if known else {})
    takes = (Played("t", "", values),)
    ranked = rank(wanted, [Stands(n, f"c{n}", 9_000 + 2_000 * n, takes) for n in range(3)])
    first = ranked[0]
    assert first.candidate.ident == 0
    assert (first.best_share < 0.6) == (not known)
    assert (first.fit.coverage < 0.5) == (not known)


CLEAN = Target(reading="equivalent_drive", part="percent", high=3)


@pytest.mark.parametrize(
    ("target", "can_be_off", "score", "said"),
    [(CLEAN, True, 1.0, ["off"]), (CLEAN, False, 0.2, []), (CLEAN.model_copy(update={"low": 1.0}), True, 0.2, [])],
)
def test_a_pedal_is_left_off_where_a_clean_sound_is_better_without(
    target: Target, can_be_off: bool, score: float, said: list[str]
) -> None:
    loud = Target(reading="equivalent_drive", part="percent", low=20)
    wanted = Need(sounds=[Sound(key="c", name="Clean", targets=[target]), Sound(key="l", name="Loud", targets=[loud])])
    played = [Played(key, key, {"equivalent_drive.percent": 30.0}) for key in "cl"]
    bypass = [Played(key, key, {"equivalent_drive.percent": 0.5}) for key in "cl"]
    standing = [Stands(1, "Drive", None, tuple(played)), Stands(0, "none", None, tuple(bypass), is_bypass=True)]
    (entry,) = rank(wanted, standing, can_be_off=can_be_off)
    assert entry.fit.score == pytest.approx((score + 1) / 2, abs=0.1)
    assert entry.span is not None
    assert entry.span[1] == pytest.approx((score + 1) / 2, abs=0.15)
    assert [one.code for one in entry.strengths if one.code == "off"] == said
    assert ("more" in [one.code for one in entry.shortfalls]) == (not said)


def test_the_budget_changes_the_order() -> None:
    better, cheaper = candidate(1, 12.0, 30000), candidate(2, 16.0, 5000)
    rich = rank(need(budget_minor=100000, fit_weight=10, price_weight=0), [better, cheaper])
    poor = rank(need(budget_minor=20000, fit_weight=10, price_weight=0), [better, cheaper])
    assert [r.candidate.ident for r in rich] == [1, 2]
    assert [r.candidate.ident for r in poor] == [2, 1]
    assert poor[1].over_minor == 10000
    assert (poor[1].shortfalls[0].code, poor[1].shortfalls[0].numbers) == ("over_budget", {"over_minor": 10000})


def test_without_a_price_a_contender_stands_with_those_over_the_budget() -> None:
    ranked = rank(
        need(budget_minor=20000), [candidate(1, 12.0, None), candidate(2, 20.0, 19000), candidate(3, 12.0, 21000)]
    )
    assert [(r.candidate.ident, r.fine) for r in ranked] == [(2, True), (1, False), (3, False)]
    assert "no_price" in {one.code for one in ranked[1].shortfalls}


def test_the_reserve_is_not_spent() -> None:
    assert need(budget_minor=1000, reserve_minor=400).spendable_minor == 600
    assert need(budget_minor=100, reserve_minor=400).spendable_minor == 0
    assert need().spendable_minor is None


def test_the_bypass_is_not_for_sale_and_what_nobody_played_is_not_ranked() -> None:
    ranked = rank(need(), [candidate(1, 12.0, 1), candidate(2, 12.0, 1, is_bypass=True), candidate(3, None, 1)])
    assert [r.candidate.ident for r in ranked] == [1]


def test_certainty_is_high_for_a_clear_lead_and_open_for_equals() -> None:
    clear = rank(need(), [candidate(1, 12.0, None), candidate(2, 40.0, None)])
    equal = rank(need(), [candidate(1, 14.1, None), candidate(2, 14.1, None)])
    assert clear[0].best_share > 0.95
    assert equal[0].best_share == pytest.approx(0.5)
    assert sum(r.best_share for r in equal) == pytest.approx(1.0)


def _flight(
    chance: random.Random, contenders: int, readings: int, spread: float
) -> tuple[Need, list[Stands], list[float], dict[str, Scatter]]:
    """Contenders whose true readings lie so many deviations apart, as played once, and their true fit."""
    asked = list(zip(KEYS, SDS, strict=True))[:readings]
    targets = [Target(reading=k, low=2 * sd, high=6 * sd, against="reference") for k, sd in asked]
    wanted = Need(sounds=[Sound(key="x", name="X", targets=targets)])
    nothing = {k: 0.0 for k, _ in asked}
    truth = [nothing, *({k: chance.gauss(0, spread * sd) for k, sd in asked} for _ in range(contenders))]
    played = [{k: one[k] + chance.gauss(0, sd) for k, sd in asked} for one in truth]
    standing = [Stands(n, f"c{n}", None, (Played("t", "", one),), is_bypass=n == 0) for n, one in enumerate(played)]
    true = [Stands(n, f"c{n}", None, (Played("t", "", one),), is_bypass=n == 0) for n, one in enumerate(truth)]
    ground = whole_of(wanted, true)
    freedom = chance.choice([2, 4, 8])
    scatter = {k: Scatter(sd * sqrt(chance.gammavariate(freedom / 2, 2) / freedom), freedom) for k, sd in asked}
    return (
        wanted,
        standing,
        [0.0, *(fit(wanted, ground, n + 1).score for n in range(contenders))],
        scatter,
    )


@cache
def _said(flights: int, seed: int, spread: float, contenders: tuple[int, ...] = (2, 3, 5)) -> list[tuple[float, bool]]:
    """What is said of the first placed, and whether it is the best."""
    chance, found = random.Random(seed), []
    for number in range(flights):
        wanted, standing, truth, scatter = _flight(chance, contenders[number % len(contenders)], 1 + number % 4, spread)
        first = rank(wanted, standing, scatter, seed=number)[0]
        found.append((first.best_share, truth[first.candidate.ident] > max(truth) - 1e-9))
    return found


@pytest.mark.grid(1)
@pytest.mark.parametrize("seed", [1, 2, 3])
def test_identical_contenders_are_hardly_ever_told_apart(seed: int) -> None:
    shares = [share for share, _ in _said(200, seed, 0.0, (2,))]
    assert sum(share >= 0.95 for share in shares) <= 0.05 * len(shares)
    assert sum(share >= 0.80 for share in shares) <= 0.20 * len(shares)


@pytest.mark.certify
@pytest.mark.parametrize("said", [0.7, 0.8, 0.9, 0.95])
def test_what_is_said_is_right_as_often(said: float) -> None:
    found = [one for n, spread in enumerate((0.5, 1.0, 2.0, 4.0)) for one in _said(300, n, spread)]
    near = [right for share, right in found if abs(share - said) < 0.04]
    assert len(near) > 60
    # One deviation of a share of so many is granted to chance.
    assert abs(said - sum(near) / len(near)) < 0.05 + sqrt(said * (1 - said) / len(near))


readings_of_one = st.dictionaries(st.sampled_from(KEYS), st.floats(-30, 30), min_size=1)
shelves = st.lists(st.dictionaries(st.sampled_from(["t", "u"]), readings_of_one, min_size=1), min_size=2, max_size=5)
WANTED = Need(
    sounds=[Sound(key="x", name="X", targets=[Target(reading=k, low=-2, high=2) for k in KEYS]),
            Sound(key="y", name="Y", must=True, weight=2, targets=[Target(reading=KEYS[0], low=0)])],
    budget_minor=10_000,
)  # fmt: skip


def _standing(shelf: list[dict[str, dict[str, float]]], price: int | None = 5000) -> list[Stands]:
    sounds = {"t": "x", "u": "y"}
    return [Stands(n, f"c{n}", price, tuple(Played(t, sounds[t], v) for t, v in takes.items()))
            for n, takes in enumerate(shelf)]  # fmt: skip


def _place(standing: list[Stands], ident: int) -> int:
    return next((one.place for one in rank(WANTED, standing) if one.candidate.ident == ident), 99)


@given(shelves, st.data())
@settings(deadline=None, max_examples=60)
def test_what_is_not_known_never_helps(shelf: list[dict[str, dict[str, float]]], data: st.DataObject) -> None:
    before = _place(_standing(shelf), 0)
    test = data.draw(st.sampled_from(sorted(shelf[0])))
    key = data.draw(st.sampled_from(sorted(shelf[0][test])))
    without_reading = [
        {t: {k: v for k, v in r.items() if (t, k) != (test, key)} for t, r in shelf[0].items()},
        *shelf[1:],
    ]
    without_take = [{t: r for t, r in shelf[0].items() if t != test}, *shelf[1:]]
    assert _place(_standing(without_reading), 0) >= before
    assert _place(_standing(without_take), 0) >= before
    priceless = [replace(one, price_minor=None) if one.ident == 0 else one for one in _standing(shelf)]
    assert _place(priceless, 0) >= before


@given(shelves, st.integers(0, 20_000), st.integers(0, 20_000), st.data())
@settings(deadline=None, max_examples=60)
def test_a_better_value_or_a_lower_price_never_lowers_the_place(
    shelf: list[dict[str, dict[str, float]]], price: int, less: int, data: st.DataObject
) -> None:
    standing = _standing(shelf)
    dear, cheap = (
        [replace(one, price_minor=amount) if one.ident == 0 else one for one in standing]
        for amount in (max(price, less), min(price, less))
    )
    assert _place(cheap, 0) <= _place(dear, 0)
    test = data.draw(st.sampled_from(sorted(shelf[0])))
    key = data.draw(st.sampled_from(sorted(shelf[0][test])))
    better = [{**shelf[0], test: {**shelf[0][test], key: min(max(shelf[0][test][key], 0.0), 2.0)}}, *shelf[1:]]
    assert _place(_standing(better), 0) <= _place(standing, 0)


@given(shelves)
@settings(deadline=None, max_examples=60)
def test_duplicates_and_dominated_items_change_no_order(shelf: list[dict[str, dict[str, float]]]) -> None:
    plain = [one.candidate.name for one in rank(WANTED, _standing(shelf))]
    dominated = {test: dict.fromkeys(KEYS, -200.0) for test in ("t", "u")}
    more = _standing([*shelf, shelf[0], dominated])
    assert [one.candidate.name for one in rank(WANTED, more) if one.candidate.ident < len(shelf)] == plain


def test_one_more_take_is_asked_for_where_it_would_tell_most() -> None:
    far = _standing([{key: {KEYS[0]: value} for key in ("t", "u")} for value in (0.0, -30.0)])
    # Nothing could change the choice: not worth a take.
    assert next_take(WANTED, whole_of(WANTED, far), rank(WANTED, far))[0].code == "nothing_tells"
    near = {"t": {KEYS[0]: 2.3}}
    standing = _standing([near, near | {"u": {KEYS[0]: -4.0}}])
    shelf, ranked = whole_of(WANTED, standing), rank(WANTED, standing)
    told, tells = next_take(WANTED, shelf, ranked)
    assert (told.code, told.numbers["contender"]) == ("one_more_take", 0)
    assert tells is not None
    assert (tells.sound, tells.again) == ("y", False)
    assert 0.03 < tells.chance < 0.7
    assert what_would_tell(WANTED, shelf, ranked[:1]) == []


@pytest.mark.parametrize(
    ("wanted", "item", "answers"),
    [
        ({"carry_limit_kg": 10}, Noted("amplifier", specs={"weight_kg": 12.0}), ["no"]),
        ({"carry_limit_kg": 10}, Noted("amplifier"), ["not known"]),
        ({"carry_limit_kg": 10}, Noted("pickup"), []),
        ({"carry_limit_kg": 10, "must_haves": "effects loop"}, Noted("gear"), []),
        ({"loudness_limit_dba": 100}, Noted("amplifier", specs={"watts": 22.0, "power_positions": "1 W"}), ["yes"]),
        ({"loudness_limit_dba": 92}, Noted("amplifier", specs={"watts": 22.0}), ["no"]),
        ({"must_haves": "Effects loop; no piece over 18 kg"}, Noted("amplifier", specs={"effects_loop": True}),
         ["yes", "not known"]),
        ({"must_haves": "effects loop"}, Noted("amplifier", specs={"effects_loop": False}), ["no"]),
        ({"must_haves": "no effects loop"}, Noted("amplifier", specs={"effects_loop": True}), ["no"]),
        ({"must_haves": "no effects loop"}, Noted("amplifier", specs={"effects_loop": False}), ["yes"]),
        ({"must_haves": "without an effects loop"}, Noted("amplifier"), ["not known"]),
        ({"must_haves": "not noisy"}, Noted("pedal", about="Noisy, but cheap"), ["no"]),
        ({"must_haves": "quiet"}, Noted("pedal", about="It is not quiet at all"), ["no"]),
        ({"must_haves": "quiet"}, Noted("pedal", about="A quiet box"), ["yes"]),
        ({"must_haves": "effects loop"}, Noted("pedal"), []),
        ({"must_haves": "true bypass\nblue"}, Noted("pedal", about="A blue box", specs={"bypass": "buffered"}),
         ["no", "yes"]),
    ],
)  # fmt: skip
def test_demands_are_answered_yes_no_or_not_known(wanted: dict[str, object], item: Noted, answers: list[str]) -> None:
    assert [one.answer for one in checks(Need(**wanted), item)] == answers  # type: ignore[arg-type]


@given(st.floats(0, 10), st.floats(0, 10), st.integers(0, 10**6))
def test_scores_stay_between_0_and_1(fit_weight: float, price_weight: float, budget: int) -> None:
    wanted = need(fit_weight=fit_weight, price_weight=price_weight, budget_minor=budget)
    assert all(0 <= one.score <= 1 for one in rank(wanted, [candidate(1, 12.0, 5000), candidate(2, 30.0, 0)]))


def test_targets_must_name_a_reading_and_be_in_order() -> None:
    with pytest.raises(ValidationError, match="there is no reading"):
        Target(reading="loudness")
    with pytest.raises(ValidationError, match="before it begins"):
        Target(reading="crest_db", low=5, high=1)
    with pytest.raises(ValidationError, match="needs one of its parts"):
        Target(reading="regions_db", low=1)
    assert all(sound.as_sound().targets for sound in SOUNDS)
