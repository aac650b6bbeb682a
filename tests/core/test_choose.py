"""Fit, ranking and certainty; knobs, prices and names."""

from __future__ import annotations

import sys
from subprocess import run

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from cata.core.brief import SOUNDS, Need, Sound, Target
from cata.core.choose.fit import TakeReadings, fit, judge
from cata.core.choose.ranking import Candidate, rank
from cata.core.gear import Control, read_position, show_position
from cata.core.money import show_price
from cata.core.names import find_grid, place
from cata.errors import Invalid
from tests.conftest import declines

SOUND = Sound(key="x", name="X", targets=[Target(reading="crest_db", low=10, high=14, weight=1)])


def need(**more: object) -> Need:
    return Need(sounds=[SOUND], **more)  # type: ignore[arg-type]


def candidate(ident: int, crest: float, price: int | None, **more: object) -> Candidate:
    return Candidate(ident, f"c{ident}", price, (TakeReadings("t", "", {"crest_db": crest}),), **more)  # type: ignore[arg-type]


def test_inside_the_range_the_fit_is_whole_and_three_differences_halve_it() -> None:
    target = SOUND.targets[0]
    assert judge(SOUND, target, 12.0).fit == 1.0
    missed = judge(SOUND, target, 14.0 + 3 * 1.5)
    assert missed.fit == pytest.approx(0.5)
    assert missed.miss == pytest.approx(4.5)


def test_what_was_refused_does_not_count_and_is_said() -> None:
    wanted = Need(sounds=[Sound(key="x", name="X", targets=[*SOUND.targets, Target(reading="tilt_db_per_oct", low=0)])])
    found = fit(wanted, [TakeReadings("t", "", {"crest_db": 12.0})])
    assert found.score == 1.0
    assert found.coverage == 0.5
    assert fit(wanted, []).score is None


def test_a_sound_is_judged_by_its_own_tests() -> None:
    takes = [TakeReadings("a", "x", {"crest_db": 12.0}), TakeReadings("b", "y", {"crest_db": 40.0})]
    assert fit(need(), takes).score == 1.0


def test_the_budget_changes_the_order() -> None:
    better, cheaper = candidate(1, 12.0, 30000), candidate(2, 16.0, 5000)
    rich = rank(need(budget_minor=100000, fit_weight=10, price_weight=0), [better, cheaper])
    poor = rank(need(budget_minor=20000, fit_weight=10, price_weight=0), [better, cheaper])
    assert [r.candidate.ident for r in rich] == [1, 2]
    assert [r.candidate.ident for r in poor] == [2, 1]
    assert poor[1].over_minor == 10000
    assert (poor[1].shortfalls[0].code, poor[1].shortfalls[0].numbers) == ("over_budget", {"over_minor": 10000})


def test_the_reserve_is_not_spent() -> None:
    assert need(budget_minor=1000, reserve_minor=400).spendable_minor == 600
    assert need(budget_minor=100, reserve_minor=400).spendable_minor == 0
    assert need().spendable_minor is None


def test_the_bypass_is_not_for_sale() -> None:
    ranked = rank(need(), [candidate(1, 12.0, 1), candidate(2, 12.0, 1, is_bypass=True)])
    assert [r.candidate.ident for r in ranked] == [1]


def test_certainty_is_high_for_a_clear_lead_and_open_for_equals() -> None:
    clear = rank(need(), [candidate(1, 12.0, None), candidate(2, 40.0, None)])
    equal = rank(need(), [candidate(1, 14.1, None), candidate(2, 14.1, None)])
    assert clear[0].best_share > 0.95
    assert 0.2 < equal[0].best_share < 0.8
    assert sum(r.best_share for r in equal) == pytest.approx(1.0)


@given(st.floats(0, 10), st.floats(0, 10), st.integers(0, 10**6))
def test_scores_stay_between_0_and_1(fit_weight: float, price_weight: float, budget: int) -> None:
    wanted = need(fit_weight=fit_weight, price_weight=price_weight, budget_minor=budget)
    for entry in rank(wanted, [candidate(1, 12.0, 5000), candidate(2, 30.0, 0)]):
        assert entry.score is None or 0.0 <= entry.score <= 1.0


def test_targets_must_name_a_reading_and_be_in_order() -> None:
    with pytest.raises(ValidationError, match="there is no reading"):
        Target(reading="loudness")
    with pytest.raises(ValidationError, match="before it begins"):
        Target(reading="crest_db", low=5, high=1)
    with pytest.raises(ValidationError, match="needs one of its parts"):
        Target(reading="regions_db", low=1)
    assert all(sound.as_sound().targets for sound in SOUNDS)


CLOCK = Control(key="k", name="Gain", scale="clock")
SWITCH = Control(key="s", name="Pickup", scale="labels", labels=("bridge", "both", "neck"))


@pytest.mark.parametrize(
    ("control", "text", "position"),
    [(CLOCK, "7:00", 0.0), (CLOCK, "12:00", 0.5), (CLOCK, "5:00", 1.0), (CLOCK, "2:30", 0.75), (CLOCK, "7", 0.7),
     (CLOCK, "35 %", 0.35), (CLOCK, "4,5", 0.45), (SWITCH, "Both", 0.5)],
)  # fmt: skip
def test_a_position_is_read_as_people_write_it(control: Control, text: str, position: float) -> None:
    assert read_position(control, text) == pytest.approx(position)


@pytest.mark.parametrize("text", ["6:00", "11", "120 %", "loud", "", "12:75", "-1"])
def test_a_position_that_the_knob_does_not_have_is_refused(text: str) -> None:
    with declines(Invalid, "bad_position"):
        read_position(CLOCK, text)


@given(st.integers(0, 120))
def test_a_clock_face_is_shown_as_it_was_typed(five_minutes: int) -> None:
    text = show_position(CLOCK, five_minutes / 120)
    assert read_position(CLOCK, text) == pytest.approx(five_minutes / 120)


def test_prices_and_percent_are_shown_with_their_units() -> None:
    assert show_price(115000, "EUR") == "1,150.00 EUR"
    assert show_position(Control(key="p", name="P", scale="percent"), 0.55) == "55 %"
    assert show_position(Control(key="p", name="P"), 0.45) == "4.5"


@pytest.mark.parametrize(
    ("names", "contenders", "tests"),
    [
        (["alder - soft chords.wav", "alder - riff.flac", "birk - soft chords.mp3", "birk - riff.wav"], 2, 2),
        (["Alder/riff.wav", "Alder/lead.wav", "Birk/riff.wav", "Birk/lead.wav"], 2, 2),
        (["2024_alder_riff_take1.wav", "2024_birk_riff_take2.wav", "2024_alder_lead_take3.wav"], 2, 2),
        (["alder.wav", "birk.wav"], 2, 1),
    ],
)
def test_rows_and_columns_are_found_in_names(names: list[str], contenders: int, tests: int) -> None:
    grid = find_grid(names)
    assert (len(grid.contenders), len(grid.tests)) == (contenders, tests)
    assert len(set(grid.cells)) == len(names)


@given(st.lists(st.text(max_size=30), min_size=1, max_size=12))
def test_any_names_give_one_cell_each(names: list[str]) -> None:
    grid = find_grid(names)
    assert len(set(grid.cells)) == len(names)


def test_a_file_goes_to_the_cell_its_name_speaks_for() -> None:
    found = place("Recordings/ALDER_softchords_03.wav", ["Alder", "Birk"], ["Soft chords", "Chords", "Riff"])
    assert (found.contender, found.test) == (0, 0)
    assert place("holiday.wav", ["Alder", "Birk"], ["Riff", "Lead"]).contender is None


def test_choosing_needs_no_numerical_library() -> None:
    code = "import cata.core.choose.ranking, cata.core.names, sys; sys.exit('numpy' in sys.modules)"
    assert run([sys.executable, "-c", code], check=False).returncode == 0
